import { randomUUID } from 'node:crypto';
import { and, eq, inArray } from 'drizzle-orm';
import { type Change, moveFault, withInside } from '../../core/choose';
import { formatRate } from '../../core/platform/timecode/rate';
import { shownPath } from '../../core/platform/names';
import { plural } from '../../core/platform/words';
import { cards, clips, files } from '../cards/tables';
import { facts, shown } from '../facts/tables';
import { among } from '../platform/db/among';
import { Refused } from '../platform/errors';
import type { Writer } from '../platform/db/transaction';
import { binAmong, binsIn, clipsIn, refuseOther } from './known';
import type { Planned, RowChange, Rows } from './rows';
import { binned } from './tables';

type Of<D extends Change['do']> = Extract<Change, { do: D }>;
type Bin = Rows['bins'];

const newBin = (job: string, name: string, parent: string | null): Bin => ({
  ...{ id: randomUUID(), job, parent, name },
  label: null,
  note: '',
});
const binCame = (after: Bin): RowChange => ({ table: 'bins', before: null, after });
const put = (bin: string, clip: string): RowChange => ({
  table: 'binned',
  before: null,
  after: { bin, clip },
});
const taken = (before: Rows['binned']): RowChange => ({ table: 'binned', before, after: null });

/** Those of some clips that stand in a bin. */
const standingIn = (tx: Writer, bin: string, ids: readonly string[]): Promise<Rows['binned'][]> =>
  tx
    .select()
    .from(binned)
    .where(and(eq(binned.bin, bin), among(binned.clip, ids)));

async function putting(tx: Writer, bin: string, ids: readonly string[]): Promise<RowChange[]> {
  const there = new Set((await standingIn(tx, bin, ids)).map((b) => b.clip));
  return ids.filter((c) => !there.has(c)).map((c) => put(bin, c));
}

export async function addBin(tx: Writer, job: string, change: Of<'addBin'>): Promise<Planned> {
  const list = await binsIn(tx, job);
  const { name, parent } = change;
  if (parent !== null) binAmong(list, parent);
  const bin = newBin(job, name, parent);
  const fault = moveFault([...list, { ...bin, parent: null }], bin.id, parent);
  if (fault !== null) throw new Refused(fault);
  const ids = await clipsIn(tx, job, change.clips);
  return {
    rows: [binCame(bin), ...ids.map((c) => put(bin.id, c))],
    text: `Bin ${name} made${ids.length > 0 ? ` with ${plural(ids.length, 'clip')}` : ''}`,
  };
}

/** What clips say of themselves, as the names of bins from the top down; none where they say nothing. */
async function placesBy(tx: Writer, job: string, by: Of<'makeBins'>['by']): Promise<Map<string, string[]>> {
  if (by === 'folder') {
    const rows = await tx
      .select({ clip: files.clip, path: files.path })
      .from(files)
      .innerJoin(clips, and(eq(clips.id, files.clip), eq(clips.job, job)))
      .where(eq(files.role, 'original'));
    return new Map(rows.map((r) => [r.clip, shownPath(r.path).split('/').slice(0, -1)]));
  }
  if (by === 'scene') {
    const rows = await tx
      .select({ clip: shown.clip, words: facts.words })
      .from(facts)
      .innerJoin(shown, and(eq(shown.number, facts.clip), eq(shown.job, job)))
      .where(and(eq(facts.field, 'scene'), facts.chosen));
    return new Map(rows.map((r) => [r.clip, [`Scene ${r.words}`]]));
  }
  const rows = await tx
    .select({ clip: clips.id, card: cards.id, camera: cards.camera, day: cards.day, brief: shown.brief })
    .from(clips)
    .innerJoin(cards, and(eq(cards.job, clips.job), eq(cards.id, clips.card)))
    .innerJoin(shown, eq(shown.clip, clips.id))
    .where(eq(clips.job, job));
  return new Map(
    rows.map((r) => {
      const rate = r.brief?.rate;
      const name = {
        day: `Day ${r.day}`,
        camera: `Camera ${r.camera}`,
        card: r.card,
        rate: rate ? `${formatRate(rate)} fps` : null,
      }[by];
      return [r.clip, name === null ? [] : [name]];
    }),
  );
}

/** A bin that is there already is used, and clips that stand in it stay. */
export async function makeBins(tx: Writer, job: string, { by }: Of<'makeBins'>): Promise<Planned> {
  const places = await placesBy(tx, job, by);
  const list = await binsIn(tx, job);
  const rows: RowChange[] = [];
  const known = new Map(list.map((b) => [`${b.parent ?? ''}\n${b.name}`, b.id]));
  const filled = new Map<string, string[]>();
  for (const [clip, names] of places) {
    let parent: string | null = null;
    for (const name of names) {
      const key: string = `${parent ?? ''}\n${name}`;
      let id = known.get(key);
      if (id === undefined) {
        const bin = newBin(job, name, parent);
        const fault = moveFault([...list, { ...bin, parent: null }], bin.id, parent);
        if (fault !== null) throw new Refused(`${names.join('/')} is too deep for bins: ${fault}`);
        list.push(bin);
        rows.push(binCame(bin));
        id = bin.id;
        known.set(key, id);
      }
      parent = id;
    }
    if (parent !== null) filled.set(parent, [...(filled.get(parent) ?? []), clip]);
  }
  const made = rows.length;
  for (const [bin, ids] of filled) rows.push(...(await putting(tx, bin, ids)));
  return {
    rows,
    text:
      rows.length === 0
        ? 'These bins are there already, with all their clips'
        : `${plural(made, 'bin')} made by ${by}, ${plural(rows.length - made, 'clip')} put in bins`,
  };
}

export async function editBin(tx: Writer, job: string, change: Of<'editBin'>): Promise<Planned> {
  const before = binAmong(await binsIn(tx, job), change.bin);
  refuseOther('bin', { ...change, now: before });
  const { name, label, note } = change.set;
  const after = {
    ...before,
    ...(name !== undefined && { name }),
    ...(label !== undefined && { label }),
    ...(note !== undefined && { note: note.trim() }),
  };
  return {
    rows: [{ table: 'bins', before, after }],
    text:
      name === undefined || name === before.name
        ? `Bin ${before.name} changed`
        : `Bin ${before.name} renamed to ${name}`,
  };
}

export async function moveBins(
  tx: Writer,
  job: string,
  { bins: ids, into }: Of<'moveBins'>,
): Promise<Planned> {
  const list = await binsIn(tx, job);
  const to = into === null ? null : binAmong(list, into);
  const rows: RowChange[] = [];
  for (const id of ids) {
    const before = binAmong(list, id);
    const fault = moveFault(list, id, into);
    if (fault !== null) throw new Refused(`${before.name} cannot be moved: ${fault}`);
    if (before.parent === into) continue;
    const after = { ...before, parent: into };
    list[list.indexOf(before)] = after;
    rows.push({ table: 'bins', before, after });
  }
  return {
    rows,
    text: `${plural(rows.length, 'bin')} moved ${to === null ? 'to the top' : `into ${to.name}`}`,
  };
}

export async function removeBin(tx: Writer, job: string, change: Of<'removeBin'>): Promise<Planned> {
  const list = await binsIn(tx, job);
  const bin = binAmong(list, change.bin);
  const inside = withInside(list, bin.id);
  const standing = await tx.select().from(binned).where(inArray(binned.bin, inside));
  return {
    rows: [
      ...standing.map(taken),
      // Those at the bottom first: nothing ever stands in what is gone.
      ...[...inside]
        .reverse()
        .map((id): RowChange => ({ table: 'bins', before: binAmong(list, id), after: null })),
    ],
    text: `Bin ${bin.name} removed${inside.length > 1 ? ` with ${plural(inside.length - 1, 'bin')} in it` : ''}; its clips stay in the job`,
  };
}

export async function putInBin(tx: Writer, job: string, change: Of<'putInBin'>): Promise<Planned> {
  const list = await binsIn(tx, job);
  const bin = binAmong(list, change.bin);
  const ids = await clipsIn(tx, job, change.clips);
  const rows = await putting(tx, bin.id, ids);
  const from = change.from === null || change.from === bin.id ? null : binAmong(list, change.from);
  if (from) rows.push(...(await standingIn(tx, from.id, ids)).map(taken));
  return {
    rows,
    text:
      rows.length === 0
        ? `All of them stand in ${bin.name} already`
        : from
          ? `${plural(ids.length, 'clip')} moved from bin ${from.name} to ${bin.name}`
          : `${plural(rows.length, 'clip')} put in bin ${bin.name}`,
  };
}

export async function takeFromBin(tx: Writer, job: string, change: Of<'takeFromBin'>): Promise<Planned> {
  const bin = binAmong(await binsIn(tx, job), change.bin);
  const rows = (await standingIn(tx, bin.id, await clipsIn(tx, job, change.clips))).map(taken);
  return { rows, text: `${plural(rows.length, 'clip')} taken out of bin ${bin.name}` };
}
