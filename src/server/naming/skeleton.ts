import { and, eq } from 'drizzle-orm';
import { checkName } from '../../core/naming/check';
import { skeletonFolders, type SkeletonRequest, type SkeletonView } from '../../core/naming/skeleton';
import { plural } from '../../core/platform/words';
import { cards, days } from '../cards/tables';
import { requireJob } from '../jobs';
import { writeLog } from '../logbook';
import { isMovable, requireHere, rootById } from '../places';
import { Clash, isCode, Refused } from '../platform/errors';
import { lstat, mkdir } from '../platform/files/onDisk';
import { resolveIn } from '../platform/files/paths';
import { watches } from '../watch/tables';
import type { InJob } from './ports';

/** Folders at once: each is looked for on the disk. */
const MOST = 2000;

/**
 * Further folders of a job's shelf, and which of them are there; those that are not are made where it is asked for. Nothing is ever taken
 * away. Throws Refused for names that do not fit, or a root in which nothing may be written, and Clash where a file has a folder's name;
 * then none was made.
 */
export async function skeleton(runtime: InJob, asked: SkeletonRequest): Promise<SkeletonView> {
  if (!asked.layOut) return { folders: shownOf(await foldersOf(runtime, asked)) };
  return runtime.exclusively(async () => {
    await requireHere(runtime, await rootById(runtime, asked.root ?? 'shelf'));
    const folders = await foldersOf(runtime, asked);
    const missing = folders.filter((f) => !f.there);
    for (const { at } of missing) await mkdir(at);
    await writeLog(runtime, 'name', `${plural(missing.length, 'folder')} created`);
    runtime.events.changed('log');
    return { folders: shownOf(folders).map((f) => ({ ...f, there: true })) };
  });
}

const shownOf = (folders: Awaited<ReturnType<typeof foldersOf>>): SkeletonView['folders'] =>
  folders.map(({ folder, there }) => ({ folder, there }));

const cardWords = ({ db, job }: InJob) =>
  db
    .select({ card: cards.id, camera: cards.camera, day: cards.day, date: days.date })
    .from(cards)
    .leftJoin(days, and(eq(days.job, cards.job), eq(days.number, cards.day)))
    .where(eq(cards.job, job));

/** Folders that stay also where nothing is in them any more: the further folders of the job, and those that are watched. */
export async function foldersToKeep(runtime: InJob): Promise<{ root: string; path: string }[]> {
  const { code, folderPlan } = await requireJob(runtime);
  const root = folderPlan.root ?? 'shelf';
  const further = skeletonFolders(folderPlan.skeleton, code, await cardWords(runtime));
  const watched = await runtime.db.select({ root: watches.root, path: watches.path }).from(watches);
  return [...further.map((path) => ({ root, path })), ...watched];
}

async function foldersOf(runtime: InJob, asked: SkeletonRequest) {
  const job = await requireJob(runtime);
  const root = await rootById(runtime, asked.root ?? 'shelf');
  if (!isMovable(root.kind))
    throw new Refused(`Nothing may be written in “${root.name}”.`, {
      next: 'Choose a shelf in the folder plan.',
    });
  const wanted = skeletonFolders(asked.skeleton, job.code, await cardWords(runtime));
  if (wanted.length > MOST)
    throw new Refused(`These lines give ${wanted.length} folders.`, {
      next: `Use fewer words of cards: ${MOST} folders at most are created.`,
    });
  const folders: { folder: string; at: string; there: boolean }[] = [];
  for (const folder of wanted) {
    const wrong = folder.split('/').flatMap((name) => checkName(name).filter((p) => p.level === 'stop'))[0];
    if (wrong)
      throw new Refused(`“${folder}” cannot be a folder: ${wrong.text}.`, {
        file: folder,
        next: `${wrong.mend ?? 'Change the line'}.`,
      });
    const at = await resolveIn(root, folder);
    folders.push({ folder, at, there: await isFolder(at, folder) });
  }
  return folders;
}

async function isFolder(at: string, folder: string): Promise<boolean> {
  try {
    if ((await lstat(at)).isDirectory()) return true;
  } catch (e) {
    if (isCode(e, 'ENOENT')) return false;
    if (!isCode(e, 'ENOTDIR')) throw e;
  }
  throw new Clash(`A file has the name of the folder “${folder}”, or of one above it.`, {
    file: at,
    next: 'Move the file away, or change the line.',
  });
}
