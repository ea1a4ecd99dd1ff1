import path from 'node:path';
import { sql } from 'drizzle-orm';
import { CopiedJobs, NewFromCopy } from '../../core/records';
import type { Row } from '../../core/records/replay';
import { type BegunJob, type Template, watchedFolder } from '../../core/templates';
import { openDatabase } from '../platform/db/client';
import { messageOf, NotFound, Refused } from '../platform/errors';
import { unreadWhy } from '../platform/files/faults';
import { OWN_FOLDER } from '../platform/files/journal';
import { joinPath } from '../platform/files/names';
import { lstat, realpath, rename, stat } from '../platform/files/onDisk';
import { beginBy, templateOf } from '../templates';
import { MAX_SIZE, recordFilesAt } from './find';
import type { CopyPorts } from './ports';
import { headerOf, markOf, readRecords } from './read';
import { TABLES } from './recorded';
import type { RecordFile } from './replayed';
import { store } from './store';

// A job's folder that was copied whole in a file manager: the records in it tell what that job was told, and another may begin so.

/** The tables of what a job is told; the others are of its footage. */
const TOLD: ReadonlySet<string> = new Set([
  'roots',
  'jobs',
  'cameras',
  'field_sets',
  'recipes',
  'watches',
  'keywords',
  'keyword_rules',
  'bins',
  'searches',
]);

/** The newest records that came with a folder from the place it was copied from; `null` where there are none. */
async function recordsOf(folder: string): Promise<RecordFile | null> {
  const own = joinPath(folder, OWN_FOLDER);
  // A link in its place leads to what did not come with the folder.
  if (!(await lstat(own).catch(() => null))?.isDirectory()) return null;
  let newest: { file: string; at: string } | null = null;
  for (const file of await recordFilesAt(own)) {
    if ((await lstat(file)).size > MAX_SIZE || (await headerOf(file)).root === null) continue;
    const at = (await markOf(file))?.at;
    if (at !== undefined && (newest === null || at > newest.at)) newest = { file, at };
  }
  return newest && readRecords(newest.file);
}

/** Whether a job's clips go to the place whose records these are. */
const isOfPlace = ({ header }: RecordFile, job: Row): boolean =>
  ((job.folder_plan as { root?: string | null } | undefined)?.root ?? 'shelf') === header.root;

async function foundIn(folder: string): Promise<{ records: RecordFile | null; jobs: Row[] }> {
  if (!path.isAbsolute(folder)) throw new Refused('Give the full path of the folder.', { file: folder });
  try {
    const records = await recordsOf(folder);
    const jobs = records ? (records.tables.get('jobs') ?? []).filter((j) => isOfPlace(records, j)) : [];
    return { records, jobs };
  } catch (e) {
    throw new Refused(`The records in this folder cannot be read: ${unreadWhy(e)}`, {
      file: folder,
      next: 'Copy the folder again, or begin with a template.',
    });
  }
}

/** The jobs whose own folder a folder was copied from. */
export async function copiedJobs(folder: string): Promise<CopiedJobs> {
  const { records, jobs } = await foundIn(folder);
  return CopiedJobs.parse({
    jobs: jobs.map(({ id, name, code }) => ({ id, name, code })),
    at: jobs.length > 0 ? records!.mark.at : null,
  });
}

/** What a job was told, by its records. They are read by the same statements as those of a job that is here, in a database of their own. */
async function toldBy(records: RecordFile, job: string): Promise<Template> {
  const { root } = records.header;
  const isOf = (table: string, row: Row): boolean => {
    if (table === 'roots') return row.id === root;
    if (table === 'jobs') return row.id === job;
    return (row.job === undefined || row.job === job) && (row.root === undefined || row.root === root);
  };
  const database = await openDatabase();
  try {
    await database.db.transaction(async (tx) => {
      await tx.execute(sql`select set_config('sort_shelf.rebuilding', 'on', true)`);
      for (const { name } of TABLES.filter((t) => TOLD.has(t.name)))
        await store(
          tx,
          name,
          (records.tables.get(name) ?? []).filter((r) => isOf(name, r)),
        );
    });
    const [{ name }] = (records.tables.get('jobs') ?? []).filter((j) => j.id === job) as [{ name: string }];
    return await templateOf({ db: database.db, job }, { name: name.slice(0, 80) });
  } finally {
    await database.close();
  }
}

/** Watched folders as they are called in the copy; those that are not in it get the new job's code, as by a template. */
async function watchedThere(t: Template, folder: string, code: string): Promise<Template['watches']> {
  return Promise.all(
    t.watches.map(async (w) => {
      const asCopied = watchedFolder(w.path, code);
      const there = await stat(joinPath(folder, asCopied)).catch(() => null);
      return there?.isDirectory() ? { ...w, path: asCopied } : w;
    }),
  );
}

/**
 * Begins a job in a folder that was copied from another job's: it is told what that one was told, as it stood when the records were
 * written. Its footage is taken in like any other. The records that came along are kept under another name: they are of the other place.
 */
export async function beginFromCopy(runtime: CopyPorts, asked: NewFromCopy): Promise<BegunJob> {
  const wanted = NewFromCopy.parse(asked);
  const { records, jobs } = await foundIn(wanted.folder);
  const job = jobs.find((j) => j.id === wanted.from);
  if (!records || !job)
    throw new NotFound(`There are no records of that job in ${wanted.folder}.`, {
      file: wanted.folder,
      next: 'Choose the folder again, or begin with a template.',
    });
  const told = await toldBy(records, wanted.from).catch((e: unknown) => {
    throw new Refused(`What the job was told cannot be taken from its records: ${messageOf(e)}`, {
      file: records.file,
      next: 'Nothing was changed. Begin with a template.',
    });
  });
  const template = { ...told, watches: await watchedThere(told, wanted.folder, String(job.code)) };
  const begun = await beginBy(runtime, template, wanted, true);
  await setAside(await realpath(wanted.folder), records.header.root!).catch((e: unknown) =>
    begun.warnings.push(`The records of ${String(job.name)} are still in the folder: ${messageOf(e)}`),
  );
  return begun;
}

/** Renames the records of another place, so that this folder is not taken for it when records are looked for. */
async function setAside(folder: string, root: string): Promise<void> {
  for (const file of await recordFilesAt(joinPath(folder, OWN_FOLDER)))
    if ((await headerOf(file).catch(() => null))?.root === root)
      await rename(file, file.replace(/\.jsonl$/, `.copied-${Date.now()}.jsonl`));
}
