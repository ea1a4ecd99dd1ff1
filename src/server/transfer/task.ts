import type { HashKind } from '../../core/hashLists';
import type { Verification } from '../../core/offload';
import type { OnVolume } from '../platform/files/onVolume';

/** One file to copy. Paths are absolute, as `names.ts` writes them; size in bytes, time in milliseconds since 1970. */
export interface TaskFile {
  number: number;
  from: string;
  size: number;
  modified: number;
  /** Where it goes under its final name, one for each destination; `null` where it does not go to that one. */
  to: (string | null)[];
}

export interface CopyTask {
  files: TaskFile[];
  /** For each destination the folder that its files go below: nothing counts as copied there that went to another volume. `null` where that is nobody's matter. */
  on: (OnVolume | null)[];
  kind: HashKind;
  verification: Verification;
  /** Module that opens the source's files in place of the disk: a stand-in's. `null` for the disk itself. */
  reader: string | null;
  /** [0] is 1 while someone reads the source: it is read by one at a time. [1] is set to stop. Int32. */
  gate: SharedArrayBuffer;
  /** Bytes of the source read so far, BigInt64. */
  counter: SharedArrayBuffer;
  /** Module that opens the copies, for a stand-in drive; `null` for the disk. */
  writer: string | null;
}

/** How a file is at a destination under its final name. `read` where its bytes were read back and have the source's hash. */
export interface Stood {
  destination: number;
  size: number;
  modified: number;
  read: boolean;
}

/** How a file fared; verified, it is at every destination it was to go to. */
export type FileOutcome = { number: number } & (
  | { state: 'verified'; hash: string; stood: Stood[] }
  /** `where` is a destination's number or the source; `code` the file system's word, or one of ours. */
  | { state: 'fault'; where: number | 'source'; code: string; text: string }
);

export interface HashTask {
  file: string;
  kinds: HashKind[];
  gate: SharedArrayBuffer;
  counter: SharedArrayBuffer;
}

/** The hashes in the order they were asked for, or why there are none. */
export type HashOutcome = { values: string[] } | { code: string; text: string };

/** A file that is read from a card. `read` gives 0 at its end. */
export interface SourceFile {
  stat(): Promise<{ size: number; modified: number; isFile: boolean }>;
  read(buffer: Buffer, at: number): Promise<number>;
  close(): Promise<void>;
}
/** `again` asks for the bytes on the medium, past what the system remembers of it. */
export type OpenSource = (file: string, again: boolean) => Promise<SourceFile>;

/** A file being written; throws what the file system throws. */
export interface TargetFile {
  write(bytes: Buffer): Promise<void>;
  sync(): Promise<void>;
  close(): Promise<void>;
}
export type OpenTarget = (file: string) => Promise<TargetFile>;

/** Codes of ours beside the file system's. */
export const CHANGED = 'CHANGED';
export const DIFFERS = 'DIFFERS';
export const STOPPED = 'STOPPED';

/** Why a list is not read, in words; `gone` where it is no longer there. */
export interface RefusedList {
  gone: boolean;
  message: string;
  about: { file?: string; next?: string };
}
