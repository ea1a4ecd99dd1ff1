import { eq, type SQL, sql } from 'drizzle-orm';
import { type DiskIdentity, shareDisk } from '../../core/platform/disks';
import {
  type CopyReading,
  type FileHash,
  type Proof,
  proofOf,
  type Standing,
} from '../../core/custody/proof';
import type { HashKind } from '../../core/hashLists';
import { safeCopies } from './tables';
import type { Writer } from '../platform/db/transaction';
import { resolveIn } from '../platform/files/paths';
import { walk } from '../platform/files/walk';
import type { Ports } from './ports';
import { listRoots, type Root } from '../places';
import { manifestOf } from './physicalCards';
import { joinPath } from '../platform/files/names';
import { lstat } from '../platform/files/onDisk';

export type CopyRow = typeof safeCopies.$inferSelect;

/** A copy of a card as it was found just now. */
export interface KnownCopy {
  row: CopyRow;
  root: Root | undefined;
  /** Absolute path of its folder. */
  place: string;
  presence: 'there' | 'offline';
  /** Whether it is on the disk it was verified on. */
  sameDisk: boolean;
  disk: DiskIdentity;
  seenAt: Date | null;
  proofs: Map<number, Proof>;
  /** When the newest reading of its files was made. */
  readAt: Date | null;
}

/** Numbers of files asked for by one statement: the database runs in the thread that also answers the interface. */
const RANGE = 2000;

/** Asks for rows of a range of file numbers at a time, up to the highest there is. */
async function* byRanges<T extends Record<string, unknown>>(
  { db }: Pick<Ports, 'db'>,
  highest: SQL,
  range: (from: number, to: number) => SQL,
): AsyncGenerator<T> {
  const {
    rows: [last],
  } = await db.execute<{ n: number | null }>(highest);
  for (let from = 0; from <= (last?.n ?? -1); from += RANGE) {
    yield* (await db.execute<T>(range(from, from + RANGE))).rows as unknown as T[];
    await new Promise((r) => setImmediate(r));
  }
}

/** What the card gave at its newest reading, by file, for each kind of hash. */
export async function cardHashes(runtime: Pick<Ports, 'db'>, card: string): Promise<Map<number, FileHash[]>> {
  const out = new Map<number, FileHash[]>();
  const rows = byRanges<{ number: number; kind: HashKind; value: string }>(
    runtime,
    sql`select max(number) as n from card_readings where card = ${card}`,
    (from, to) => sql`
    select distinct on (number, kind) number, kind, value from card_readings where card = ${card} and number >= ${from} and number < ${to} order by number, kind, seq desc`,
  );
  for await (const { number, kind, value } of rows)
    out.set(number, [...(out.get(number) ?? []), { kind, value }]);
  return out;
}

type ReadingRow = CopyReading & { number: number; at: Date };

/** The newest reading of each file of a copy. */
export async function readingsOf(runtime: Pick<Ports, 'db'>, copy: string): Promise<ReadingRow[]> {
  const out: ReadingRow[] = [];
  const rows = byRanges<Omit<ReadingRow, 'at'> & { at: string | Date }>(
    runtime,
    sql`select max(number) as n from copy_readings where copy = ${copy}`,
    (from, to) => sql`
    select distinct on (number) number, at, how, result, kind, value, size, modified from copy_readings where copy = ${copy} and number >= ${from} and number < ${to} order by number, seq desc`,
  );
  for await (const r of rows)
    out.push({ ...r, at: new Date(r.at), size: Number(r.size), modified: Number(r.modified) });
  return out;
}

/**
 * Takes back that copies were read, of one root or of all: a database that was brought back from a snapshot does not know what later
 * checks found, and a root that is another folder than it was may hold other bytes. Their files have to be checked again; nothing else is
 * lost. With `volume`, the root is on that volume from now on, and its copies are looked for there.
 */
export async function distrustCopies(
  db: Pick<Writer, 'execute' | 'update'>,
  root?: string,
  volume?: string | null,
): Promise<void> {
  const which =
    root === undefined
      ? sql`true`
      : sql`copy in (select id from ${safeCopies} where ${safeCopies.root} = ${root})`;
  await db.execute(sql`insert into copy_readings (copy, number, at, how, result, kind, value, size, modified)
    select distinct on (copy, number) copy, number, now(), 'check', case when result = 'read' then 'sizeOnly' else result end, kind, null, size, modified from copy_readings where ${which} order by copy, number, seq desc`);
  if (root !== undefined && volume !== undefined)
    await db.update(safeCopies).set({ volume }).where(eq(safeCopies.root, root));
}

/** Where a copy is looked for: the disk its folder is on, and whether that is the one it was verified on. */
interface Found {
  disk: DiskIdentity;
  sameDisk: boolean;
  real: string | null;
}

/**
 * Looks for a copy; `null` where its drive is not connected. Another volume at its place, or none (the empty folder a drive is mounted
 * on), is not the copy's drive; where neither volume nor disk can be told, the place alone must do. The same volume on another disk is
 * a drive that was cloned or put into another case; where volumes cannot be told (a share whose server has a new address), the
 * copy's own folder on another disk is taken for such.
 */
export async function findCopy(
  runtime: Pick<Ports, 'devices'>,
  row: CopyRow,
  root: Root | undefined,
): Promise<Found | null> {
  const { devices } = runtime;
  if (!root || !(await devices.volumeOf(root.path))) return null;
  if (row.volume !== null && devices.volumeIdOf(root.path) !== row.volume) return null;
  // Through a link it would be another folder's files that are there, perhaps those of the other copy.
  const real = await resolveIn(root, row.folder).catch(() => null);
  const stands =
    real !== null &&
    (await lstat(real).then(
      (s) => s.isDirectory(),
      () => false,
    ));
  // Of the copy's own folder: another volume may be mounted inside the root.
  const disk = devices.diskOf(stands ? real : root.path);
  const sameDisk = !row.disk.lasting || shareDisk(disk, row.disk);
  return sameDisk || row.volume !== null || stands ? { disk, sameDisk, real: stands ? real : null } : null;
}

/** Every copy of a card with what each of its files is worth now: the folders of those that are connected are looked at. */
export async function copiesOf(runtime: Pick<Ports, 'db' | 'devices'>, card: string): Promise<KnownCopy[]> {
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const rows = await runtime.db
    .select()
    .from(safeCopies)
    .where(eq(safeCopies.physical, card))
    .orderBy(safeCopies.madeAt, safeCopies.destination);
  const hashes = await cardHashes(runtime, card);
  const paths = new Map((await manifestOf(runtime.db, card)).map((f) => [f.number, f.path]));
  return Promise.all(
    rows.map(async (row): Promise<KnownCopy> => {
      const root = roots.get(row.root);
      const place = joinPath(root?.path ?? '', row.folder);
      const readings = await readingsOf(runtime, row.id);
      const found = await findCopy(runtime, row, root);
      const standing =
        found &&
        (found.real === null
          ? new Map<string, { size: number; modified: number }>()
          : await standingIn(found.real));
      const wrong = new Set(row.notAsRecorded);
      const proofs = new Map<number, Proof>();
      for (const r of readings) {
        const stands: Standing = standing
          ? (standing.get(paths.get(r.number)!) ?? null)
          : wrong.has(r.number)
            ? null
            : { size: r.size, modified: r.modified };
        proofs.set(r.number, proofOf(hashes.get(r.number) ?? [], r, stands, found?.sameDisk));
      }
      const { sameDisk, disk } = found ?? { sameDisk: true, disk: row.disk };
      const seenAt = found && sameDisk ? new Date() : row.seenAt;
      // What is on another disk is not what was verified: that was not seen.
      if (found?.sameDisk)
        await keepSight(runtime, row, { disk, volume: runtime.devices.volumeIdOf(root!.path), proofs });
      return {
        row,
        root,
        place,
        presence: found ? 'there' : 'offline',
        sameDisk,
        disk,
        seenAt,
        proofs,
        readAt: readings.reduce<Date | null>((last, r) => (last && last > r.at ? last : r.at), null),
      };
    }),
  );
}

/** Plain files below a folder by path; none where the folder is not there. */
async function standingIn(folder: string): Promise<Map<string, { size: number; modified: number }>> {
  const { entries } = await walk(folder, Infinity).catch(() => ({ entries: [] }));
  return new Map(
    entries.filter((e) => e.kind === 'file').map((e) => [e.path, { size: e.size, modified: e.modified }]),
  );
}

/** Milliseconds after which it is kept again that a copy was seen. */
const SIGHT = 30_000;

/** Keeps when a copy was seen and how, for the time when its drive is away. */
async function keepSight(
  runtime: Pick<Ports, 'db'>,
  row: CopyRow,
  seen: { disk: DiskIdentity; volume: string | null; proofs: ReadonlyMap<number, Proof> },
): Promise<void> {
  const wrong = [...seen.proofs].filter(([, p]) => p === 'missing' || p === 'altered').map(([n]) => n);
  const same =
    row.seenAt &&
    Math.abs(Date.now() - row.seenAt.getTime()) < SIGHT &&
    JSON.stringify(wrong) === JSON.stringify(row.notAsRecorded);
  if (same) return;
  await runtime.db
    .update(safeCopies)
    .set({ seenAt: new Date(), notAsRecorded: wrong, disk: seen.disk, volume: seen.volume ?? row.volume })
    .where(eq(safeCopies.id, row.id));
}
