import { createHash } from 'node:crypto';
import { constants } from 'node:fs';
import { mkdir, open, readdir, readFile, rename, unlink } from 'node:fs/promises';
import { hostname } from 'node:os';
import path from 'node:path';
import { c4FromSha512 } from '../../core/exchange/c4';
import { folderHashes, type Hasher } from '../../core/exchange/folderHashes';
import type { HashKind, ListedFile } from '../../core/exchange/hashes';
import { CHAIN_FILE, type ChainLink, type Generation, generationName, MHL_FOLDER, type MhlEntry, readChain, readHashList, writeChain, writeGeneration } from '../../core/exchange/mhl';
import { readSums } from '../../core/exchange/sums';
import { isCode, NotFound, Unreadable } from '../errors';
import { newHash } from '../files/hash';
import { parseXmlObject } from '../media/xml';

/** Hash lists larger than this are not read. Bytes. */
const LARGEST = 256 << 20;

const c4Of = (bytes: Buffer): string => c4FromSha512(createHash('sha512').update(bytes).digest('hex'));

export interface Lists {
  chain: ChainLink[];
  /** By path: every hash the lists state for it, the newest first. */
  known: Map<string, ListedFile>;
  /** What is wrong with the lists themselves, in words. */
  faults: string[];
}

/** Reads all generations of a folder and proves the chain. A folder without lists has none known. */
export async function readLists(folder: string): Promise<Lists> {
  const at = path.join(folder, MHL_FOLDER);
  const lists: Lists = { chain: [], known: new Map(), faults: [] };
  const names = await readdir(at).catch((e: unknown) => {
    if (isCode(e, 'ENOENT', 'ENOTDIR')) return [];
    throw e;
  });
  const mhls = names.filter((n) => n.endsWith('.mhl')).sort();
  if (mhls.length === 0) return lists;
  const chain = await readFile(path.join(at, CHAIN_FILE), 'utf8').then(parseXmlObject).then(readChain).catch(() => null);
  if (!chain) lists.faults.push(`${CHAIN_FILE} is missing or cannot be read: whether a list was altered cannot be told`);
  lists.chain = chain ?? [];
  for (const link of lists.chain) if (!mhls.includes(link.file)) lists.faults.push(`the chain names ${link.file}, which is not there`);
  for (const name of mhls) {
    const bytes = await readFile(path.join(at, name));
    const link = lists.chain.find((l) => l.file === name);
    if (chain && !link) lists.faults.push(`${name} is not in the chain`);
    if (link && c4Of(bytes) !== link.c4) {
      lists.faults.push(`${name} is not as the chain knows it: it was altered and is not believed`);
      continue;
    }
    const list = await parseList(bytes, name).catch(() => null);
    if (!list) lists.faults.push(`${name} cannot be read as a hash list`);
    else for (const f of list) lists.known.set(f.path, { ...f, hashes: [...f.hashes, ...(lists.known.get(f.path)?.hashes ?? [])] });
  }
  return lists;
}

async function parseList(bytes: Buffer, name: string): Promise<ListedFile[] | null> {
  const text = bytes.toString('utf8').replace(/^\ufeff/, '');
  if (text.trimStart().startsWith('<')) return readHashList(parseXmlObject(text))?.files ?? null;
  const { files } = readSums(text, name);
  return files.length > 0 ? files : null;
}

/** Reads one hash list that was made elsewhere: an MHL, or checksum lines. */
export async function readForeignList(file: string): Promise<ListedFile[]> {
  const handle = await open(file, 'r').catch(() => {
    throw new NotFound('The hash list is not there any more.', { file });
  });
  try {
    if ((await handle.stat()).size > LARGEST) throw new Unreadable('The hash list is larger than 256 MB.', { file });
    const list = await parseList(await handle.readFile(), path.basename(file)).catch(() => null);
    if (!list) throw new Unreadable(`${path.basename(file)} is no hash list that is known here.`, { file, next: 'Lists in MHL form are read, and lines as md5sum, sha1sum and xxhsum print them.' });
    return list;
  } finally {
    await handle.close();
  }
}

/** What a generation is made of; times in milliseconds since 1970. */
export interface ListInput {
  process: Generation['process'];
  kind: HashKind;
  entries: (Omit<MhlEntry, 'modified'> & { modified: number })[];
  emptyFolders: readonly string[];
  version: string;
}

const iso = (ms: number): string => new Date(ms).toISOString().replace(/\.\d+Z$/, '+00:00');

/** Adds a generation to a folder's lists; nothing that stands there is altered but the chain, which is replaced whole. Returns its number. */
export async function addGeneration(folder: string, input: ListInput): Promise<number> {
  const at = path.join(folder, MHL_FOLDER);
  await mkdir(at, { recursive: true });
  const lists = await readLists(folder);
  const names = (await readdir(at)).filter((n) => n.endsWith('.mhl'));
  const number = Math.max(0, ...lists.chain.map((l) => l.number), ...names.map((n) => Number(/^\d+/.exec(n)?.[0] ?? 0))) + 1;
  const now = new Date();
  const hasher = hasherOf(input.kind);
  const entries = [...input.entries].sort((a, b) => (a.path < b.path ? -1 : 1));
  const hashes = folderHashes(entries.map((e) => ({ path: e.path, value: e.value })), input.emptyFolders, hasher);
  const text = writeGeneration({
    at: iso(now.getTime()), host: hostname(), tool: `SortShelf ${input.version}`, process: input.process, kind: input.kind,
    entries: entries.map((e) => ({ ...e, modified: iso(e.modified) })), ...hashes, ignored: [MHL_FOLDER, `${MHL_FOLDER}/`, '.*.part'],
  });
  const name = generationName(number, path.basename(folder), now);
  await writeWhole(path.join(at, name), text);
  const links = [...lists.chain, { number, file: name, c4: c4Of(Buffer.from(text, 'utf8')) }];
  const fresh = path.join(at, `.${CHAIN_FILE}.new`);
  await unlink(fresh).catch(() => undefined);
  await writeWhole(fresh, writeChain(links));
  await rename(fresh, path.join(at, CHAIN_FILE));
  return number;
}

async function writeWhole(file: string, text: string): Promise<void> {
  const handle = await open(file, constants.O_WRONLY | constants.O_CREAT | constants.O_EXCL, 0o644);
  try {
    await handle.writeFile(text);
    await handle.sync();
  } finally {
    await handle.close();
  }
}

/** Hashes of short values, for the folders of a list. C4 values are hashed as the characters they are written in. */
function hasherOf(kind: HashKind): Hasher {
  const of = (chunks: readonly Buffer[]): string => {
    const h = newHash(kind);
    for (const c of chunks) h.update(c);
    return h.digest();
  };
  return { ofText: (t) => of([Buffer.from(t, 'utf8')]), ofDigits: (v) => of(v.map((d) => (kind === 'c4' ? Buffer.from(d) : Buffer.from(d, 'hex')))) };
}
