import { and, eq, inArray, isNull } from 'drizzle-orm';
import path from 'node:path';
import { alias } from 'drizzle-orm/pg-core';
import pMap from 'p-map';
import { isMade } from '../../core/intake';
import { type DiskPath, shownPath } from '../../core/platform/names';
import { plural } from '../../core/platform/words';
import type { LostView, TakeFound, TakenFound } from '../../core/proxies/shapes';
import { clipName, clipsOf, standsAt, presenceOf } from '../cards';
import { clips, files } from '../cards/tables';
import { writeLog } from '../logbook';
import { listRoots, type Root, rootById } from '../places';
import { NotFound, Refused } from '../platform/errors';
import { unreadWhy } from '../platform/files/faults';
import { sampleOf } from '../platform/files/hash';
import { OWN_FOLDER } from '../platform/files/journal';
import { joinPath } from '../platform/files/names';
import { lstat } from '../platform/files/onDisk';
import { baseOf, resolveIn } from '../platform/files/paths';
import { walk } from '../platform/files/walk';
import { alone, endIfStopped, type TaskContext } from '../platform/work/context';
import type { InJob } from './ports';
import { provePairsOf } from './provePairs';
import { watchPairs } from './watchPairs';

type FileRow = typeof files.$inferSelect;

/** How many files are looked at at once. */
const CONCURRENCY = 32;

/** Where a lost file is taken from first: what is worked on, then what was brought in. A safe copy is only taken where nothing else is. */
const RANK: Record<Root['kind'], number> = { shelf: 0, proxies: 0, handover: 1, source: 1, safe: 2 };

/** Files of the job that are not at their places, though the roots are there. */
async function lostFiles(runtime: InJob, roots: ReadonlyMap<string, Root>) {
  const original = alias(files, 'original');
  const rows = await runtime.db
    .select({
      file: files,
      clip: { id: clips.id, card: clips.card, original: clips.original },
      of: { path: original.path, suffix: original.suffix },
    })
    .from(files)
    .innerJoin(clips, eq(clips.id, files.clip))
    .leftJoin(original, and(eq(original.clip, files.clip), eq(original.role, 'original')))
    .where(and(inArray(files.clip, clipsOf(runtime.db, runtime.job)), isNull(files.onCard)));
  const lost = await pMap(
    rows,
    async (row) => ((await presenceOf(roots.get(row.file.root)!, row.file)).is === 'gone' ? row : null),
    { concurrency: CONCURRENCY },
  );
  return lost
    .filter((row) => row !== null)
    .sort((a, b) => a.file.path.localeCompare(b.file.path, 'en', { numeric: true }));
}

interface Place {
  root: Root;
  path: DiskPath;
}

const endOf = (name: DiskPath): string => path.extname(name).toLowerCase();

/** Whether a file is the lost one, as far as that is known: by its contents, or by time and kind of file where those were never looked at. */
async function isLost(file: FileRow, at: DiskPath): Promise<boolean> {
  const now = await lstat(at);
  if (!now.isFile() || now.size !== file.size) return false;
  return file.sample === null
    ? Math.round(now.mtimeMs) === Math.round(file.modified) && endOf(at) === endOf(file.path)
    : (await sampleOf(at, file.size)) === file.sample;
}

/** Looks below the roots for files of the job that are not at their places: moved or renamed outside. Nothing is changed. */
export async function lookForLost(runtime: InJob, task: TaskContext = alone()): Promise<LostView> {
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const lost = await lostFiles(runtime, roots);
  const bySize = new Map<number, typeof lost>();
  for (const row of lost) bySize.set(row.file.size, [...(bySize.get(row.file.size) ?? []), row]);
  const places = new Map<string, Place[]>();
  const claims = new Map<string, number>();
  const [offline, inPart]: [string[], string[]] = [[], []];
  let looked = 0;
  for (const [i, root] of [...roots.values()].entries()) {
    task.progress(i, roots.size);
    const base = await baseOf(root).catch(() => null);
    if (base === null) offline.push(root.name);
    if (base === null || lost.length === 0) continue;
    const known = new Set(
      (await runtime.db.select({ path: files.path }).from(files).where(eq(files.root, root.id))).map(
        (f) => f.path,
      ),
    );
    const { entries, whole } = await walk(base);
    if (!whole) inPart.push(root.name);
    const candidates = entries.filter(
      (e) => e.kind === 'file' && !known.has(e.path) && !e.path.split('/').includes(OWN_FOLDER),
    );
    looked += candidates.length;
    for (const { path: at, size } of candidates) {
      endIfStopped(task);
      for (const { file } of bySize.get(size) ?? []) {
        if (!(await isLost(file, joinPath(base, at)).catch(() => false))) continue;
        places.set(file.id, [...(places.get(file.id) ?? []), { root, path: at }]);
        claims.set(`${root.id} ${at}`, (claims.get(`${root.id} ${at}`) ?? 0) + 1);
      }
    }
  }
  const view: LostView = { looked, found: [], open: [], none: [], offline, inPart };
  for (const { file, clip, of } of lost) {
    const about = {
      ...{ file: file.id, clip: clip.id, card: clip.card, role: file.role },
      name: clipName(of ?? undefined, clip.original),
      was: shownPath(file.path),
    };
    const all = places.get(file.id) ?? [];
    const nearest = Math.min(...all.map((p) => RANK[p.root.kind]));
    const best = all.filter((p) => RANK[p.root.kind] === nearest);
    const shown = best.map(({ root, path: at }) => ({
      ...{ root: root.id, rootName: root.name, path: at, shown: shownPath(at) },
    }));
    const [only, ...more] = shown;
    if (only === undefined) view.none.push(about);
    else if (more.length === 0 && claims.get(`${only.root} ${only.path}`) === 1)
      view.found.push({ lost: about, at: only, by: file.sample === null ? 'sizeAndTime' : 'contents' });
    else view.open.push({ lost: about, places: shown });
  }
  return view;
}

/** Uses lost files from where they were found, after another look; nothing is moved. What is not there any more is left as it was, and said. */
export async function takeFound(runtime: InJob, { files: wanted }: TakeFound): Promise<TakenFound> {
  const refused: TakenFound['refused'] = [];
  let taken = 0;
  const unseen = new Set<string>();
  await runtime.exclusively(async () => {
    for (const { file: id, root, path: at } of wanted) {
      try {
        const file = await takeOne(runtime, id, { root, path: at });
        taken++;
        if (file.sample === null && isOfPair(file.role)) unseen.add(file.clip);
      } catch (e) {
        refused.push({ file: shownPath(at), why: unreadWhy(e) });
      }
    }
  });
  await watchPairs(runtime);
  // Of what is known by size and time only nobody has looked at the contents: its pair is proven by them.
  for (const clip of unseen) await provePairsOf(runtime, clip, { decoding: false });
  if (unseen.size > 0) await runtime.queue.begin({ job: runtime.job, kind: 'prove', wanted: [...unseen] });
  if (taken > 0) await writeLog(runtime, 'pair', `Found ${plural(taken, 'lost file')} again`);
  runtime.events.changed('clips', 'cards', 'log');
  return { taken, refused };
}

const isOfPair = (role: FileRow['role']): boolean =>
  isMade(role) || role === 'cameraProxy' || role === 'original' || role === 'segment';

async function takeOne(runtime: InJob, id: string, to: { root: string; path: string }): Promise<FileRow> {
  const { db } = runtime;
  const [file] = await db
    .select()
    .from(files)
    .where(and(eq(files.id, id), inArray(files.clip, clipsOf(db, runtime.job)), isNull(files.onCard)));
  if (!file) throw new NotFound('The file is no longer of a clip of the job.');
  if ((await presenceOf(await rootById(runtime, file.root), file)).is !== 'gone')
    throw new Refused(`${shownPath(file.path)} is at its place: it is not lost.`);
  if (!(await isLost(file, await resolveIn(await rootById(runtime, to.root), to.path))))
    throw new Refused(`${shownPath(to.path)} is not the file that was lost.`, { next: 'Look again.' });
  await db.transaction(async (tx) => {
    const [owner] = await tx
      .select({ id: files.id })
      .from(files)
      .where(and(eq(files.root, to.root), eq(files.path, to.path)));
    if (owner) throw new Refused(`${shownPath(to.path)} is a file of a clip already.`);
    await standsAt(tx, id, to);
  });
  return file;
}
