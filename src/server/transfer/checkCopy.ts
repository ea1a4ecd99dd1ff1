import path from 'node:path';
import { type CheckReport, type CheckedFile, checkFile, type FileHash } from '../../core/custody';
import { type HashKind, CHAIN_FILE, listedPath, MHL_FOLDER } from '../../core/hashLists';
import { type DiskPath, shownPath } from '../../core/platform/names';
import { asError, isCode, Refused } from '../platform/errors';
import { inWords, unreadWhy } from '../platform/files/faults';
import { OWN_FOLDER } from '../platform/files/journal';
import { type Walked, walkWhole } from '../platform/files/walk';
import { version } from '../platform/version';
import { ListedEntries } from './entries';
import type { Expected } from './hashList';
import { addGeneration, hashInThread, readExpected } from './pool';
import { joinPath } from '../platform/files/names';

/** Paths a report names at most, of each sort. */
const NAMED = 1000;
/** Files read at once. */
const CONCURRENCY = 2;

export interface CheckOptions {
  /** A list made elsewhere to check against in place of the folder's own; absolute path. */
  list?: string;
  /** Hash of the copy; for files no list knows. */
  kind: HashKind;
  /** Bytes done and in all. */
  progress: (done: number, total: number) => void;
  gate: SharedArrayBuffer;
}

/** A file of a copy as it was recorded while copying. */
export interface Recorded {
  number: number;
  path: string;
  size: number;
  hash: FileHash;
}

/** What was found of a recorded file; size and time as it was when it was read. `value` is its hash by the record's kind. */
export interface FoundFile {
  number: number;
  result: CheckedFile['result'] | 'missing';
  value: string | null;
  size: number;
  modified: number;
}

type Entry = Walked['entries'][number];

/** What is in a folder and is not Sort Shelf's own. */
async function filesIn(folder: string, list?: string): Promise<{ files: Entry[]; empty: string[] }> {
  const own = (p: string) =>
    p.startsWith(`${MHL_FOLDER}/`) ||
    p.startsWith(`${OWN_FOLDER}/`) ||
    /(?:^|\/)\.[0-9a-f]{20}\.part$/.test(p) ||
    (list !== undefined && joinPath(folder, p) === list);
  const { entries, empty } = await walkWhole(folder);
  return {
    files: entries.filter((e) => e.kind === 'file' && !own(e.path)),
    empty: empty.filter((p) => !own(`${p}/`)),
  };
}

async function listedIn(
  folder: string,
  list: string | null,
): Promise<{ newest: string | null; faults: string[]; neverHere: DiskPath[]; known: Map<string, Expected> }> {
  const { newest, faults, neverHere, pages } = await readExpected(folder, list);
  const known = new Map<string, Expected>();
  for (const page of pages) {
    for (const e of JSON.parse(page) as Expected[]) known.set(e[0], e);
    await new Promise((r) => setImmediate(r));
  }
  return { newest, faults, neverHere, known };
}

const emptyReport = (against: CheckReport['against'], list: string): CheckReport => ({
  at: new Date().toISOString(),
  against,
  list,
  generation: null,
  same: 0,
  changed: [],
  missing: [],
  added: [],
  unreadable: [],
  unchecked: [],
  witness: null,
  disagree: [],
  lists: [],
});
const say = (where: string[], p: string): unknown => where.length < NAMED && where.push(shownPath(p));

/** What is done with one file; `hash` reads it. */
type ReadOne = (e: Entry, hash: (kinds: readonly HashKind[]) => Promise<FileHash[]>) => Promise<void>;

/** Reads files one after another in the threads and tells how far it is. */
async function readEach(
  files: readonly Entry[],
  options: CheckOptions,
  one: ReadOne,
  folder: string,
): Promise<void> {
  const total = files.reduce((n, e) => n + e.size, 0);
  const counter = new SharedArrayBuffer(8);
  const timer = setInterval(
    () => options.progress(Number(Atomics.load(new BigInt64Array(counter), 0)), total),
    300,
  );
  let next = 0;
  let failed: unknown = null;
  const lane = async (): Promise<void> => {
    while (next < files.length && failed === null) {
      const e = files[next++]!;
      await one(e, async (wanted) => {
        const kinds = [...new Set(wanted)];
        const values = await hashInThread({
          file: joinPath(folder, e.path),
          kinds,
          gate: options.gate,
          counter,
        });
        return kinds.map((kind, i) => ({ kind, value: values[i]! }));
      }).catch((err: unknown) => {
        failed ??= err;
      });
    }
  };
  try {
    await Promise.all(Array.from({ length: CONCURRENCY }, lane));
  } finally {
    clearInterval(timer);
  }
  if (failed !== null) throw asError(failed);
}

/**
 * Reads every recorded file of a copy and compares it with the record; the copy's own hash list is the second witness. Adds a
 * generation to the lists. Throws STOPPED where it was stopped.
 */
export async function checkRecorded(
  folder: string,
  recorded: readonly Recorded[],
  options: CheckOptions,
): Promise<{ report: CheckReport; found: FoundFile[] }> {
  const { newest, faults, known } = await listedIn(folder, null).catch((e: unknown) => ({
    newest: null,
    faults: [`the hash list cannot be read: ${unreadWhy(e)}`],
    known: new Map<string, Expected>(),
  }));
  const { files, empty } = await filesIn(folder);
  const byPath = new Map(recorded.map((r) => [r.path, r]));
  const report = { ...emptyReport('record', newest ?? MHL_FOLDER), lists: [...faults] };
  const found: FoundFile[] = [];
  const entries = new ListedEntries();
  let silent = 0;
  await readEach(
    files.filter((e) => byPath.has(e.path)),
    options,
    async (e, hash) => {
      const record = byPath.get(e.path)!;
      const listed = known.get(listedPath(e.path))?.[2] ?? null;
      const at = { number: record.number, size: e.size, modified: e.modified };
      try {
        const read = await hash([record.hash.kind, ...(listed ? [listed.kind] : [])]);
        const value = read.find((h) => h.kind === record.hash.kind)!.value;
        const { result, list } = checkFile(record.hash, listed, read);
        if (result === 'same') report.same++;
        else say(report.changed, e.path);
        if (list === 'differs') say(report.disagree, e.path);
        if (list === 'silent' && !listed) silent++;
        found.push({ ...at, result, value });
        entries.add({
          path: e.path,
          size: e.size,
          modified: e.modified,
          kind: record.hash.kind,
          value,
          action: result === 'same' ? 'verified' : 'failed',
        });
      } catch (err) {
        if (isCode(err, 'STOPPED')) throw err;
        if (report.unreadable.length < NAMED)
          report.unreadable.push({ path: shownPath(e.path), why: unreadWhy(err) });
        found.push({ ...at, result: 'unreadable', value: null });
      }
    },
    folder,
  );
  const there = new Set(files.map((e) => e.path));
  for (const r of recorded.filter((x) => !there.has(x.path))) {
    say(report.missing, r.path);
    found.push({ number: r.number, result: 'missing', value: null, size: 0, modified: 0 });
  }
  for (const e of files) if (!byPath.has(e.path)) say(report.added, e.path);
  const noList = newest === null && known.size === 0 && faults.length === 0;
  // A list that is not believed names nothing: that is said already.
  if (silent > 0 && !noList && faults.length === 0)
    report.lists.push(`${silent} ${silent === 1 ? 'file is' : 'files are'} not in the list`);
  report.witness = noList
    ? 'missing'
    : report.lists.length > 0 || report.disagree.length > 0
      ? 'altered'
      : 'agrees';
  await addGeneration(folder, {
    process: 'in-place',
    kind: options.kind,
    entries: entries.pages(),
    emptyFolders: empty,
    version,
  }).then(
    (n) => {
      report.generation = n;
    },
    (e: unknown) => {
      report.lists.push(`no generation could be added to ${CHAIN_FILE}: ${inWords(e)}`);
    },
  );
  return { report, found };
}

/**
 * Reads every file of a folder again and compares it with what its own hash lists say, or one made elsewhere. Reports same,
 * changed, missing and added files each on its own. Nothing is written. Refused where no list is there to compare with.
 */
export async function checkFolder(folder: string, options: CheckOptions): Promise<CheckReport> {
  const { newest, faults, neverHere, known } = await listedIn(folder, options.list ?? null);
  if (known.size === 0 && faults.length === 0)
    throw new Refused('There is no hash list in this folder.', {
      file: folder,
      next: 'Choose a list that was made elsewhere, or a folder that has one.',
    });
  const { files } = await filesIn(folder, options.list);
  const report = {
    ...emptyReport('list', options.list ? path.basename(options.list) : (newest ?? MHL_FOLDER)),
    lists: faults,
  };
  await readEach(
    files,
    options,
    async (e, hash) => {
      const said = known.get(listedPath(e.path));
      const expected = said?.[2];
      if (!said) return void say(report.added, e.path);
      if (!expected) return void say(report.unchecked, e.path);
      // Its length tells already; the bytes are not read for it.
      if (said[1] !== null && said[1] !== e.size) return void say(report.changed, e.path);
      try {
        const [read] = await hash([expected.kind]);
        if (read!.value === expected.value) report.same++;
        else say(report.changed, e.path);
      } catch (err) {
        if (isCode(err, 'STOPPED')) throw err;
        if (report.unreadable.length < NAMED)
          report.unreadable.push({ path: shownPath(e.path), why: unreadWhy(err) });
      }
    },
    folder,
  );
  const there = new Set(files.map((e) => listedPath(e.path)));
  for (const p of known.keys()) if (!there.has(p) && !p.startsWith(`${MHL_FOLDER}/`)) say(report.missing, p);
  // Missing from no copy, but perhaps from the card: nobody may think otherwise.
  const lost = neverHere.filter((p) => !there.has(listedPath(p)));
  if (lost.length > 0)
    report.lists.push(
      `a list that came with the card names ${lost.length === 1 ? 'a file that was' : `${lost.length} files that were`} not on it when it was copied: ${lost.slice(0, 5).map(shownPath).join(', ')}${lost.length > 5 ? ' …' : ''}`,
    );
  return report;
}
