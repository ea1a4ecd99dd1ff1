import {
  type ChooseView,
  type ClipMarks,
  countOf,
  type FindIds,
  type FindQuery,
  type Found,
  type RangesFound,
  type RangesQuery,
  type SearchField,
  searchField,
  type Tile,
  type Wanted,
  withInside,
} from '../../core/choose';
import { shownPath } from '../../core/platform/names';
import { formatRate } from '../../core/platform/timecode/rate';
import { seconds } from '../../core/platform/timecode/timecode';
import { Refused } from '../platform/errors';
import { ANY, clipsOfJob, columnOf, pairsOf, type Row, rowsById } from './catalogue';
import { type Marks, marksOf } from './marks';
import { findingsOf } from './findings';
import type { InJob } from './ports';
import { groupsOf, nameOfGroup, rollingView } from './rolling';
import { faultOf, said } from './rules';
import { filtered, understoodIn } from './search';
import { playPart, stringOutViews } from './stringOuts';

/** Clips that are wanted, in their order, without regard to groups. */
export async function listed(runtime: InJob, { query, bin, sort }: Wanted): Promise<Row[]> {
  const compiled = await understoodIn(runtime, query);
  return runtime.viewCache.get(
    `found in ${runtime.job} ${JSON.stringify([query, bin, sort])}`,
    async () => {
      const marks = await marksOf(runtime);
      const rows = inBin(await clipsOfJob(runtime), marks, bin);
      const found = query.trim() === '' ? rows : await filtered(runtime, rows, marks, compiled);
      return sort ? sorted(runtime, found, sort) : found;
    },
    ANY,
  );
}

function inBin(rows: Row[], marks: Marks, bin: string | null): Row[] {
  if (bin === null) return rows;
  if (bin === 'none') return rows.filter((r) => !marks.binned.has(r.id));
  const inside = new Set(withInside(marks.bins, bin));
  return rows.filter((r) => marks.binned.get(r.id)?.some((b) => inside.has(b)));
}

/** By a field: clips that state it first, each way, the others behind them in shooting order. */
async function sorted(
  runtime: InJob,
  rows: readonly Row[],
  sort: NonNullable<Wanted['sort']>,
): Promise<Row[]> {
  const field = searchField(sort.by);
  if (!field) throw new Refused(`Clips cannot be sorted by “${sort.by}”.`);
  const keyOf = await sortKeys(runtime, field);
  const way = sort.down ? -1 : 1;
  return rows
    .map((row) => ({ row, key: keyOf(row) }))
    .sort(({ key: a }, { key: b }) => {
      if (a === null || b === null) return Number(a === null) - Number(b === null);
      return a < b ? -way : a > b ? way : 0;
    })
    .map((r) => r.row);
}

async function sortKeys(runtime: InJob, field: SearchField): Promise<(row: Row) => string | number | null> {
  if (field.fact !== null) {
    const column = await columnOf(runtime, field.fact);
    return (row) => {
      const stated = column.get(row.number);
      return stated ? (stated.number ?? stated.words) : null;
    };
  }
  switch (field.word) {
    case 'card':
    case 'camera':
    case 'day':
    case 'kind': {
      const word = field.word;
      return (row) => row[word];
    }
    case 'pair': {
      const pairs = await pairsOf(runtime);
      return (row) => pairs.get(row.id) ?? null;
    }
    default:
      return (row) => row.sort;
  }
}

type Group = { name: string; rows: Row[] };
const natural = new Intl.Collator('en', { numeric: true });

async function grouped(runtime: InJob, rows: Row[], by: Wanted['by']): Promise<Group[]> {
  if (by === 'none') return [{ name: '', rows }];
  const marks = await marksOf(runtime);
  const rolling = by === 'rolling' ? await rollingNames(runtime) : new Map<string, string>();
  const keywords = new Map(marks.keywords.map((k) => [k.id, k.name]));
  const bins = new Map(marks.bins.map((b) => [b.id, b.name]));
  const groups = new Map<string, Row[]>();
  const none: Row[] = [];
  for (const row of rows) {
    const names = new Set(namesOf(row, by, { marks, keywords, bins, rolling }));
    if (names.size === 0) none.push(row);
    for (const name of names) {
      const there = groups.get(name);
      if (there) there.push(row);
      else groups.set(name, [row]);
    }
  }
  const list = [...groups].map(([name, of]) => ({ name, rows: of }));
  list.sort((a, b) => natural.compare(a.name, b.name));
  return none.length > 0 ? [...list, { name: '', rows: none }] : list;
}

function namesOf(
  row: Row,
  by: Exclude<Wanted['by'], 'none'>,
  of: {
    marks: Marks;
    keywords: ReadonlyMap<string, string>;
    bins: ReadonlyMap<string, string>;
    rolling: ReadonlyMap<string, string>;
  },
): string[] {
  switch (by) {
    case 'day':
      return [`Day ${row.day}`];
    case 'camera':
      return [`Camera ${row.camera}`];
    case 'card':
      return [row.card];
    case 'rate':
      return row.brief.rate ? [`${formatRate(row.brief.rate)} fps`] : [];
    case 'keyword':
      return (of.marks.keyworded.get(row.id) ?? []).flatMap((k) => of.keywords.get(k.keyword) ?? []);
    case 'bin':
      return (of.marks.binned.get(row.id) ?? []).flatMap((b) => of.bins.get(b) ?? []);
    case 'rolling':
      return [of.rolling.get(row.id) ?? []].flat();
  }
}

/** What the group is called that a clip rolls in. */
async function rollingNames(runtime: InJob): Promise<ReadonlyMap<string, string>> {
  const rows = await rowsById(runtime);
  return new Map(
    [...(await groupsOf(runtime))].map(([clip, group]) => [clip, nameOfGroup(group, rows)] as const),
  );
}

/** What is wanted: how much it is, its groups, and some of its clips as they are shown. */
export async function findClips(runtime: InJob, query: FindQuery): Promise<Found> {
  const rows = await listed(runtime, query);
  const marks = await marksOf(runtime);
  const groups = await grouped(runtime, rows, query.by);
  const all = groups.flatMap((g) => g.rows);
  const shown = all.slice(query.offset, query.offset + query.limit);
  return {
    clips: rows.length,
    of: (await clipsOfJob(runtime)).length,
    seconds: rows.reduce((n, r) => n + (r.brief.seconds ?? 0), 0),
    groups: groups.map((g) => ({ name: g.name, clips: g.rows.length })),
    // How many there are is asked for by itself, and needs no more.
    tiles: shown.length === 0 ? [] : await tilesOf(runtime, shown, marks),
    lengths: query.lengths ? all.map((r) => r.brief.seconds) : null,
  };
}

async function tilesOf(runtime: InJob, rows: readonly Row[], marks: Marks): Promise<Tile[]> {
  const [pairs, findings] = [await pairsOf(runtime), await findingsOf(runtime)];
  return rows.map((row) =>
    tileOf(row, marks, { pair: pairs.get(row.id) ?? 'none', found: findings.get(row.id) ?? [] }),
  );
}

function tileOf(
  row: Row,
  marks: Marks,
  { pair, found }: { pair: Tile['pair']; found: Tile['ranges'] },
): Tile {
  const { id, card, camera, day, kind, state, filmstrip, brief } = row;
  return {
    ...{ id, card, camera, day, kind, state, filmstrip, pair },
    name: shownPath(row.name),
    worst: worstOf(row, pair),
    start: brief.start,
    seconds: brief.seconds,
    rate: brief.rate,
    frames: countOf({ ...brief, kind })?.frames ?? null,
    keywords: keywordsOf(marks, id)(''),
    ranges: [...rangesOf(marks, id), ...found],
  };
}

/** Ids of keywords of a clip by its ranges; by nothing those of all of it. */
function keywordsOf(marks: Marks, clip: string): (range: string) => string[] {
  const given = marks.keyworded.get(clip) ?? [];
  return (range) => [...new Set(given.filter((k) => k.range === range).map((k) => k.keyword))];
}

function rangesOf(marks: Marks, clip: string): Tile['ranges'] {
  const of = keywordsOf(marks, clip);
  return (marks.ranges.get(clip) ?? []).map((r) => ({ ...r, keywords: of(r.id) }));
}

function worstOf({ fault, brief, notes }: Row, pair: Tile['pair']): Tile['worst'] {
  if (fault !== null || pair === 'lost' || pair === 'mismatched') return 'stop';
  return brief.looks.length > 0 || notes.length > 0 || pair === 'unproven' ? 'look' : null;
}

/** What is said of one clip. */
export async function chosenClip(runtime: InJob, id: string): Promise<ClipMarks> {
  const marks = await marksOf(runtime);
  const given = marks.keyworded.get(id) ?? [];
  const own = new Set(given.filter((k) => k.by === 'person').map((k) => k.keyword));
  const keywords = keywordsOf(marks, id)('');
  const found = (await findingsOf(runtime)).get(id) ?? [];
  return {
    keywords,
    ranges: [...rangesOf(marks, id), ...found],
    rolling: await rollingView(runtime, id),
    ruled: keywords.filter((k) => !own.has(k)),
  };
}

/** Ranges of what is wanted: those of people, circled takes and findings. */
export async function findRanges(runtime: InJob, query: RangesQuery): Promise<RangesFound> {
  const marks = await marksOf(runtime);
  const [pairs, findings] = [await pairsOf(runtime), await findingsOf(runtime)];
  const kinds = new Set(query.kinds);
  const all = (await listed(runtime, query)).flatMap((row) =>
    [...(marks.ranges.get(row.id) ?? []), ...(findings.get(row.id) ?? [])]
      .filter((range) => kinds.size === 0 || kinds.has(range.kind))
      .sort((a, b) => a.from - b.from)
      .map((range) => ({ row, range })),
  );
  return {
    ranges: all.length,
    seconds: all.reduce((n, { row, range }) => {
      const rate = countOf({ ...row.brief, kind: row.kind })?.rate;
      return n + (rate ? seconds(range.to - range.from, rate) : 0);
    }, 0),
    parts: all.slice(query.offset, query.offset + query.limit).map(({ row, range }) => ({
      ...playPart(range, row, pairs.get(row.id)),
      ...{ kind: range.kind, called: range.name, note: range.note },
      keywords: keywordsOf(marks, row.id)(range.id),
    })),
  };
}

/** Ids of what is wanted, in its order: a clip that stands in several groups is there as often. */
export const findIds = async (runtime: InJob, wanted: FindIds): Promise<string[]> =>
  (await grouped(runtime, await listed(runtime, wanted), wanted.by))
    .flatMap((g) => g.rows.map((r) => r.id))
    .slice(wanted.offset, wanted.offset + wanted.limit);

/** Keywords, bins and saved searches with how many clips each has. */
export const chooseView = (runtime: InJob): Promise<ChooseView> =>
  runtime.viewCache.get(`choose ${runtime.job}`, () => loadView(runtime), ANY);

async function loadView(runtime: InJob): Promise<ChooseView> {
  const rows = await clipsOfJob(runtime);
  const marks = await marksOf(runtime);
  const here = new Set(rows.map((r) => r.id));
  const worded = new Map<string, Set<string>>();
  for (const [clip, given] of marks.keyworded)
    if (here.has(clip)) for (const { keyword } of given) add(worded, keyword, clip);
  const standing = new Map<string, Set<string>>();
  for (const [clip, of] of marks.binned) if (here.has(clip)) for (const bin of of) add(standing, bin, clip);
  const searches: ChooseView['searches'] = [];
  for (const { id, name, query } of marks.searches)
    searches.push({ id, name, query, clips: await amountOf(runtime, query) });
  return {
    clips: rows.length,
    unbinned: rows.filter((r) => !marks.binned.has(r.id)).length,
    keywords: marks.keywords.map(({ id, name, family, hotkey }) => ({
      ...{ id, name, family, hotkey },
      clips: worded.get(id)?.size ?? 0,
    })),
    bins: marks.bins.map(({ id, parent, name, label, note }) => ({
      ...{ id, parent, name, label, note },
      clips: new Set(withInside(marks.bins, id).flatMap((b) => [...(standing.get(b) ?? [])])).size,
    })),
    searches,
    rules: ruleViews(marks, here),
    stringOuts: await stringOutViews(runtime, await rowsById(runtime)),
  };
}

function ruleViews(marks: Marks, here: ReadonlySet<string>): ChooseView['rules'] {
  const [gave, words] = [new Map<string, Set<string>>(), new Map<string, Set<string>>()];
  for (const [clip, given] of marks.keyworded)
    if (here.has(clip))
      for (const { by, keyword } of given)
        if (by !== 'person') {
          add(gave, by, clip);
          add(words, by, keyword);
        }
  return marks.rules.map(({ job: _, ...rule }) => ({
    ...rule,
    says: said(rule),
    clips: gave.get(rule.id)?.size ?? 0,
    keywords: words.get(rule.id)?.size ?? 0,
    fault: faultOf(rule),
  }));
}

/** How many clips a saved search has; null where it is not understood. */
async function amountOf(runtime: InJob, query: string): Promise<number | null> {
  try {
    return (await listed(runtime, { query, bin: null, by: 'none', sort: null })).length;
  } catch (e) {
    if (e instanceof Refused) return null;
    throw e;
  }
}

function add(to: Map<string, Set<string>>, key: string, clip: string): void {
  const there = to.get(key);
  if (there) there.add(clip);
  else to.set(key, new Set([clip]));
}
