import path from 'node:path';
import type { CheckReport } from '../../core/copying/shapes';
import type { HashKind } from '../../core/exchange/hashes';
import { MHL_FOLDER } from '../../core/exchange/mhl';
import { shownPath } from '../../core/names';
import { isCode, messageOf, Refused } from '../errors';
import { OWN_FOLDER } from '../files/journal';
import { walkWhole } from '../files/walk';
import { version } from '../version';
import { ListedEntries } from './entries';
import type { Expected } from './hashList';
import { addGeneration, hashInThread, readExpected } from './pool';

/** Paths a report names at most, of each sort. */
const NAMED = 1000;

export interface CheckOptions {
  /** A list made elsewhere to check against in place of the folder's own; absolute path. */
  list?: string;
  /** Hash for files no list knows yet. */
  kind: HashKind;
  /** Whether a generation is added to the folder's lists. */
  record: boolean;
  /** Bytes done and in all. */
  progress: (done: number, total: number) => void;
  gate: SharedArrayBuffer;
}

/**
 * Reads every file of a folder again and compares it with what its hash lists say. Reports same, changed, missing and added
 * files each on its own, and adds a generation that says so. Refused where no list is there to compare with.
 */
export async function checkFolder(folder: string, options: CheckOptions): Promise<CheckReport> {
  const { newest, faults, pages } = await readExpected(folder, options.list ?? null);
  const known = new Map<string, Expected>();
  for (const page of pages) {
    for (const e of JSON.parse(page) as Expected[]) known.set(e[0], e);
    await new Promise((r) => setImmediate(r));
  }
  if (known.size === 0 && faults.length === 0) throw new Refused('There is no hash list in this folder.', { file: folder, next: 'Choose a list that was made elsewhere, or a folder that has one.' });
  const { entries, empty } = await walkWhole(folder);
  const own = (p: string) => p.startsWith(`${MHL_FOLDER}/`) || p.startsWith(`${OWN_FOLDER}/`) || /(?:^|\/)\.[0-9a-f]{20}\.part$/.test(p) || (options.list !== undefined && path.join(folder, p) === options.list);
  const found = entries.filter((e) => e.kind === 'file' && !own(e.path));
  const total = found.reduce((n, e) => n + e.size, 0);
  const report: CheckReport = {
    at: new Date().toISOString(), list: options.list ? path.basename(options.list) : (newest ?? MHL_FOLDER), generation: null,
    same: 0, changed: [], missing: [], added: [], unreadable: [], unchecked: [], lists: faults,
  };
  const say = (where: string[], p: string) => where.length < NAMED && where.push(shownPath(p));
  const recorded = new ListedEntries();
  const counter = new SharedArrayBuffer(8);
  const read = () => Number(Atomics.load(new BigInt64Array(counter), 0));
  const timer = setInterval(() => options.progress(read(), total), 300);
  const one = async (e: (typeof found)[number]): Promise<void> => {
    const said = known.get(e.path);
    const expected = said?.[2];
    if (said && !expected) {
      say(report.unchecked, e.path);
      return;
    }
    if (said && said[1] !== null && said[1] !== e.size) {
      // Its length tells already; the bytes are not read for it, and no hash is recorded.
      say(report.changed, e.path);
      return;
    }
    const kinds = [...new Set([expected?.kind ?? options.kind, options.kind])];
    try {
      const values = await hashInThread({ file: path.join(folder, e.path), kinds, gate: options.gate, counter });
      if (!expected) say(report.added, e.path);
      else if (values[0] === expected.value) report.same++;
      else say(report.changed, e.path);
      recorded.add({ path: e.path, size: e.size, modified: e.modified, kind: options.kind, value: values.at(-1)!, action: !expected ? 'original' : values[0] === expected.value ? 'verified' : 'failed' });
    } catch (err) {
      if (isCode(err, 'STOPPED')) throw err;
      if (report.unreadable.length < NAMED) report.unreadable.push({ path: shownPath(e.path), why: messageOf(err) });
    }
  };
  try {
    let next = 0;
    const lane = async () => {
      while (next < found.length) await one(found[next++]!);
    };
    await Promise.all([lane(), lane()]);
  } finally {
    clearInterval(timer);
  }
  const there = new Set(found.map((e) => e.path));
  for (const p of known.keys()) if (!there.has(p) && !own(p)) say(report.missing, p);
  if (options.record) report.generation = await addGeneration(folder, { process: 'in-place', kind: options.kind, entries: recorded.pages(), emptyFolders: empty.filter((p) => !own(`${p}/`)), version });
  return report;
}
