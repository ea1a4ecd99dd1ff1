import { and, eq } from 'drizzle-orm';
import { fold } from '../../core/choose';
import { clips } from '../cards/tables';
import { MARKS } from './catalogue';
import type { InJob } from './ports';
import type { RowChange, Rows, TableName } from './rows';
import {
  binned,
  bins,
  keyworded,
  keywordRules,
  keywords,
  ranges,
  rolling,
  searches,
  together,
  withheld,
} from './tables';

/** What people gave to the clips of the job. */
export interface Marks {
  keywords: Rows['keywords'][];
  bins: Rows['bins'][];
  searches: Rows['searches'][];
  rules: Rows['rules'][];
  /** What people said of clips that ran at once, and those clips by its id. */
  together: Rows['together'][];
  rolling: ReadonlyMap<string, Rows['rolling'][]>;
  /** By clip: its ranges by their beginning, its keywords with who gave them, the bins it stands in. */
  ranges: ReadonlyMap<string, Rows['ranges'][]>;
  keyworded: ReadonlyMap<string, Rows['keyworded'][]>;
  binned: ReadonlyMap<string, string[]>;
  /** Ids of keywords by clips that no rule gives them. */
  withheld: ReadonlyMap<string, string[]>;
  /** Folded names and notes of its ranges, of clips that have any. */
  noted: ReadonlyMap<string, string[]>;
}

/** What reading them takes. */
export type MarksPorts = Pick<InJob, 'db' | 'database' | 'viewCache' | 'job'>;

const keptUnder = ({ job }: Pick<InJob, 'job'>): string => `marks of ${job}`;

export const marksOf = (runtime: MarksPorts): Promise<Marks> =>
  runtime.viewCache.get(keptUnder(runtime), () => loadMarks(runtime), MARKS);

/** Tells that marks have changed by some rows. What is held of them is changed alike: to ask for it anew takes long where it is very much. */
export function marksChanged(runtime: InJob, changes: readonly RowChange[]): void {
  const held = runtime.viewCache.peek<Marks>(keptUnder(runtime));
  runtime.events.changed('choose');
  const after = held?.then((marks) => applied(marks, changes));
  if (after) runtime.viewCache.put(keptUnder(runtime), after, MARKS);
}

/** Marks after some rows came, went or became others. */
export function applied(marks: Marks, changes: readonly RowChange[]): Marks {
  const touches = (table: TableName): boolean => changes.some((c) => c.table === table);
  const next = {
    keywords: [...marks.keywords],
    bins: [...marks.bins],
    searches: [...marks.searches],
    rules: [...marks.rules],
    // What follows from these is found out anew only where they are others.
    together: touches('together') ? [...marks.together] : marks.together,
    rolling: touches('rolling') ? new Map(marks.rolling) : marks.rolling,
    ranges: new Map(marks.ranges),
    keyworded: new Map(marks.keyworded),
    binned: new Map(marks.binned),
    noted: new Map(marks.noted),
    withheld: new Map(marks.withheld),
  };
  const touched = new Set<string>();
  for (const c of changes)
    switch (c.table) {
      case 'keywords':
      case 'bins':
      case 'searches':
        replace<{ id: string; name: string }>(next[c.table], c.before, c.after);
        break;
      case 'rules':
        replace(next.rules, c.before, c.after);
        break;
      case 'together':
        replace(next.together, c.before, c.after);
        break;
      case 'rolling':
        put(
          next.rolling as Map<string, Rows['rolling'][]>,
          (c.before ?? c.after)!.together,
          c.before,
          c.after,
          (m) => m.clip,
        );
        break;
      case 'withheld':
        put(
          next.withheld,
          c.before?.clip ?? c.after!.clip,
          c.before?.keyword ?? null,
          c.after?.keyword ?? null,
          String,
        );
        break;
      case 'ranges':
        put(next.ranges, c.before?.clip ?? c.after!.clip, c.before, c.after, (r) => r.id);
        touched.add(c.before?.clip ?? c.after!.clip);
        break;
      case 'keyworded':
        put(next.keyworded, c.before?.clip ?? c.after!.clip, c.before, c.after, keyOf);
        break;
      case 'stringOuts':
      case 'strung':
        // They are no marks of clips.
        break;
      case 'binned':
        put(
          next.binned,
          c.before?.clip ?? c.after!.clip,
          c.before?.bin ?? null,
          c.after?.bin ?? null,
          String,
        );
        break;
    }
  for (const list of [next.bins, next.searches]) list.sort(byName);
  next.keywords.sort(asListed);
  for (const clip of touched) {
    next.ranges.get(clip)?.sort(inOrder);
    const words = notesOf(next.ranges.get(clip) ?? []);
    if (words.length > 0) next.noted.set(clip, words);
    else next.noted.delete(clip);
  }
  return next;
}

const keyOf = (k: Rows['keyworded']): string => `${k.keyword} ${k.range} ${k.by}`;

function replace<T extends { id: string }>(list: T[], before: T | null, after: T | null): void {
  const at = list.findIndex((x) => x.id === (before ?? after)!.id);
  if (after === null) {
    if (at >= 0) list.splice(at, 1);
  } else if (at >= 0) list[at] = after;
  else list.push(after);
}

/** In a list of a clip, which is made anew: who holds the one before goes on with that. */
function put<T>(
  of: Map<string, T[]>,
  clip: string,
  before: T | null,
  after: T | null,
  key: (t: T) => string,
): void {
  const gone = key((before ?? after)!);
  const left = (of.get(clip) ?? []).filter((x) => key(x) !== gone);
  if (after !== null) left.push(after);
  if (left.length > 0) of.set(clip, left);
  else of.delete(clip);
}

const inOrder = (a: Rows['ranges'], b: Rows['ranges']): number =>
  a.from - b.from || a.to - b.to || (a.id < b.id ? -1 : 1);
const notesOf = (list: readonly Rows['ranges'][]): string[] =>
  list.flatMap((r) => [r.name, r.note].filter(Boolean).map(fold));

const natural = new Intl.Collator('en', { numeric: true });
const byName = (a: { name: string; id: string }, b: { name: string; id: string }): number =>
  natural.compare(a.name, b.name) || (a.id < b.id ? -1 : 1);
/** As keywords are listed: those that were put somewhere in their order, then the others by name. */
export const asListed = (a: Rows['keywords'], b: Rows['keywords']): number =>
  a.place === b.place ? byName(a, b) : (a.place ?? Infinity) - (b.place ?? Infinity);

function collect<T>(list: readonly T[], key: (t: T) => string): Map<string, T[]> {
  const found = new Map<string, T[]>();
  for (const one of list) {
    const there = found.get(key(one));
    if (there) there.push(one);
    else found.set(key(one), [one]);
  }
  return found;
}

/** What people said of clips that ran at once, and which keywords they took from clips that rules give them to. */
async function loadSaid(
  db: InJob['db'],
  job: string,
): Promise<Pick<Marks, 'together' | 'rolling' | 'withheld'>> {
  const members = await db
    .select({ together: rolling.together, clip: rolling.clip, offset: rolling.offset })
    .from(rolling)
    .innerJoin(together, and(eq(together.id, rolling.together), eq(together.job, job)));
  const held = await db
    .select({ clip: withheld.clip, keyword: withheld.keyword })
    .from(withheld)
    .innerJoin(keywords, and(eq(keywords.id, withheld.keyword), eq(keywords.job, job)));
  return {
    together: await db.select().from(together).where(eq(together.job, job)).orderBy(together.id),
    rolling: collect(members, (m) => m.together),
    withheld: new Map(
      [...collect(held, (h) => h.clip)].map(([clip, list]) => [clip, list.map((h) => h.keyword)]),
    ),
  };
}

/** Asks the database for them. */
export async function loadMarks({ db, database, job }: Omit<MarksPorts, 'viewCache'>): Promise<Marks> {
  const mine = eq(clips.job, job);
  const given = await database.texts(
    db
      .select({
        clip: keyworded.clip,
        keyword: keyworded.keyword,
        range: keyworded.range,
        by: keyworded.by,
      })
      .from(keyworded)
      .innerJoin(clips, and(eq(clips.id, keyworded.clip), mine))
      .getSQL(),
  );
  const spans = await database.texts(
    db
      .select({
        id: ranges.id,
        clip: ranges.clip,
        kind: ranges.kind,
        from: ranges.from,
        to: ranges.to,
        name: ranges.name,
        note: ranges.note,
      })
      .from(ranges)
      .innerJoin(clips, and(eq(clips.id, ranges.clip), mine))
      .getSQL(),
  );
  const standing = await database.texts(
    db
      .select({ bin: binned.bin, clip: binned.clip })
      .from(binned)
      .innerJoin(bins, and(eq(bins.id, binned.bin), eq(bins.job, job)))
      .getSQL(),
  );
  // Ids that stand in very many rows are one text each: looked at again and again, they are compared at once.
  const texts = new Map<string, string>();
  const same = (text: string): string => {
    const known = texts.get(text);
    if (known === undefined) texts.set(text, text);
    return known ?? text;
  };
  const inBins = new Map<string, string[]>();
  for (const [bin, clip] of standing) inBins.set(clip!, [...(inBins.get(clip!) ?? []), same(bin!)]);
  const byClip = collect(
    spans.map(([id, clip, kind, from, to, name, note]) => ({
      id: id!,
      clip: clip!,
      kind: kind as Rows['ranges']['kind'],
      from: Number(from),
      to: Number(to),
      name: name ?? '',
      note: note ?? '',
    })),
    (r) => r.clip,
  );
  const noted = new Map<string, string[]>();
  for (const [clip, list] of byClip) {
    list.sort(inOrder);
    const words = notesOf(list);
    if (words.length > 0) noted.set(clip, words);
  }
  return {
    keywords: (await db.select().from(keywords).where(eq(keywords.job, job))).sort(asListed),
    bins: (await db.select().from(bins).where(eq(bins.job, job))).sort(byName),
    searches: (await db.select().from(searches).where(eq(searches.job, job))).sort(byName),
    rules: await db.select().from(keywordRules).where(eq(keywordRules.job, job)).orderBy(keywordRules.id),
    ...(await loadSaid(db, job)),
    ranges: byClip,
    keyworded: collect(
      given.map(([clip, keyword, range, by]) => ({
        clip: clip!,
        keyword: same(keyword!),
        range: range ?? '',
        by: same(by!),
      })),
      (k) => k.clip,
    ),
    binned: inBins,
    noted,
  };
}
