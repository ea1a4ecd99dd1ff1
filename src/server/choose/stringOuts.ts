import { randomUUID } from 'node:crypto';
import { and, eq, inArray } from 'drizzle-orm';
import {
  type Change,
  countOf,
  duplicates,
  placesBetween,
  type PlayPart,
  type RangeView,
  spanFault,
  type StringOutDetail,
  type StringOutView,
} from '../../core/choose';
import { shownPath } from '../../core/platform/names';
import type { PairState } from '../../core/proxies';
import type { Rate } from '../../core/platform/timecode/rate';
import { seconds } from '../../core/platform/timecode/timecode';
import { plural } from '../../core/platform/words';
import { clips } from '../cards/tables';
import { shown } from '../facts/tables';
import { among } from '../platform/db/among';
import { Clash, NotFound, Refused } from '../platform/errors';
import type { Writer } from '../platform/db/transaction';
import { pairsOf, type Row, rowsById } from './catalogue';
import { findingsOf } from './findings';
import { type Marks, marksOf } from './marks';
import { refuseOther } from './known';
import type { InJob } from './ports';
import type { Planned, RowChange, Rows } from './rows';
import { stringOuts, strung } from './tables';

type Of<D extends Change['do']> = Extract<Change, { do: D }>;
type Part = Rows['strung'];
type Wanted = { clip: string; from: number | null; to: number | null };

async function listIn(tx: Writer, job: string, id: string): Promise<Rows['stringOuts']> {
  const [row] = await tx
    .select()
    .from(stringOuts)
    .where(and(eq(stringOuts.job, job), eq(stringOuts.id, id)));
  if (!row) throw new NotFound('This string-out was removed meanwhile.');
  return row;
}

const partsOf = (tx: Writer, list: string): Promise<Part[]> =>
  tx.select().from(strung).where(eq(strung.list, list)).orderBy(strung.place, strung.id);

interface Stretches {
  spans: { clip: string; from: number; to: number }[];
  /** Names of whole clips among others that are left out: stills, and those whose length is not known. */
  left: string[];
}

/** Stretches that are wanted, each inside its clip. Throws Refused with the clip where one is not, and where nothing that is wanted runs. */
async function stretches(tx: Writer, job: string, wanted: readonly Wanted[]): Promise<Stretches> {
  const rows = await tx
    .select({ clip: shown.clip, name: shown.name, kind: clips.kind, brief: shown.brief })
    .from(clips)
    .innerJoin(shown, eq(shown.clip, clips.id))
    .where(and(eq(clips.job, job), among(clips.id, [...new Set(wanted.map((w) => w.clip))])));
  const known = new Map(rows.map((r) => [r.clip, r]));
  const out: Stretches = { spans: [], left: [] };
  for (const { clip, from, to } of wanted) {
    const of = known.get(clip);
    if (!of) throw new NotFound('One of these clips is no longer in the job.');
    const frames = (of.brief && runs({ kind: of.kind, brief: of.brief })?.frames) ?? null;
    const span = { from: from ?? 0, to: to ?? frames ?? 0 };
    const fault = of.kind === 'still' ? 'a still has no length' : spanFault(span, frames);
    if (fault === null) out.spans.push({ clip, ...span });
    else if (frames === null && from === null && wanted.length > 1) out.left.push(shownPath(of.name));
    else throw new Refused(`${of.name} cannot be in a string-out: ${fault}.`, { next: 'Leave it out.' });
  }
  if (out.spans.length === 0 && wanted.length > 0)
    throw new Refused('None of these clips runs: they are stills, or their length is not known.');
  return out;
}

/** Names of clips that are said to be left out. */
const NAMED = 3;

/** What was left out of a string-out, for the end of a line. */
function leftOut(names: readonly string[]): string {
  if (names.length === 0) return '';
  const more = names.length - NAMED;
  const named = names.slice(0, NAMED).join(', ');
  return `; left out, as stills or of unknown length: ${named}${more > 0 ? ` and ${plural(more, 'other')}` : ''}`;
}

/** Changes that bring parts to a place of a list: `moving` are taken out of where they are. */
function inserted(
  list: readonly Part[],
  before: string | null,
  fresh: readonly Part[],
  moving: boolean,
): RowChange[] {
  const ids = new Set(fresh.map((p) => p.id));
  const rest = list.filter((p) => !ids.has(p.id));
  const found = before === null ? -1 : rest.findIndex((p) => p.id === before);
  const at = found < 0 ? rest.length : found;
  const places = placesBetween(rest[at - 1]?.place ?? null, rest[at]?.place ?? null, fresh.length);
  const changed = (old: Part | null, after: Part): RowChange => ({ table: 'strung', before: old, after });
  if (places) return fresh.map((p, i) => changed(moving ? p : null, { ...p, place: places[i]! }));
  const known = new Map(list.map((p) => [p.id, p]));
  return [...rest.slice(0, at), ...fresh, ...rest.slice(at)].map((p, i) =>
    changed(known.get(p.id) ?? null, { ...p, place: i + 1 }),
  );
}

const newParts = (list: string, spans: readonly { clip: string; from: number; to: number }[]): Part[] =>
  spans.map((s) => ({ id: randomUUID(), list, ...s, place: 0 }));

export async function addStringOut(
  tx: Writer,
  job: string,
  { name, items }: Of<'addStringOut'>,
): Promise<Planned> {
  const list = { id: randomUUID(), job, name };
  const { spans, left } = await stretches(tx, job, items);
  const parts = newParts(list.id, spans);
  return {
    rows: [{ table: 'stringOuts', before: null, after: list }, ...inserted([], null, parts, false)],
    text: `String-out ${name} made${parts.length > 0 ? ` of ${plural(parts.length, 'part')}` : ''}${leftOut(left)}`,
  };
}

export async function addToStringOut(
  tx: Writer,
  job: string,
  change: Of<'addToStringOut'>,
): Promise<Planned> {
  const list = await listIn(tx, job, change.list);
  const { spans, left } = await stretches(tx, job, change.items);
  const parts = newParts(list.id, spans);
  return {
    rows: inserted(await partsOf(tx, list.id), change.before, parts, false),
    text: `${plural(parts.length, 'part')} added to the string-out ${list.name}${leftOut(left)}`,
  };
}

export async function moveInStringOut(
  tx: Writer,
  job: string,
  change: Of<'moveInStringOut'>,
): Promise<Planned> {
  const list = await listIn(tx, job, change.list);
  const all = await partsOf(tx, list.id);
  const moved = all.filter((p) => change.items.includes(p.id));
  if (moved.length === 0) throw new NotFound('These parts were removed meanwhile.');
  return {
    rows: inserted(all, change.before, moved, true),
    text: `${plural(moved.length, 'part')} of the string-out ${list.name} moved`,
  };
}

async function partsIn(
  tx: Writer,
  job: string,
  ids: readonly string[],
): Promise<{ part: Part; name: string }[]> {
  const rows = await tx
    .select({ part: strung, name: stringOuts.name })
    .from(strung)
    .innerJoin(stringOuts, and(eq(stringOuts.id, strung.list), eq(stringOuts.job, job)))
    .where(inArray(strung.id, [...ids]));
  if (rows.length === 0) throw new NotFound('This part was removed from its string-out meanwhile.');
  return rows;
}

export async function trimInStringOut(
  tx: Writer,
  job: string,
  change: Of<'trimInStringOut'>,
): Promise<Planned> {
  const [found] = await partsIn(tx, job, [change.item]);
  const { part, name } = found!;
  if (part.from !== change.was.from || part.to !== change.was.to)
    throw new Clash('This part was trimmed meanwhile. Nothing was changed.', {
      next: 'Look at it, and trim it again.',
    });
  const { spans } = await stretches(tx, job, [{ clip: part.clip, from: change.from, to: change.to }]);
  return {
    rows: [{ table: 'strung', before: part, after: { ...part, ...spans[0]! } }],
    text: `A part of the string-out ${name} trimmed`,
  };
}

export async function splitInStringOut(
  tx: Writer,
  job: string,
  { item, at }: Of<'splitInStringOut'>,
): Promise<Planned> {
  const [found] = await partsIn(tx, job, [item]);
  const { part, name } = found!;
  if (at <= part.from || at >= part.to)
    throw new Refused('A part is split between two of its frames: go to a frame inside it.');
  const all = await partsOf(tx, part.list);
  const next = all[all.findIndex((p) => p.id === part.id) + 1]?.id ?? null;
  const second = { ...part, id: randomUUID(), from: at };
  const changes = inserted(all, next, [second], false);
  // Where there was no room for it the first may have another place, too.
  const first =
    changes.flatMap((c) => (c.table === 'strung' && c.after?.id === part.id ? c.after : []))[0] ?? part;
  return {
    rows: [
      ...changes.filter((c) => c.table !== 'strung' || c.after?.id !== part.id),
      { table: 'strung', before: part, after: { ...first, to: at } },
    ],
    text: `A part of the string-out ${name} split`,
  };
}

export async function removeFromStringOut(
  tx: Writer,
  job: string,
  { items }: Of<'removeFromStringOut'>,
): Promise<Planned> {
  const found = await partsIn(tx, job, items);
  return {
    rows: found.map(({ part }): RowChange => ({ table: 'strung', before: part, after: null })),
    text: `${plural(found.length, 'part')} taken out of the string-out ${found[0]!.name}; the clips stay in the job`,
  };
}

export async function renameStringOut(
  tx: Writer,
  job: string,
  change: Of<'renameStringOut'>,
): Promise<Planned> {
  const before = await listIn(tx, job, change.list);
  refuseOther('string-out', { set: { name: change.name }, was: { name: change.was }, now: before });
  return {
    rows: [{ table: 'stringOuts', before, after: { ...before, name: change.name } }],
    text: `String-out ${before.name} renamed to ${change.name}`,
  };
}

export async function removeStringOut(
  tx: Writer,
  job: string,
  change: Of<'removeStringOut'>,
): Promise<Planned> {
  const list = await listIn(tx, job, change.list);
  const parts = await partsOf(tx, list.id);
  return {
    rows: [
      ...parts.map((p): RowChange => ({ table: 'strung', before: p, after: null })),
      { table: 'stringOuts', before: list, after: null },
    ],
    text: `String-out ${list.name} removed; its clips stay in the job`,
  };
}

/** In what stretches of a clip are counted that runs: moving pictures, or sound. Null of stills, and where its length is not known. */
const runs = ({ kind, brief }: Pick<Row, 'kind' | 'brief'>): { rate: Rate; frames: number } | null =>
  kind === 'still' ? null : countOf({ ...brief, kind });

/** Stretches of clips that were found: whole clips, or the selects and circled takes of those that run. */
function partsOfFound(
  rows: readonly Row[],
  { marks, findings }: { marks: Marks; findings: ReadonlyMap<string, RangeView[]> },
  what: 'clips' | 'selects',
): Wanted[] {
  return what === 'clips'
    ? rows.map((r) => ({ clip: r.id, from: null, to: null }))
    : rows
        .filter((r) => runs(r) !== null)
        .flatMap((r) =>
          [...(marks.ranges.get(r.id) ?? []), ...(findings.get(r.id) ?? [])]
            .filter((x) => x.kind === 'select' || x.kind === 'circled')
            .map(({ clip, from, to }) => ({ clip, from, to })),
        );
}

const secondsOf = (parts: readonly Part[], rows: ReadonlyMap<string, Row>): number =>
  parts.reduce((n, p) => {
    const row = rows.get(p.clip);
    const counted = row && runs(row);
    return n + (counted ? seconds(p.to - p.from, counted.rate) : 0);
  }, 0);

export async function stringOutViews(
  { db, job }: InJob,
  rows: ReadonlyMap<string, Row>,
): Promise<StringOutView[]> {
  const lists = await db
    .select()
    .from(stringOuts)
    .where(eq(stringOuts.job, job))
    .orderBy(stringOuts.name, stringOuts.id);
  const parts = await db
    .select()
    .from(strung)
    .where(
      inArray(
        strung.list,
        lists.map((l) => l.id),
      ),
    );
  return lists.map(({ id, name }) => {
    const mine = parts.filter((p) => p.list === id);
    return { id, name, items: mine.length, seconds: secondsOf(mine, rows) };
  });
}

/** A stretch of a clip as it is played. */
export function playPart(
  { id, clip, from, to }: { id: string; clip: string; from: number; to: number },
  { name, kind, brief }: Row,
  pair: PairState | undefined,
): PlayPart {
  const counted = countOf({ ...brief, kind });
  return {
    ...{ id, clip, from, to },
    name: shownPath(name),
    frames: counted?.frames ?? to,
    start: counted?.start ?? null,
    rate: counted?.rate ?? { num: 25, den: 1 },
    media: kind,
    // A browser plays most sound; what it does not is passed over.
    plays:
      pair === 'proven' || pair === 'unproven'
        ? 'proxy'
        : brief.playable || kind === 'sound'
          ? 'original'
          : null,
  };
}

/** A string-out with its parts in order; those of clips that are gone went with them. */
export async function stringOutDetail(runtime: InJob, id: string): Promise<StringOutDetail> {
  const list = await listIn(runtime.db, runtime.job, id);
  const rows = await rowsById(runtime);
  const pairs = await pairsOf(runtime);
  const parts = (await partsOf(runtime.db, id)).filter((p) => {
    const row = rows.get(p.clip);
    return row !== undefined && runs(row) !== null;
  });
  const twice = duplicates(parts);
  return {
    id,
    name: list.name,
    items: parts.length,
    seconds: secondsOf(parts, rows),
    parts: parts.map((p, i) => {
      const row = rows.get(p.clip)!;
      return { ...playPart(p, row, pairs.get(p.clip)), twice: twice[i]! };
    }),
  };
}

/** Items of a change with what it says is found in their place. */
export async function withFound(
  runtime: InJob,
  change: Change,
  listed: (wanted: NonNullable<Of<'addStringOut'>['found']>['wanted']) => Promise<Row[]>,
): Promise<Change> {
  if ((change.do !== 'addStringOut' && change.do !== 'addToStringOut') || !change.found) return change;
  const items = partsOfFound(
    await listed(change.found.wanted),
    { marks: await marksOf(runtime), findings: await findingsOf(runtime) },
    change.found.what,
  );
  if (items.length === 0)
    throw new Refused(
      change.found.what === 'selects' ? 'None of these clips has a select.' : 'No clip is shown here.',
    );
  return { ...change, items };
}
