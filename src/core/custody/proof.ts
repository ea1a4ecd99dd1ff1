import type { HashKind } from '../hashLists';
import { sameTime } from './manifest';

export interface FileHash {
  kind: HashKind;
  value: string;
}

/**
 * The last time a file of a copy was read or compared. `copied`: when it was written. `check`: by a check of the copy.
 * `value` is the hash of what was read back from the copy, `null` where only its size was compared.
 */
export interface CopyReading {
  how: 'copied' | 'check';
  result: 'read' | 'sizeOnly' | 'changed' | 'missing' | 'unreadable';
  kind: HashKind | null;
  value: string | null;
  /** As the file was then: bytes, and milliseconds since 1970. */
  size: number;
  modified: number;
}

/** Size and time of a file when it is looked at; `null` where it is not there. */
export type Standing = { size: number; modified: number } | null;

/**
 * What a copy is worth for one file of a card. Only `proven` counts: its bytes were read and have the card's hash, and it
 * is there now with the size and time it had at that reading.
 */
export type Proof =
  'proven' | 'sizeOnly' | 'otherBytes' | 'altered' | 'missing' | 'unreadable' | 'cardUnread' | 'otherDisk';

/**
 * Works out what a copy proves of a file. `card` is what the card itself gave when it was read last, by kind of hash; `sameDisk` whether
 * it is on the disk it was read on: a drive that was cloned is as it was to the last size and time, and nobody has read it.
 */
export function proofOf(
  card: readonly FileHash[],
  reading: CopyReading,
  standing: Standing,
  sameDisk = true,
): Proof {
  if (standing === null) return 'missing';
  if (reading.result === 'missing') return 'altered';
  if (reading.result === 'unreadable') return 'unreadable';
  if (standing.size !== reading.size || !sameTime(standing.modified, reading.modified)) return 'altered';
  if (reading.result === 'changed') return 'otherBytes';
  const expected = card.find((h) => h.kind === reading.kind);
  if (card.length === 0) return 'cardUnread';
  if (reading.result === 'sizeOnly' || reading.value === null) return 'sizeOnly';
  if (!expected) return 'cardUnread';
  if (expected.value !== reading.value) return 'otherBytes';
  return sameDisk ? 'proven' : 'otherDisk';
}

/** What is found of one file of a copy, compared with what was recorded while copying; the list is heard beside it. */
export interface CheckedFile {
  result: 'same' | 'changed' | 'unreadable';
  /** `silent` where the list does not name the file, or by a kind of hash that is not computed here. */
  list: 'agrees' | 'differs' | 'silent';
}

/**
 * Compares the bytes that were read with the record, by the record's kind of hash, and with the list by the list's kind.
 * `read` holds the hashes of what was read; `null` where it could not be read.
 */
export function checkFile(
  recorded: FileHash,
  listed: FileHash | null,
  read: readonly FileHash[] | null,
): CheckedFile {
  const of = (kind: HashKind) => read?.find((h) => h.kind === kind)?.value;
  const told =
    listed &&
    (listed.kind === recorded.kind
      ? recorded.value === listed.value
      : of(listed.kind) === undefined
        ? null
        : of(listed.kind) === listed.value);
  // A list of another kind of hash can only be compared with the bytes: where those changed, it is no witness against the record.
  const same = of(recorded.kind) === recorded.value;
  const list =
    told === null || told === undefined || (!same && listed?.kind !== recorded.kind)
      ? 'silent'
      : told
        ? 'agrees'
        : 'differs';
  return { result: read === null ? 'unreadable' : same ? 'same' : 'changed', list };
}
