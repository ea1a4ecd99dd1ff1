import { linkSync, mkdirSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { DiskOp } from '../platform/files/fileSystem';

// A disk that forgets. From the changes and flushes that were recorded, it makes what a power cut at any of them may leave:
// whatever was flushed is there; of the rest each change may have reached the disk or not, in any order the file system may have
// written them. As crash-consistency checkers do it, on the level of files and names (after the model of Pillai and others,
// "All File Systems Are Not Created Equal", OSDI 2014; from memory): contents are kept by file, names by folder.

/** A file's contents as far as they were written and flushed. */
interface Inode {
  id: number;
  written: Buffer;
  flushed: Buffer;
  modified: number | null;
}
/** A change to a folder's names: `gives` a name to a file, `takes` one, or both at once (a rename). Not flushed until its folders are. */
interface NameOp {
  gives: { name: string; inode: number | 'folder' } | null;
  takes: string | null;
  open: Set<string>;
}

/** What was on the disk before, all of it flushed: contents by absolute path. */
export type Before = ReadonlyMap<string, Buffer>;

/** `inodes` tells which names are of one file. */
export interface State {
  files: Map<string, Buffer>;
  inodes: Map<string, number>;
  folders: Set<string>;
}

/** Plays the recorded changes up to a cut, and gives a state that may be found after it. `keeps` decides for each change that was not flushed. */
export function afterCut(before: Before, ops: readonly DiskOp[], cut: number, keeps: () => boolean): State {
  const inodes: Inode[] = [];
  const names = new Map<string, number | 'folder'>();
  const pending: NameOp[] = [];
  const settled = new Map<string, number | 'folder'>();
  const newInode = (bytes: Buffer): number =>
    inodes.push({ id: inodes.length, written: bytes, flushed: bytes, modified: null }) - 1;
  for (const [p, bytes] of before) {
    names.set(p, newInode(bytes));
    settled.set(p, names.get(p)!);
  }
  const nameOp = (gives: NameOp['gives'], takes: string | null): void => {
    if (takes !== null) names.delete(takes);
    if (gives) names.set(gives.name, gives.inode);
    pending.push({
      gives,
      takes,
      open: new Set([gives?.name, takes].flatMap((n) => (n ? [path.dirname(n)] : []))),
    });
  };
  const settle = (op: NameOp): void => {
    if (op.takes !== null) settled.delete(op.takes);
    if (op.gives) settled.set(op.gives.name, op.gives.inode);
  };
  for (const op of ops.slice(0, cut)) {
    if (op.op === 'create') nameOp({ name: op.file, inode: newInode(Buffer.alloc(0)) }, null);
    else if (op.op === 'write') {
      const inode = inodes[names.get(op.file) as number]!;
      inode.written = Buffer.concat([inode.written, op.bytes]);
    } else if (op.op === 'flush') {
      const inode = inodes[names.get(op.file) as number]!;
      inode.flushed = inode.written;
    } else if (op.op === 'link') nameOp({ name: op.to, inode: names.get(op.from)! }, null);
    else if (op.op === 'rename') nameOp({ name: op.to, inode: names.get(op.from)! }, op.from);
    else if (op.op === 'remove' || op.op === 'removeFolder') nameOp(null, op.file);
    else if (op.op === 'folder') nameOp({ name: op.file, inode: 'folder' }, null);
    else if (op.op === 'flushFolder') {
      // A flushed folder has every change of its names so far, in order; a rename between two folders is whole or not at all.
      for (let i = 0; i < pending.length;) {
        if (pending[i]!.open.has(op.file)) settle(pending.splice(i, 1)[0]!);
        else i++;
      }
    }
  }
  // What was not flushed may have been written all the same, each change for itself, later ones before earlier ones.
  for (const op of pending) if (keeps()) settle(op);
  const state: State = { files: new Map(), inodes: new Map(), folders: new Set() };
  const kept = new Map<number, Buffer>();
  for (const [name, inode] of settled) {
    if (inode === 'folder') state.folders.add(name);
    else {
      const { flushed, written } = inodes[inode]!;
      // Bytes that were not flushed may be there, missing, or there in part.
      const half = flushed.length + Math.floor((written.length - flushed.length) / 2);
      if (!kept.has(inode))
        kept.set(
          inode,
          flushed.length === written.length ? written : keeps() ? written.subarray(0, half) : flushed,
        );
      state.files.set(name, Buffer.from(kept.get(inode)!));
      state.inodes.set(name, inode);
    }
  }
  // A file in a folder whose own name did not reach the disk is lost with it.
  const known = (folder: string): boolean =>
    !ops.slice(0, cut).some((o) => o.op === 'folder' && o.file === folder) || state.folders.has(folder);
  const reachable = (p: string): boolean => {
    for (let at = path.dirname(p); at !== path.dirname(at); at = path.dirname(at))
      if (!known(at)) return false;
    return true;
  };
  for (const name of [...state.files.keys()]) if (!reachable(name)) state.files.delete(name);
  for (const folder of [...state.folders]) if (!reachable(folder)) state.folders.delete(folder);
  return state;
}

/** Lays a state on the disk in place of what is below `root`; files that were there before keep their time. */
export function lay(root: string, state: State, times: ReadonlyMap<string, number>): void {
  rmSync(root, { recursive: true, force: true });
  mkdirSync(root, { recursive: true });
  for (const folder of [...state.folders].sort())
    if (folder.startsWith(root)) mkdirSync(folder, { recursive: true });
  const laid = new Map<number, string>();
  for (const [file, bytes] of state.files) {
    if (!file.startsWith(`${root}/`)) continue;
    mkdirSync(path.dirname(file), { recursive: true });
    const inode = state.inodes.get(file)!;
    if (laid.has(inode)) {
      linkSync(laid.get(inode)!, file);
      continue;
    }
    laid.set(inode, file);
    writeFileSync(file, bytes);
    const time = times.get(bytes.toString('latin1'));
    if (time !== undefined) utimesSync(file, time / 1000, time / 1000);
  }
}
