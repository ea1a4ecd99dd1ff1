import path from 'node:path';
import { shownPath } from '../../core/platform/names';
import { formatBytes } from '../../core/platform/words';
import { mountPoints } from '../platform/volumes/mountTable';
import { unreadWhy } from '../platform/files/faults';
import { OWN_FOLDER } from '../platform/files/journal';
import { joinPath } from '../platform/files/names';
import { readRecords } from './read';
import type { RecordFile } from './replayed';
import { homeRecords } from './openFiles';
import { lstat, readdir, realpath, stat } from '../platform/files/onDisk';

const NAME = /^records-[0-9a-f-]{36}(\.behind)?\.jsonl$/;
/** Folders looked into below one that is searched. */
const MAX_FOLDERS = 500;
/** Bytes of a file beyond which it is taken for none of ours: a file in two copies leaves about a thousand. */
export const MAX_SIZE = 4e9;

/** The records of one database: the file that knows most, and the folder of each root whose own file was found. */
export interface FoundRecords {
  newest: RecordFile;
  places: { root: string; path: string }[];
  files: string[];
  /**
   * Whether nobody can know more: a file was found that is always written (beside the database or on the shelf) and is not behind, no
   * newer ones of the same footage were, and none that was found could not be read.
   */
  latest: boolean;
  /** Whether the file beside the database of this data folder is among them. */
  own: boolean;
  /** Whether newer ones of the same footage were found: of what this database became once it was brought back, or was rebuilt elsewhere. */
  older: boolean;
}

const entries = (at: string) => readdir(at).catch(() => []);

/** Files of records that lie in a folder itself. */
export const recordFilesAt = async (at: string): Promise<string[]> =>
  (await entries(at)).filter((e) => e.kind === 'file' && NAME.test(e.name)).map((e) => joinPath(at, e.name));

/** Files of records in a folder and in the folders directly below it. */
async function recordFilesIn(folder: string): Promise<string[]> {
  const below = (await entries(folder))
    .filter((e) => e.kind === 'folder')
    .slice(0, MAX_FOLDERS)
    .map((e) => joinPath(folder, e.name));
  return (
    await Promise.all(
      [folder, joinPath(folder, OWN_FOLDER), ...below.map((b) => joinPath(b, OWN_FOLDER))].map(recordFilesAt),
    )
  ).flat();
}

/**
 * The records that are found beside the database, on the shelf of the data folder, at the top of every volume and one folder below,
 * in `also`, and in the roots that the records found name. Those of the footage that the database of this data folder had come first: a
 * stranger's, of a job of the same name even, may be newer. Then the newest first. What cannot be read is said.
 */
export async function findRecords(
  given: string,
  also: readonly string[],
): Promise<{ found: FoundRecords[]; faults: string[] }> {
  const home = await realpath(given).catch(() => given);
  const faults: string[] = [];
  const read = new Map<string, RecordFile>();
  const seen = new Set<string>();
  const wanted: string[] = [];
  for (const folder of also) {
    if (!path.isAbsolute(folder)) faults.push(`${shownPath(folder)}: give the full path of the folder`);
    else if (
      !(await stat(folder).then(
        (s) => s.isDirectory(),
        () => false,
      ))
    )
      faults.push(`${shownPath(folder)}: there is no such folder`);
    else wanted.push(await realpath(folder));
  }
  const wrongFolders = faults.length;
  let folders = [homeRecords(home), home, ...wanted, ...mountPoints()];
  while (folders.length > 0) {
    const next: string[] = [];
    for (const folder of folders.filter((f) => !seen.has(f))) {
      seen.add(folder);
      for (const file of await recordFilesIn(folder)) {
        if (read.has(file)) continue;
        const { size } = await lstat(file);
        if (size > MAX_SIZE) {
          faults.push(`${shownPath(file)}: is larger than any record (${formatBytes(size)})`);
          continue;
        }
        const records = await readRecords(file).catch((e: unknown) => {
          faults.push(`${shownPath(file)}: ${unreadWhy(e)}`);
          return null;
        });
        if (!records) continue;
        read.set(file, records);
        const named = (records.tables.get('roots') ?? [])
          .filter((r) => r.kind === 'safe' || r.kind === 'shelf')
          .map((r) => String(r.path));
        next.push(...named.filter((p) => path.isAbsolute(p)));
      }
    }
    folders = next;
  }
  const byLibrary = new Map<string, RecordFile[]>();
  for (const r of read.values())
    byLibrary.set(r.header.library, [...(byLibrary.get(r.header.library) ?? []), r]);
  const unread = faults.length > wrongFolders;
  const found = [...byLibrary.values()].map((files): Known => {
    const newest = files.reduce((a, b) => (b.mark.upTo > a.mark.upTo ? b : a));
    const beside = files.filter(
      (f) => f.header.root !== null && path.basename(path.dirname(f.file)) === OWN_FOLDER,
    );
    const places = beside.map((f) => ({ root: f.header.root!, path: path.dirname(path.dirname(f.file)) }));
    const kindOf = new Map((newest.tables.get('roots') ?? []).map((r) => [r.id, r.kind]));
    const always = files.filter(
      (f) =>
        !f.file.endsWith('.behind.jsonl') &&
        (f.header.root === null
          ? path.dirname(f.file) === homeRecords(home)
          : kindOf.get(f.header.root) === 'shelf'),
    );
    const latest = !unread && always.some((f) => f.mark.upTo === newest.mark.upTo);
    return {
      found: {
        newest,
        places,
        files: files.map((f) => f.file),
        latest,
        own: files.some((f) => path.dirname(f.file) === homeRecords(home)),
      },
      at: files.map((f) => f.mark.at).reduce((a, b) => (b > a ? b : a)),
      footage: new Set(files.flatMap((f) => [...idsIn(f, 'clips'), ...idsIn(f, 'safe_copies')])),
    };
  });
  return { found: inOrder(found), faults };
}

const idsIn = (r: RecordFile, table: string) => (r.tables.get(table) ?? []).map(({ id }) => id);

/** Records as they were found, when any of their files was written last, and ids of the clips and copies in any. */
interface Known {
  found: Omit<FoundRecords, 'older'>;
  at: string;
  footage: ReadonlySet<unknown>;
}

/** Those of this data folder's footage first, then the newest; and which of them are older than others of the same footage, which may know more. */
function inOrder(known: readonly Known[]): FoundRecords[] {
  const isAlike = (a: Known, b: Known) => a === b || [...a.footage].some((id) => b.footage.has(id));
  const own = known.filter((k) => k.found.own);
  const isOurs = new Map(known.map((k) => [k, own.some((o) => isAlike(o, k))]));
  return known
    .toSorted((a, b) => Number(isOurs.get(b)) - Number(isOurs.get(a)) || b.at.localeCompare(a.at))
    .map((k) => {
      const isBehind = (at: string) => known.some((o) => o !== k && o.at > at && isAlike(o, k));
      return {
        ...k.found,
        older: isBehind(k.at),
        latest: k.found.latest && !isBehind(k.found.newest.mark.at),
      };
    });
}
