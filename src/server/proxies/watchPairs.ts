import { alias } from 'drizzle-orm/pg-core';
import { and, eq, inArray, isNull } from 'drizzle-orm';
import pMap from 'p-map';
import { reelIn } from '../../core/facts';
import { foundAgain, isReelUnread, lostOf, pairReason, type Proof, withReel } from '../../core/proxies/prove';
import { shownPath } from '../../core/platform/names';
import { plural } from '../../core/platform/words';
import { stateOf } from '../analysis';
import { changedOnDisk, clipsOf, type Presence, presenceOf } from '../cards';
import { clips, files } from '../cards/tables';
import { writeLog } from '../logbook';
import { isAway, listRoots, type Root, rootById } from '../places';
import { among } from '../platform/db/among';
import { resolveIn } from '../platform/files/paths';
import { probe } from '../platform/media/probe';
import { jobs } from '../jobs/tables';
import { inJob } from '../services';
import type { InJob, Ports } from './ports';
import { pairState, pairStateNow, provePairsOf } from './provePairs';
import { pairs } from './tables';

/** How many pairs are looked at at once. */
const CONCURRENCY = 32;

/** What a look at the files of pairs found: how many pairs became lost, are there again, and are compared anew. */
export interface PairsSeen {
  lost: number;
  found: number;
  changed: number;
}

const original = alias(files, 'original');
const rowsOf = ({ db, job }: InJob, only?: readonly string[]) =>
  db
    .select({ pair: pairs, proxy: files, original, read: clips.state })
    .from(pairs)
    .innerJoin(clips, eq(clips.id, pairs.clip))
    .innerJoin(files, eq(files.id, pairs.file))
    .innerJoin(original, and(eq(original.clip, pairs.clip), eq(original.role, 'original')))
    .where(and(inArray(pairs.clip, clipsOf(db, job)), only ? among(pairs.file, only) : undefined));
type Row = Awaited<ReturnType<typeof rowsOf>>[number];

type Seen = { row: Row; original: Presence } & (
  { is: 'lost' | 'found'; proof: Proof } | { is: 'originalChanged' | 'proxyChanged' }
);

/** Pairs that are not as they are known: of which a file is gone, or there again, or another than was proven. */
async function differing(runtime: InJob, rows: readonly Row[]): Promise<Seen[]> {
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const away = new Map<string, Promise<boolean>>();
  // Of a drive that was pulled the folder that it was mounted at may stay, and is empty.
  const isRootAway = (root: Root): Promise<boolean> => {
    const known = away.get(root.id) ?? isAway(runtime, root);
    away.set(root.id, known);
    return known;
  };
  const look = async (file: Row['proxy']): Promise<Presence> => {
    const root = roots.get(file.root)!;
    const now = await presenceOf(root, file);
    return now.is === 'gone' && (await isRootAway(root)) ? { is: 'offline' } : now;
  };
  const seen = await pMap(
    rows,
    async (row): Promise<Seen | null> => {
      const [now, proxy] = await Promise.all([look(row.original), look(row.proxy)]);
      if (now.is === 'offline' || proxy.is === 'offline') return null;
      const { pair } = row;
      const state = pairStateNow(now, proxy);
      if (state === null) {
        const proof = lostOf(pair.checks, { original: now.is === 'gone', proxy: proxy.is === 'gone' });
        const known = pair.state === 'lost' && pairReason(pair.checks) === pairReason(proof.checks);
        return known ? null : { row, original: now, is: 'lost', proof };
      }
      if (state === (pair.of ?? pairState(row.original, row.proxy)))
        return pair.state === 'lost'
          ? { row, original: now, is: 'found', proof: foundAgain(pair.checks) }
          : null;
      if (row.read !== 'read') return null;
      const other = now.is === 'there' && stateOf(now) !== stateOf(row.original);
      return { row, original: now, is: other ? 'originalChanged' : 'proxyChanged' };
    },
    { concurrency: CONCURRENCY },
  );
  return seen.filter((s) => s !== null);
}

/** Reads the reels that proxies say they are of, of pairs that were proven before that was kept. */
async function readReels(runtime: InJob, rows: readonly Row[]): Promise<void> {
  let read = 0;
  for (const { pair, proxy } of rows.filter((r) => isReelUnread(r.pair.checks))) {
    const root = await rootById(runtime, proxy.root);
    const now = await presenceOf(root, proxy);
    if (now.is !== 'there' || stateOf(now) !== stateOf(proxy)) continue;
    const file = await resolveIn(root, proxy.path).catch(() => null);
    // It may have been moved in that moment, or its drive pulled: then it is read the next time.
    const reel = file === null ? undefined : await probe(file).then(reelIn, () => undefined);
    if (reel === undefined) continue;
    await runtime.db
      .update(pairs)
      .set({ checks: withReel(pair.checks, reel) })
      .where(and(eq(pairs.file, pair.file), eq(pairs.checkedAt, pair.checkedAt)));
    read++;
  }
  if (read > 0) runtime.events.changed('clips');
}

/**
 * Looks whether the files of the job's pairs are at their places and as they were when they were proven. One that is gone makes its pair
 * lost; one that changed has it proven anew, for which a changed original is read again first. What is offline is left as it was.
 */
export async function watchPairs(runtime: InJob): Promise<PairsSeen> {
  const rows = await rowsOf(runtime);
  await readReels(runtime, rows);
  const first = await differing(runtime, rows);
  if (first.length === 0) return { lost: 0, found: 0, changed: 0 };
  // A naming moves files: what is not as it should be is looked at once more while none runs.
  const seen = await runtime.exclusively(async () => {
    const again = await differing(
      runtime,
      await rowsOf(
        runtime,
        first.map((s) => s.row.pair.file),
      ),
    );
    for (const s of again) {
      if (s.is === 'lost' || s.is === 'found')
        await runtime.db.update(pairs).set(s.proof).where(eq(pairs.file, s.row.pair.file));
      if (s.is === 'originalChanged' && s.original.is === 'there')
        await changedOnDisk(runtime.db, { ...s.original, id: s.row.original.id });
    }
    return again;
  });
  const of = (is: Seen['is']) => seen.filter((s) => s.is === is);
  const clipsWith = (is: Seen['is']) => [...new Set(of(is).map((s) => s.row.pair.clip))];
  const read = clipsWith('originalChanged');
  await runtime.queue.add('read', read);
  const anew = clipsWith('proxyChanged').filter((clip) => !read.includes(clip));
  for (const clip of anew) await provePairsOf(runtime, clip, { decoding: false });
  if (anew.length > 0) await runtime.queue.begin({ job: runtime.job, kind: 'prove', wanted: anew });
  await tell(runtime, seen);
  return { lost: of('lost').length, found: of('found').length, changed: read.length + anew.length };
}

/** Says in the logbook what was seen, with the first file of each kind. */
async function tell(runtime: InJob, seen: readonly Seen[]): Promise<void> {
  const words: Record<Seen['is'], string> = {
    lost: 'Not at its place',
    found: 'At its place again',
    originalChanged: 'An original has changed and is read again',
    proxyChanged: 'A proxy has changed and is compared anew',
  };
  for (const is of ['lost', 'found', 'originalChanged', 'proxyChanged'] as const) {
    const names = seen
      .filter((s) => s.is === is)
      .map(({ row, original: now }) =>
        shownPath(is === 'originalChanged' || now.is === 'gone' ? row.original.path : row.proxy.path),
      );
    const [one, ...others] = new Set(names);
    if (one === undefined) continue;
    const more = others.length > 0 ? ` and ${plural(others.length, 'other')}` : '';
    await writeLog(runtime, 'pair', `${words[is]}: ${one}${more}`);
  }
  runtime.events.changed('clips', 'cards', 'log');
}

/** The same in every job that is not archived. */
export async function watchAllPairs(services: Ports): Promise<void> {
  const open = await services.db.select({ id: jobs.id }).from(jobs).where(isNull(jobs.putAwayAt));
  for (const { id } of open) await watchPairs(inJob(services, id));
}
