import { randomUUID } from 'node:crypto';
import { eq, inArray } from 'drizzle-orm';
import {
  type Beside,
  type Change,
  fold,
  fromFirst,
  rollingTogether,
  type RollingView,
} from '../../core/choose';
import { shownPath } from '../../core/platform/names';
import { rate } from '../../core/platform/timecode/rate';
import { plural } from '../../core/platform/words';
import { clips } from '../cards/tables';
import { shown } from '../facts/tables';
import { requireJob } from '../jobs';
import { among } from '../platform/db/among';
import { Clash, Refused } from '../platform/errors';
import type { Writer } from '../platform/db/transaction';
import { clipsOfJob, columnOf, type Row, rowsById } from './catalogue';
import { clipsIn } from './known';
import { type Marks, marksOf } from './marks';
import type { InJob } from './ports';
import type { Planned, RowChange, Rows } from './rows';
import { rolling, soundChecks, together } from './tables';

type Of<D extends Change['do']> = Extract<Change, { do: D }>;
type Member = Rows['rolling'];

/** Clips that ran at the same time: as a person said, or as their timecodes and clocks say. */
export interface Group {
  /** Null while nobody confirmed it. */
  id: string | null;
  /** In the order of their beginnings. */
  clips: { id: string; offset: number; by: Beside['by'] | 'person' }[];
}

type Groups = ReadonlyMap<string, Group>;

/** Groups by what people said of them, for as long as that and the clips are the same. */
const found = new WeakMap<
  Marks['rolling'],
  { rows: Row[]; together: Marks['together']; groups: Promise<Groups> }
>();

/** The group of each clip that has one. */
export async function groupsOf(runtime: InJob): Promise<Groups> {
  const rows = await clipsOfJob(runtime);
  const marks = await marksOf(runtime);
  const known = found.get(marks.rolling);
  if (known?.rows === rows && known.together === marks.together) return known.groups;
  const groups = findGroups(runtime, rows, marks);
  found.set(marks.rolling, { rows, together: marks.together, groups });
  groups.catch(() => found.delete(marks.rolling));
  return groups;
}

async function findGroups(runtime: InJob, rows: Row[], marks: Marks): Promise<Groups> {
  const { dayStart } = await requireJob(runtime);
  const here = new Set(rows.map((r) => r.id));
  const groups: Group[] = [];
  const said = new Set<string>();
  const apart = new Map<string, Set<string>>();
  for (const { id, state } of marks.together) {
    const members = (marks.rolling.get(id) ?? []).filter((m) => here.has(m.clip));
    if (state === 'confirmed' && members.length > 1) {
      for (const m of members) said.add(m.clip);
      const clips = members.map((m) => ({ id: m.clip, offset: m.offset, by: 'person' as const }));
      groups.push({ id, clips: fromFirst(clips) });
    }
    if (state === 'apart')
      for (const m of members) apart.set(m.clip, (apart.get(m.clip) ?? new Set()).add(id));
  }
  const told = (a: string, b: string): boolean => {
    const of = apart.get(a);
    return of !== undefined && [...(apart.get(b) ?? [])].some((id) => of.has(id));
  };
  const exact = await exactSince(runtime);
  const runs = rows.flatMap(({ id, number, camera, day, brief }) => {
    const { seconds, recordedAt } = brief;
    const timecode = exact(number, brief.timecode);
    if (seconds === null || said.has(id)) return [];
    const clock = recordedAt === null ? null : Date.parse(`${recordedAt}Z`) / 1000;
    return [{ id, camera, day, seconds, timecode, clock }];
  });
  for (const clips of rollingTogether(runs, { dayStart, apart: told })) groups.push({ id: null, clips });
  return new Map(groups.flatMap((g) => g.clips.map((c) => [c.id, g] as const)));
}

/** Of how much of a time of day a recorder's timecode and its samples may differ: counted at thirty in place of 29.97 by a thousandth. */
const COUNTED = { part: 0.0011, seconds: 0.1 };

/** When a recording of sound begins to the sample, where it says so and its timecode does not say otherwise; else that. Seconds since midnight. */
async function exactSince(runtime: InJob): Promise<(clip: number, timecode: number | null) => number | null> {
  const [samples, rates] = [await columnOf(runtime, 'timeReference'), await columnOf(runtime, 'sampleRate')];
  return (clip, timecode) => {
    const [reference, each] = [samples.get(clip)?.number, rates.get(clip)?.number];
    if (timecode === null || reference === null || reference === undefined || !each) return timecode;
    const since = reference / each;
    return Math.abs(since - timecode) <= COUNTED.seconds + COUNTED.part * since ? since : timecode;
  };
}

/** Clips of a group that are shown. */
const SHOWN = 40;
const PAL = rate(25);

/** What ran at the same time as a clip; null where nothing did. */
export async function rollingView(runtime: InJob, clip: string): Promise<RollingView | null> {
  const group = (await groupsOf(runtime)).get(clip);
  if (!group) return null;
  const rows = await rowsById(runtime);
  const reference = referenceOf(group, rows);
  const heard = reference === null ? new Map<string, Heard>() : await heardFrom(runtime, reference);
  const from = group.clips.find((c) => c.id === reference)?.offset ?? 0;
  return {
    id: group.id,
    rate: group.clips.map((c) => rows.get(c.id)?.brief.rate).find((r) => r) ?? PAL,
    reference,
    clips: group.clips.slice(0, SHOWN).flatMap(({ id, offset, by }) => {
      const row = rows.get(id);
      if (!row) return [];
      const sound = heard.get(id);
      return [
        {
          ...{ clip: id, name: shownPath(row.name), camera: row.camera, kind: row.kind, offset, by },
          sound: sound
            ? { offset: sound.offset === null ? null : from + sound.offset, alike: sound.alike }
            : null,
        },
      ];
    }),
    more: Math.max(0, group.clips.length - SHOWN),
  };
}

/** The clip whose sound the others are compared with: a recording of sound, else the first that has any. */
export function referenceOf({ clips }: Group, rows: ReadonlyMap<string, Row>): string | null {
  const sounding = clips.filter(({ id }) => (rows.get(id)?.brief.channels ?? 0) > 0);
  return (sounding.find(({ id }) => rows.get(id)!.kind === 'sound') ?? sounding[0])?.id ?? null;
}

interface Heard {
  /** Seconds from the beginning of the reference; null where the sound does not tell. */
  offset: number | null;
  alike: number;
}

/** What was heard of others against one, by clip. What is of other files by now does not count. */
async function heardFrom(runtime: InJob, reference: string): Promise<Map<string, Heard>> {
  const { db } = runtime;
  const found = new Map<string, Heard>();
  const checks = [
    ...(await db.select().from(soundChecks).where(eq(soundChecks.a, reference))),
    ...(await db.select().from(soundChecks).where(eq(soundChecks.b, reference))),
  ];
  const states = await statesOf(runtime, [...new Set(checks.flatMap((c) => [c.a, c.b]))]);
  for (const { a, b, of, offset, alike } of checks) {
    if (of !== `${states.get(a)} ${states.get(b)}`) continue;
    const turned = b === reference;
    found.set(turned ? a : b, { offset: offset === null ? null : turned ? -offset : offset, alike });
  }
  return found;
}

/** What the files of clips are, as they were read. */
export async function statesOf({ db }: InJob, ids: readonly string[]): Promise<Map<string, string>> {
  const rows = await db
    .select({ id: clips.id, readAs: clips.readAs })
    .from(clips)
    .where(among(clips.id, [...ids]));
  return new Map(rows.map((r) => [r.id, r.readAs ?? '']));
}

/** Words by which others of a group are searched for, with the clip each is of. */
const worded = new WeakMap<Group, { clip: string; words: string[] }[]>();
export function wordsOf(group: Group, rows: ReadonlyMap<string, Row>): { clip: string; words: string[] }[] {
  const known = worded.get(group);
  if (known) return known;
  const made = group.clips.flatMap(({ id }) => {
    const row = rows.get(id);
    return row
      ? [
          {
            clip: id,
            words: [row.name, `camera ${row.camera}`, ...(row.kind === 'sound' ? ['sound'] : [])].map(fold),
          },
        ]
      : [];
  });
  worded.set(group, made);
  return made;
}

/** What a group is called among others. */
export function nameOfGroup({ clips }: Group, rows: ReadonlyMap<string, Row>): string {
  const [first, second] = clips.map((c) => rows.get(c.id)?.name ?? '');
  return `${first} with ${second}${clips.length > 2 ? ` and ${clips.length - 2} more` : ''}`;
}

async function membersOf(
  tx: Writer,
  ids: readonly string[],
): Promise<(Member & { state: string; job: string })[]> {
  return tx
    .select({
      together: rolling.together,
      clip: rolling.clip,
      offset: rolling.offset,
      state: together.state,
      job: together.job,
    })
    .from(rolling)
    .innerJoin(together, eq(together.id, rolling.together))
    .where(inArray(rolling.clip, [...ids]));
}

const member = ({ together: id, clip, offset }: Member): Member => ({ together: id, clip, offset });

/** Rows by which some clips leave groups they are in, and groups of which less than two would be left go. */
async function leaving(
  tx: Writer,
  groups: readonly string[],
  clips: ReadonlySet<string>,
): Promise<RowChange[]> {
  if (groups.length === 0) return [];
  const all = await tx
    .select()
    .from(rolling)
    .where(inArray(rolling.together, [...groups]));
  const rows: RowChange[] = [];
  for (const before of await tx
    .select()
    .from(together)
    .where(inArray(together.id, [...groups]))) {
    const members = all.filter((m) => m.together === before.id);
    const left = members.filter((m) => !clips.has(m.clip));
    const go = left.length < 2 ? members : members.filter((m) => clips.has(m.clip));
    rows.push(...go.map((m): RowChange => ({ table: 'rolling', before: m, after: null })));
    if (left.length < 2) rows.push({ table: 'together', before, after: null });
  }
  return rows;
}

/** Throws Clash where some clips stand in another group by now than the one that was seen. */
async function seen(tx: Writer, ids: readonly string[], was: string | null) {
  const standing = await membersOf(tx, ids);
  if (
    standing.some((m) => m.state === 'confirmed' && m.together !== was) ||
    (was !== null && !standing.some((m) => m.together === was))
  )
    throw new Clash('Some of these clips roll together with others by now. Nothing was changed.', {
      next: 'Look at with which, and take them out there first if it is still meant.',
    });
  return standing;
}

/** Clips with how long after the first each begins: as it is said or, where it is not, as their timecodes or, without those, their clocks have it. */
async function placed(
  tx: Writer,
  given: Of<'rollTogether'>['clips'],
): Promise<{ id: string; offset: number }[]> {
  if (given.every((c) => c.offset !== null)) return given.map((c) => ({ id: c.clip, offset: c.offset! }));
  const ids = given.map((c) => c.clip);
  const rows = await tx
    .select({ id: shown.clip, brief: shown.brief })
    .from(shown)
    .where(among(shown.clip, ids));
  const briefs = new Map(rows.map((r) => [r.id, r.brief]));
  const timecodes = ids.map((id) => briefs.get(id)?.timecode ?? null);
  const clocks = ids.map((id) => {
    const at = briefs.get(id)?.recordedAt;
    return at ? Date.parse(`${at}Z`) / 1000 : null;
  });
  const by = timecodes.every((t) => t !== null) ? timecodes : clocks;
  const first = Math.min(...by.filter((t) => t !== null));
  return ids.map((id, i) => ({ id, offset: Math.max(0, (by[i] ?? first) - first) }));
}

export async function rollTogether(tx: Writer, job: string, change: Of<'rollTogether'>): Promise<Planned> {
  const here = new Set(
    await clipsIn(
      tx,
      job,
      change.clips.map((c) => c.clip),
    ),
  );
  const given = change.clips.filter((c) => here.has(c.clip));
  if (new Set(given.map((c) => c.clip)).size < 2)
    throw new Refused('Two clips at least roll together.', { next: 'Choose another one, too.' });
  const ids = given.map((c) => c.clip);
  const standing = await seen(tx, ids, change.was);
  const before =
    change.was === null ? [] : await tx.select().from(rolling).where(eq(rolling.together, change.was));
  const id = change.was ?? randomUUID();
  const after = fromFirst(await placed(tx, given)).map((c): Member => ({
    together: id,
    clip: c.id,
    offset: c.offset,
  }));
  const apart = [...new Set(standing.filter((m) => m.state === 'apart').map((m) => m.together))];
  return {
    rows: [
      ...(change.was === null
        ? [{ table: 'together' as const, before: null, after: { id, job, state: 'confirmed' as const } }]
        : []),
      ...before
        .filter((m) => !ids.includes(m.clip))
        .map((m): RowChange => ({ table: 'rolling', before: m, after: null })),
      ...after.map((m): RowChange => ({
        table: 'rolling',
        before: before.find((b) => b.clip === m.clip) ?? null,
        after: m,
      })),
      // What was told apart before is together now.
      ...(await leaving(tx, apart, new Set(ids))),
    ],
    text: `${plural(after.length, 'clip')} roll together`,
  };
}

export async function takeApart(tx: Writer, job: string, change: Of<'takeApart'>): Promise<Planned> {
  const ids = await clipsIn(tx, job, change.clips);
  await seen(tx, ids, change.was);
  const id = randomUUID();
  return {
    rows: [
      ...(change.was === null ? [] : await leaving(tx, [change.was], new Set(ids))),
      { table: 'together', before: null, after: { id, job, state: 'apart' } },
      ...ids.map((clip): RowChange => ({
        table: 'rolling',
        before: null,
        after: member({ together: id, clip, offset: 0 }),
      })),
    ],
    text: `${plural(ids.length, 'clip')} told apart: they do not roll together`,
  };
}
