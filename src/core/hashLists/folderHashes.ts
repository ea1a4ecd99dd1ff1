import type { MhlFolder } from './mhl';

/** Gives the hash of a text's UTF-8 bytes, or of the bytes that hexadecimal digits stand for. */
export interface Hasher {
  ofText(text: string): string;
  ofDigits(values: readonly string[]): string;
}

interface Node {
  files: Map<string, string>;
  folders: Map<string, Node>;
}

/**
 * Hashes of every folder and of the whole (from memory of ASC MHL 2.0). `content` is the hash of the sorted hashes of what
 * is directly inside: it stays the same when files are renamed. `structure` is the hash of the sorted hashes of the names
 * inside, each folder's name followed by its own structure: it stays the same when contents change. Folders come before
 * what is inside them.
 */
export function folderHashes(
  files: readonly { path: string; value: string }[],
  emptyFolders: readonly string[],
  hasher: Hasher,
): { folders: MhlFolder[]; root: { content: string; structure: string } } {
  const top: Node = { files: new Map(), folders: new Map() };
  const at = (parts: readonly string[]): Node => {
    let node = top;
    for (const p of parts) {
      if (!node.folders.has(p)) node.folders.set(p, { files: new Map(), folders: new Map() });
      node = node.folders.get(p)!;
    }
    return node;
  };
  for (const f of files) {
    const parts = f.path.split('/');
    at(parts.slice(0, -1)).files.set(parts.at(-1)!, f.value);
  }
  for (const f of emptyFolders) at(f.split('/'));
  const folders: MhlFolder[] = [];
  const visit = (node: Node, path: string): { content: string; structure: string } => {
    const own: MhlFolder = { path, content: '', structure: '' };
    if (path !== '') folders.push(own);
    const contents = [...node.files.values()];
    const names = [...node.files.keys()].map((n) => hasher.ofText(n));
    for (const [name, inner] of [...node.folders].sort(([a], [b]) => (a < b ? -1 : 1))) {
      const below = visit(inner, path === '' ? name : `${path}/${name}`);
      contents.push(below.content);
      names.push(hasher.ofDigits([hasher.ofText(name), below.structure]));
    }
    own.content = hasher.ofDigits(contents.sort());
    own.structure = hasher.ofDigits(names.sort());
    return own;
  };
  const { content, structure } = visit(top, '');
  return { folders, root: { content, structure } };
}
