import { createHash } from 'node:crypto';
import { hostname } from 'node:os';
import path from 'node:path';
import { SaxesParser } from 'saxes';
import type { DiskPath } from '../../core/platform/names';
import {
  c4FromSha512,
  folderHashes,
  type Hasher,
  type HashKind,
  type ListedFile,
  CHAIN_FILE,
  type ChainLink,
  type Generation,
  generationName,
  HashListReader,
  isoSeconds,
  listedPath,
  MHL_FOLDER,
  readChain,
  TOOL,
  writeChain,
  writeGeneration,
  readSums,
} from '../../core/hashLists';
import { isCode, NotFound, Unreadable } from '../platform/errors';
import { unreadWhy } from '../platform/files/faults';
import { createFile, flushFolder, makeFolder, removeFile, replaceFile } from '../platform/files/fileSystem';
import { shortHashes } from '../platform/files/hash';
import { parseXmlObject } from '../platform/media/xml';
import { entriesOf } from './entries';
import { joinPath } from '../platform/files/names';
import { namesIn } from '../platform/files/onDisk';
import { readAll } from '../platform/files/plainFile';

/** Hash lists larger than this are not read. Bytes. */
const MAX_SIZE = 256 << 20;
/** Bytes parsed at a time. */
const PIECE = 1 << 20;

const c4Of = (bytes: Buffer): string => c4FromSha512(createHash('sha512').update(bytes).digest('hex'));

export interface Lists {
  chain: ChainLink[];
  /** By path: every hash the lists state for it, the newest first. */
  known: Map<string, ListedFile>;
  /** Files that only lists which came with the card name: they were not on it when it was copied. */
  neverHere: DiskPath[];
  /** What is wrong with the lists themselves, in words. */
  faults: string[];
}

/** What a list is called until the chain names it. */
const beforeChain = (name: string): string => `.${name}.new`;
const BEFORE_CHAIN = /^\.\d+_.*\.mhl\.new$/;

/** Reads all generations of a folder and proves the chain. A folder without lists has none known. */
export async function readLists(folder: DiskPath): Promise<Lists> {
  const at = joinPath(folder, MHL_FOLDER);
  const lists: Lists = { chain: [], known: new Map(), neverHere: [], faults: [] };
  const names = await namesIn(at).catch((e: unknown): string[] => {
    if (isCode(e, 'ENOENT', 'ENOTDIR')) return [];
    throw e;
  });
  const mhls = names.filter((n) => n.endsWith('.mhl')).sort();
  const chain = await chainOf(at);
  // One that a killed server had not named yet, though the chain has it.
  mhls.push(
    ...(chain ?? [])
      .map((l) => l.file)
      .filter((f) => !mhls.includes(f) && names.includes(beforeChain(f) as DiskPath)),
  );
  if (mhls.length === 0) return lists;
  /** What lists made while the folder was copied here name. */
  const copied = new Set<string>();
  if (!chain)
    lists.faults.push(
      `${CHAIN_FILE} is missing or cannot be read: whether a list was altered cannot be told`,
    );
  lists.chain = chain ?? [];
  for (const link of lists.chain)
    if (!mhls.includes(link.file)) lists.faults.push(`the chain names ${link.file}, which is not there`);
  for (const name of mhls) {
    const bytes = await readAll(
      joinPath(at, names.includes(name) ? name : beforeChain(name)),
      MAX_SIZE,
    ).catch(unreadWhy);
    if (typeof bytes === 'string') {
      lists.faults.push(`${name} cannot be read: ${bytes}`);
      continue;
    }
    const link = lists.chain.find((l) => l.file === name);
    if (chain && !link) lists.faults.push(`${name} is not in the chain`);
    if (link && c4Of(bytes) !== link.c4) {
      lists.faults.push(`${name} is not as the chain knows it: it was altered and is not believed`);
      continue;
    }
    const list = parseList(bytes, name);
    if (!list) lists.faults.push(`${name} cannot be read as a hash list`);
    else {
      for (const f of list.files) {
        lists.known.set(f.path, { ...f, hashes: [...f.hashes, ...(lists.known.get(f.path)?.hashes ?? [])] });
        if (list.ours) copied.add(f.path);
      }
      // What only lists that came with the card name, and was not on it when it was copied, is missing from no copy.
      for (const p of list.ours ? lists.known.keys() : []) {
        if (copied.has(p)) continue;
        lists.known.delete(p);
        lists.neverHere.push(p);
      }
    }
  }
  return lists;
}

/** The chain of a folder of lists; `null` where it is missing or cannot be read. */
const chainOf = (at: DiskPath): Promise<ChainLink[] | null> =>
  readAll(joinPath(at, CHAIN_FILE), MAX_SIZE).then(understood, () => null);

/** What a chain's file says; `null` where that makes no sense. */
function understood(bytes: Buffer): ChainLink[] | null {
  try {
    return readChain(parseXmlObject(bytes.toString('utf8')));
  } catch {
    return null;
  }
}

/**
 * The chain that a new one is to replace. One that makes no sense is kept beside it, as it is the only witness of the lists before; where it is
 * there and cannot be read, this throws.
 */
async function chainToExtend(at: DiskPath): Promise<ChainLink[]> {
  const file = joinPath(at, CHAIN_FILE);
  const bytes = await readAll(file, MAX_SIZE).catch((e: unknown) => {
    if (isCode(e, 'ENOENT')) return null;
    throw e;
  });
  if (bytes === null) return [];
  const chain = understood(bytes);
  if (chain) return chain;
  const names = await namesIn(at);
  let n = 1;
  while (names.some((name) => name === `${CHAIN_FILE}.unreadable-${n}`)) n++;
  await replaceFile(file, joinPath(at, `${CHAIN_FILE}.unreadable-${n}`));
  return [];
}

/** Kinds in the order they are believed: one that is stated is enough. */
const ORDER: readonly HashKind[] = ['c4', 'xxh128', 'sha1', 'md5', 'xxh64', 'xxh3'];

/** What lists say of one file: its path as `listedPath` gives it, its bytes, and the hash that is believed first; `null` where they do not say. */
export type Expected = [path: DiskPath, size: number | null, hash: { kind: HashKind; value: string } | null];

/** `pages` are JSON of `Expected[]`: very many objects passed between threads would hold up both. */
export interface ExpectedFiles {
  newest: string | null;
  faults: string[];
  neverHere: DiskPath[];
  pages: string[];
}

const PAGE = 2000;

/** What a folder's own lists, or one made elsewhere, say of its files. */
export async function expectedFiles({
  folder,
  list,
}: {
  folder: DiskPath;
  list: string | null;
}): Promise<ExpectedFiles> {
  const said =
    list === null
      ? await readLists(folder)
      : {
          chain: [],
          faults: [],
          neverHere: [],
          known: new Map((await readForeignList(list)).map((f) => [f.path, f])),
        };
  const { chain, faults, known, neverHere } = said;
  const all = [...known.values()].map((f): Expected => [
    listedPath(f.path) as DiskPath,
    f.size,
    ORDER.flatMap((k) => f.hashes.find((h) => h.kind === k) ?? [])[0] ?? null,
  ]);
  const pages = Array.from({ length: Math.ceil(all.length / PAGE) }, (_, i) =>
    JSON.stringify(all.slice(i * PAGE, (i + 1) * PAGE)),
  );
  return { newest: chain.at(-1)?.file ?? null, faults, neverHere, pages };
}

/** A list as MHL or as checksum lines, and whether it was made by us while the folder was copied; `null` where it is neither. */
function parseList(bytes: Buffer, name: string): { files: ListedFile[]; ours: boolean } | null {
  if (!/^(?:\ufeff)?\s*</.test(bytes.subarray(0, 1024).toString('utf8'))) {
    const { files } = readSums(bytes.toString('utf8').replace(/^\ufeff/, ''), name);
    return files.length > 0 ? { files, ours: false } : null;
  }
  const reader = new HashListReader();
  const parser = new SaxesParser();
  parser.on('doctype', () => {
    throw new Error('a document type, which could declare entities');
  });
  parser.on('opentag', (tag) => reader.open(tag.name, tag.attributes));
  parser.on('text', (text) => reader.text(text));
  parser.on('cdata', (text) => reader.text(text));
  parser.on('closetag', () => reader.close());
  const decoder = new TextDecoder();
  try {
    for (let at = 0; at < bytes.length; at += PIECE)
      parser.write(decoder.decode(bytes.subarray(at, at + PIECE), { stream: true }));
    parser.close();
  } catch {
    return null;
  }
  const files = reader.end();
  return files && { files, ours: reader.tool === TOOL && reader.process === 'transfer' };
}

/** Reads one hash list that was made elsewhere: an MHL, or checksum lines. */
export async function readForeignList(file: DiskPath): Promise<ListedFile[]> {
  const bytes = await readAll(file, MAX_SIZE).catch((e: unknown) => {
    throw isCode(e, 'ENOENT') ? new NotFound('The hash list is no longer there.', { file }) : e;
  });
  const list = parseList(bytes, path.basename(file));
  if (!list)
    throw new Unreadable(`${path.basename(file)} is not a hash list that Sort Shelf can read.`, {
      file,
      next: 'Lists in MHL form are read, and lines as md5sum, sha1sum and xxhsum print them.',
    });
  return list.files;
}

/** What a generation is made of. */
export interface ListInput {
  process: Generation['process'];
  kind: HashKind;
  /** As `ListedEntries` gives them. */
  entries: readonly string[];
  emptyFolders: readonly string[];
  version: string;
}

/**
 * Adds a generation to a folder's lists; nothing that is there is altered but the chain, which is replaced whole. Returns its number. Throws
 * where the chain is there and cannot be read.
 * One at a time for a folder (`pool.ts`).
 */
export async function addGeneration(folder: DiskPath, input: ListInput): Promise<number> {
  const at = joinPath(folder, MHL_FOLDER);
  await makeFolder(at, folder);
  const chain = await chainToExtend(at);
  await endInterrupted(at, chain);
  const names = (await namesIn(at)).filter((n) => n.endsWith('.mhl'));
  const numbers = [...chain.map((l) => l.number), ...names.map((n) => Number(/^\d+/.exec(n)?.[0] ?? 0))];
  const number = numbers.reduce((most, n) => Math.max(most, n), 0) + 1;
  const now = new Date();
  const hasher = hasherOf(input.kind);
  const entries = entriesOf(input.entries).sort((a, b) => (a.path < b.path ? -1 : 1));
  const hashes = folderHashes(entries, input.emptyFolders, hasher);
  const text = writeGeneration({
    at: isoSeconds(now.getTime()),
    host: hostname(),
    tool: `${TOOL} ${input.version}`,
    process: input.process,
    kind: input.kind,
    entries,
    ...hashes,
    ignored: [MHL_FOLDER, `${MHL_FOLDER}/`, '.*.part'],
  });
  const name = generationName(number, path.basename(folder), now);
  const links = [...chain, { number, file: name, c4: writeWhole(joinPath(at, beforeChain(name)), text) }];
  // The list is there, whole, before the chain names it, and has its own name after: whenever this ends, either both are there or neither is.
  await flushFolder(at);
  const fresh = joinPath(at, `.${CHAIN_FILE}.new`);
  await removeFile(fresh).catch(() => undefined);
  writeWhole(fresh, [writeChain(links)]);
  await replaceFile(fresh, joinPath(at, CHAIN_FILE));
  await flushFolder(at);
  await replaceFile(joinPath(at, beforeChain(name)), joinPath(at, name));
  await flushFolder(at);
  return number;
}

/** Ends what a killed server began: a list that the chain has gets its name, one that it does not have is taken away. */
async function endInterrupted(at: DiskPath, chain: readonly ChainLink[]): Promise<void> {
  const names = await namesIn(at);
  for (const hidden of names.filter((n) => BEFORE_CHAIN.test(n))) {
    const link = chain.find((l) => beforeChain(l.file) === hidden);
    const final =
      link && !names.includes(link.file) && c4Of(await readAll(joinPath(at, hidden), MAX_SIZE)) === link.c4
        ? joinPath(at, link.file)
        : null;
    await (final ? replaceFile(joinPath(at, hidden), final) : removeFile(joinPath(at, hidden)));
  }
}

/** Writes a file that must not be there yet, and flushes it. Returns its C4 ID. */
function writeWhole(file: DiskPath, pieces: Iterable<string>): string {
  const made = createFile(file);
  const hash = createHash('sha512');
  let buffered = '';
  const flush = (): void => {
    const bytes = Buffer.from(buffered, 'utf8');
    buffered = '';
    hash.update(bytes);
    made.write(bytes);
  };
  try {
    for (const piece of pieces) if ((buffered += piece).length > 1 << 20) flush();
    flush();
    made.flush();
  } finally {
    made.close();
  }
  return c4FromSha512(hash.digest('hex'));
}

/** Hashes of short values, for the folders of a list. C4 values are hashed as the characters they are written in. */
function hasherOf(kind: HashKind): Hasher {
  const of = shortHashes(kind);
  return {
    ofText: (t) => of([Buffer.from(t, 'utf8')]),
    ofDigits: (v) => of(v.map((d) => (kind === 'c4' ? Buffer.from(d) : Buffer.from(d, 'hex')))),
  };
}
