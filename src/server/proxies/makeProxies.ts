import { and, eq } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { type PairFacts, pairReason, provePair } from '../../core/proxies/prove';
import { changesOf, LIGHT } from '../../core/proxies/recipe';
import { sourceOf } from './source';
import { clips, files } from '../cards/tables';
import { pairs } from './tables';
import { Clash, NotFound, Refused, Unreadable } from '../platform/errors';
import { OWN_FOLDER } from '../platform/files/journal';
import { modifiedOf, renameExclusively } from '../platform/files/move';
import { resolveIn } from '../platform/files/paths';
import type { WorkContext } from '../platform/work/kinds';
import { makeProxy } from './proxy';
import type { InJob, Ports } from './ports';
import { requireJob } from '../jobs';
import { proxyPlace } from './place';
import { clipFootage, originalOf, soundsOf, statementsOf, withFile, standsNew } from '../cards';
import { audioStreams } from '../reading';
import { probe } from '../platform/media/probe';
import { proxyFacts, wantedOf } from './provePairs';
import { rootById } from '../places';
import { joinPath } from '../platform/files/names';
import { mkdir, open, namesIn, readText, rm } from '../platform/files/onDisk';

/** Where proxies stand while they are made: in their own root, so that naming them is a rename. Refused where that leads through a link. */
const makingFolder = async (runtime: Pick<Ports, 'db'>): Promise<string> =>
  resolveIn(await rootById(runtime, 'proxies'), `${OWN_FOLDER}/making`);
/** The name of one that is being made. */
const HALF_MADE = /^[0-9a-f-]{36}-\d+-[0-9a-f]{8}\.mp4$/;

/** Makes, proves and names one proxy. It has no name of its own until it is proven. */
export async function makeOneProxy(
  runtime: InJob,
  { id, subject: clip, attempt, signal, progress }: WorkContext,
): Promise<{ speed: number }> {
  const [row] = await runtime.db.select().from(clips).where(eq(clips.id, clip));
  if (!row) throw new NotFound('The clip is no longer in the job.');
  if (row.state !== 'read')
    throw new Unreadable(`${row.original} has not been read: ${row.fault ?? 'it is waiting'}`, {
      next: 'Read it first.',
    });
  const stated = (await statementsOf(runtime.db, [clip])).get(clip) ?? [];
  const sounds = await soundsOf(runtime, clip);
  const apart = await Promise.all(sounds.map(async (f) => audioStreams(await probe(f))));
  const own = row.audio.slice(0, row.audio.length - apart.flat().length);
  const source = sourceOf(stated, [own, ...apart]);
  if (!source) throw new Unreadable(`${row.original} states no rate or length.`);
  const wanted = await wantedOf(stated, () => clipFootage(runtime, clip));
  const folder = await makingFolder(runtime);
  await mkdir(folder);
  // A name of its own for every attempt: an FFmpeg left over from a killed server cannot write into this one.
  const part = joinPath(folder, `${id}-${attempt}-${randomUUID().slice(0, 8)}.mp4`);
  try {
    const { speed } = await withFile(runtime, clip, 'original', async (file) => {
      await rm(part, { force: true });
      return makeProxy([file, ...(await soundsOf(runtime, clip))], part, LIGHT, source, {
        signal,
        onProgress: (p) => progress(p.done, 1, p.speed),
      });
    });
    const handle = await open(part, 'r+');
    await handle.sync();
    await handle.close();
    const proof = provePair(wanted, await proxyFacts(part, source.varies));
    if (proof.state === 'mismatched')
      throw new Unreadable(
        `The proxy of ${row.original} does not match and was thrown away: ${pairReason(proof.checks)}`,
      );
    signal.throwIfAborted();
    await runtime.exclusively(() =>
      nameProxy(runtime, row, part, wanted, { ...proof, changes: changesOf(LIGHT, source) }),
    );
    return { speed };
  } finally {
    await rm(part, { force: true });
  }
}

/** Gives a proven proxy its name, never over another file, and stores it with its pair. */
async function nameProxy(
  runtime: InJob,
  clip: typeof clips.$inferSelect,
  part: string,
  wanted: PairFacts,
  pair: ReturnType<typeof provePair> & { changes: string[] },
): Promise<void> {
  const [old] = await runtime.db
    .select()
    .from(files)
    .where(and(eq(files.clip, clip.id), eq(files.role, 'proxy')));
  if (old) throw new Refused(`${clip.original} has a made proxy already.`, { file: old.path });
  const original = await originalOf(runtime, clip.id);
  const place = proxyPlace((await requireJob(runtime)).code, clip, original);
  const to = await resolveIn(await rootById(runtime, 'proxies'), place);
  await renameExclusively(part, to).catch(async (e: unknown) => {
    // A server killed between naming a proxy and storing it leaves a whole, proven proxy there: that one is taken.
    if (
      !(e instanceof Clash) ||
      provePair(wanted, await proxyFacts(to, wanted.times !== undefined)).state !== 'proven'
    )
      throw e;
  });
  const id = randomUUID();
  const stat = await modifiedOf(to);
  await runtime.db.transaction(async (tx) => {
    await standsNew(tx, { id, clip: clip.id, role: 'proxy', root: 'proxies', path: place, ...stat });
    await tx.insert(pairs).values({ file: id, clip: clip.id, ...pair, checkedAt: new Date() });
  });
}

/**
 * Removes what a killed server left half made, ending an FFmpeg that still writes to it (told by the unguessable name in
 * its arguments; Linux only, elsewhere such a leftover ends by itself and is removed at the next start).
 */
export async function clearHalfMade(runtime: Pick<Ports, 'db'>): Promise<void> {
  const folder = await makingFolder(runtime).catch(() => null);
  const left =
    folder === null ? [] : (await namesIn(folder).catch(() => [])).filter((name) => HALF_MADE.test(name));
  if (folder === null || left.length === 0) return;
  for (const pid of (await namesIn('/proc').catch(() => [])).filter((n) => /^\d+$/.test(n))) {
    const command = await readText(`/proc/${pid}/cmdline`).catch(() => '');
    if (left.some((name) => command.includes(joinPath(folder, name)))) process.kill(Number(pid), 'SIGKILL');
  }
  for (const name of left) await rm(joinPath(folder, name), { force: true });
}
