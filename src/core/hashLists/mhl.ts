import * as z from 'zod';
import type { DiskPath } from '../platform/names';
import { HashKind, hashValue, type ListedFile } from './hashes';

// ASC MHL 2.0 (American Society of Cinematographers), written from memory; docs/checks.md says what was checked and how.

/** The folder of hash lists inside a copied folder, and the file that names its generations in order. */
export const MHL_FOLDER = 'ascmhl';
export const CHAIN_FILE = 'ascmhl_chain.xml';

/** What Sort Shelf calls itself in a list. */
export const TOOL = 'SortShelf';

/** What a generation says about a file: first seen, seen again and the same, or seen and different. */
export type HashAction = 'original' | 'verified' | 'failed';

export interface MhlEntry {
  path: string;
  /** Bytes. */
  size: number;
  /** Milliseconds since 1970. */
  modified: number;
  kind: HashKind;
  value: string;
  action: HashAction;
  /** When the hash was taken, ISO 8601 as the generation's; absent where that is when the list is written. */
  takenAt?: string;
}

export interface MhlFolder {
  path: string;
  content: string;
  structure: string;
}

/** One generation: what is known of a folder's files at a moment. */
export interface Generation {
  /** ISO 8601 with offset. */
  at: string;
  host: string;
  tool: string;
  /** `transfer` where files were copied, `in-place` where they were only read. */
  process: 'transfer' | 'in-place';
  kind: HashKind;
  entries: readonly MhlEntry[];
  folders: readonly MhlFolder[];
  /** Of the whole folder. */
  root: { content: string; structure: string };
  ignored: readonly string[];
}

/** Text safe inside XML 1.0: markup escaped, characters XML cannot hold shown as U+FFFD. */
export const xmlText = (s: string): string =>
  s
    .replace(
      /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g,
      '\ufffd',
    )
    .replace(/&/g, '&amp;')
    .replace(/</g, '&lt;')
    .replace(/>/g, '&gt;')
    .replace(/"/g, '&quot;')
    // A parser would make these spaces of an attribute and line ends of a text.
    .replace(/\t/g, '&#9;')
    .replace(/\n/g, '&#10;')
    .replace(/\r/g, '&#13;');

/**
 * A path as a list has it: control characters, which XML 1.0 cannot hold, as private characters (U+F700 and up), so that no two
 * names become one. Paths are looked for in a list by this.
 */
export const listedPath = (path: DiskPath): string =>
  path
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f]/g, (c) =>
      String.fromCharCode(0xf700 + c.charCodeAt(0)),
    )
    .replace(/[\ufffe\uffff]/g, (c) => (c === '\ufffe' ? '\uf720' : '\uf721'));

/** ISO 8601 with offset, in whole seconds. */
export const isoSeconds = (ms: number): string => new Date(ms).toISOString().replace(/\.\d+Z$/, '+00:00');

const hashElement = (kind: HashKind, value: string, extra = ''): string =>
  `<${kind}${extra}>${value}</${kind}>`;

/** A generation as the text of its `.mhl` file, piece by piece: whole, that of very many files would take as much memory again. */
export function* writeGeneration(g: Generation): Generator<string> {
  const [tool, version = ''] = g.tool.split(' ');
  const pair = (f: { content: string; structure: string }, indent: string) =>
    `${indent}<content>${hashElement(g.kind, f.content)}</content>\n${indent}<structure>${hashElement(g.kind, f.structure)}</structure>\n`;
  yield `<?xml version="1.0" encoding="UTF-8"?>
<hashlist version="2.0" xmlns="urn:ASC:MHL:v2.0">
  <creatorinfo>
    <creationdate>${g.at}</creationdate>
    <hostname>${xmlText(g.host)}</hostname>
    <tool version="${xmlText(version)}">${xmlText(tool!)}</tool>
  </creatorinfo>
  <processinfo>
    <process>${g.process}</process>
    <roothash>
${pair(g.root, '      ')}    </roothash>
    <ignore>
${g.ignored.map((p) => `      <pattern>${xmlText(p)}</pattern>\n`).join('')}    </ignore>
  </processinfo>
  <hashes>
`;
  for (const e of g.entries) {
    yield `    <hash>
      <path size="${e.size}" lastmodificationdate="${isoSeconds(e.modified)}">${xmlText(listedPath(e.path))}</path>
      ${hashElement(e.kind, e.value, ` action="${e.action}" hashdate="${e.takenAt ?? g.at}"`)}
    </hash>
`;
  }
  for (const f of g.folders) {
    yield `    <directoryhash>
      <path>${xmlText(listedPath(f.path))}</path>
${pair(f, '      ')}    </directoryhash>
`;
  }
  yield '  </hashes>\n</hashlist>\n';
}

export interface ChainLink {
  number: number;
  file: string;
  c4: string;
}

/** The chain: every generation's file in order, each with its own C4 ID, so that an altered list is noticed. */
export function writeChain(links: readonly ChainLink[]): string {
  return `<?xml version="1.0" encoding="UTF-8"?>
<ascmhldirectory xmlns="urn:ASC:MHL:DIRECTORY:v2.0">
${links
  .map(
    (l) => `  <hashlist sequencenr="${l.number}">
    <path>${xmlText(l.file)}</path>
    <c4>${l.c4}</c4>
  </hashlist>
`,
  )
  .join('')}</ascmhldirectory>
`;
}

/** The name of a generation's file: number, folder, date and time in UTC. */
export function generationName(number: number, folder: string, at: Date): string {
  const stamp = at
    .toISOString()
    .replace(/[:]/g, '')
    .replace(/\.\d+Z$/, 'Z')
    .replace('T', '_');
  return `${String(number).padStart(4, '0')}_${folder.replace(/[^\p{L}\p{N}_.-]+/gu, '_').slice(0, 120) || 'folder'}_${stamp}.mhl`;
}

// What fast-xml-parser gives with attributes under "@_" and lists kept as lists where an element repeats.
const many = <T extends z.ZodType>(of: T) =>
  z.preprocess(
    (v): unknown =>
      v === undefined || (typeof v === 'string' && v.trim() === '') ? [] : Array.isArray(v) ? v : [v],
    z.array(of),
  );
const Text = z.preprocess(
  (v) => (typeof v === 'object' && v !== null && '#text' in v ? v['#text'] : v),
  z.coerce.string(),
);
const Chain = z.object({
  ascmhldirectory: z.object({
    hashlist: many(z.object({ '@_sequencenr': z.coerce.number().int(), path: Text, c4: Text })),
  }),
});

/** Version 1 of the list, as other programs still write it, has other names (from memory). */
const OLD_NAMES: Partial<Record<string, HashKind>> = {
  xxhash64be: 'xxh64',
  xxhash64: 'xxh64',
  md5: 'md5',
  sha1: 'sha1',
};
const bytesOf = (text: string | undefined): number | null =>
  text !== undefined && /^\d{1,15}$/.test(text.trim()) ? Number(text) : null;

/**
 * Takes a hash list in from the events of a streaming XML parser, element by element, version 2 or 1: a list of very many
 * files would not fit memory as a tree. A hash marked `failed` is no statement of what the file should be and is left out.
 */
export class HashListReader {
  /** What it was made by, and at what: "transfer" while a folder was copied. */
  tool = '';
  process = '';
  #version: string | null = null;
  readonly #files: ListedFile[] = [];
  readonly #open: string[] = [];
  #file: ListedFile | null = null;
  #attributes: Partial<Record<string, string>> = {};
  #text = '';

  open(name: string, attributes: Partial<Record<string, string>>): void {
    this.#open.push(localName(name));
    this.#attributes = attributes;
    this.#text = '';
    // Nothing that counts is deeper; what is nested without end costs nothing.
    if (this.#open.length > 3) return;
    const at = this.#open.join('/');
    if (at === 'hashlist') this.#version = attributes.version ?? null;
    if (at === 'hashlist/hashes/hash' || at === 'hashlist/hash')
      this.#file = { path: '', size: null, hashes: [] };
  }

  text(text: string): void {
    this.#text += text;
  }

  close(): void {
    const name = this.#open.pop()!;
    if (this.#open.length > 3) {
      this.#text = '';
      return;
    }
    const within = this.#open.join('/');
    const file = this.#file;
    if (within === 'hashlist/processinfo' && name === 'process') this.process = this.#text.trim();
    if (within === 'hashlist/creatorinfo' && name === 'tool') this.tool = this.#text.trim();
    if (file && within === 'hashlist/hashes/hash') this.#newer(file, name);
    else if (file && within === 'hashlist/hash') this.#older(file, name);
    else if (file && name === 'hash' && (within === 'hashlist/hashes' || within === 'hashlist')) {
      if (file.path !== '') this.#files.push(file);
      this.#file = null;
    }
    this.#text = '';
  }

  /** What was listed; `null` where it was no hash list. */
  end(): ListedFile[] | null {
    return this.#version === null ? null : this.#files;
  }

  #newer(file: ListedFile, name: string): void {
    if (name === 'path') Object.assign(file, { path: this.#text, size: bytesOf(this.#attributes.size) });
    const kind = HashKind.safeParse(name).data;
    if (kind && this.#attributes.action !== 'failed') this.#hash(file, kind);
  }

  #older(file: ListedFile, name: string): void {
    if (name === 'file') file.path = this.#text;
    if (name === 'size') file.size = bytesOf(this.#text);
    const kind = OLD_NAMES[name];
    if (kind) this.#hash(file, kind);
  }

  #hash(file: ListedFile, kind: HashKind): void {
    const value = hashValue(kind, this.#text);
    if (value !== null) file.hashes.push({ kind, value });
  }
}

const localName = (name: string): string => name.slice(name.indexOf(':') + 1);

export function readChain(parsed: unknown): ChainLink[] | null {
  const chain = Chain.safeParse(parsed);
  return chain.success
    ? chain.data.ascmhldirectory.hashlist.map((h) => ({ number: h['@_sequencenr'], file: h.path, c4: h.c4 }))
    : null;
}
