import { type HashKind, hashValue, type ListedFile } from './hashes';

const BY_NAME: Record<string, HashKind> = {
  md5: 'md5',
  sha1: 'sha1',
  xxh64: 'xxh64',
  xxh3: 'xxh3',
  xxh128: 'xxh128',
  'xxh3-128': 'xxh128',
};

/**
 * Reads a checksum list as `md5sum`, `sha1sum` and `xxhsum` print it (GNU coreutils: digits, a space, a space or `*`, the
 * name; a line that starts with a backslash has `\n` and `\\` in its name escaped), or in the tagged form (`MD5 (name) = digits`).
 * The kind follows from the number of digits, or from the list's own name where two kinds have as many: 32 digits are
 * MD5 unless it says xxh. Lines that are neither are returned in `unread`.
 */
export function readSums(text: string, listName = ''): { files: ListedFile[]; unread: number } {
  const files: ListedFile[] = [];
  let unread = 0;
  const xx = /xx/i.test(listName);
  for (const line of text.split(/\r?\n/)) {
    if (line.trim() === '' || line.startsWith('#')) continue;
    const tagged = /^([A-Za-z0-9-]+) ?\((.+)\) = ([0-9a-fA-F]+)$/.exec(line);
    const plain = /^(\\?)([0-9a-fA-F]{16,128}) [ *](.+)$/.exec(line);
    const digits = tagged ? tagged[3]! : (plain?.[2] ?? '');
    const kind = tagged
      ? BY_NAME[tagged[1]!.toLowerCase()]
      : ({ 16: 'xxh64', 32: xx ? 'xxh128' : 'md5', 40: 'sha1' } as Record<number, HashKind>)[digits.length];
    const value = kind ? hashValue(kind, digits) : null;
    let path = tagged ? tagged[2]! : (plain?.[3] ?? '');
    if (plain?.[1] === '\\') path = path.replace(/\\(\\|n)/g, (_, c: string) => (c === 'n' ? '\n' : '\\'));
    path = path.replace(/^(?:\.\/)+/, '');
    if (!kind || !value || path === '') unread++;
    else files.push({ path, size: null, hashes: [{ kind, value }] });
  }
  return { files, unread };
}
