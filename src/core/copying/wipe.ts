import { HASH_WORDS, type HashKind } from '../exchange/hashes';
import type { Verification } from './verification';

/** One file that stood on the card when it was last offered. */
export interface CardFile { path: string; size: number; fault: string | null }

/** One copy of the card and which of the card's files it holds verified. */
export interface CardCopy {
  id: string;
  /** Where it is, in words. */
  place: string;
  /** What tells its volume from others. */
  volume: string;
  volumeName: string;
  verification: Verification;
  kind: HashKind;
  /** ISO 8601. */
  verifiedAt: string;
  /** Paths it holds verified, as on the card. */
  holds: ReadonlySet<string>;
  /** Whether the folder is there now. */
  present: boolean;
  /** Files that the last check found changed or missing. */
  spoilt: number;
}

export interface WipeAnswer {
  may: boolean;
  /** In one sentence. */
  because: string;
  /** What is missing for a yes, each in words. */
  missing: string[];
  /** What the person should know although it changes nothing. */
  notes: string[];
}

const files = (n: number): string => `${n} ${n === 1 ? 'file' : 'files'}`;

/**
 * May this card be wiped? Yes where every file of the card stands in two or more copies verified by contents, on different
 * volumes, whose last check found nothing wrong. `cannot` lists what is no file and cannot be copied.
 */
export function mayBeWiped(card: readonly CardFile[], copies: readonly CardCopy[], cannot: readonly string[], running: boolean): WipeAnswer {
  const missing: string[] = [];
  const notes: string[] = [];
  if (card.length === 0) return { may: false, because: 'Nothing is known of what stood on this card.', missing: ['Copy the card from a reader or folder first.'], notes };
  if (running) missing.push('The copy is not finished.');
  const good = copies.filter((c) => c.verification !== 'sizes' && c.present && c.spoilt === 0);
  for (const c of copies) {
    if (!c.present) missing.push(`${c.place} is not there now: connect ${c.volumeName} to count it.`);
    else if (c.spoilt > 0) missing.push(`The last check of ${c.place} found ${files(c.spoilt)} changed or missing: it does not count.`);
    else if (c.verification === 'sizes') missing.push(`${c.place} was compared by sizes only: check it again by contents to count it.`);
  }
  const volumesOf = (path: string) => new Set(good.filter((c) => c.holds.has(path)).map((c) => c.volume));
  const counts = card.map((f) => ({ f, n: volumesOf(f.path).size }));
  const failed = card.filter((f) => f.fault !== null);
  if (failed.length > 0) missing.push(`${files(failed.length)} could not be copied, the first ${failed[0]!.path}: ${failed[0]!.fault}`);
  const without = counts.filter((c) => c.n === 0 && c.f.fault === null).length;
  const once = counts.filter((c) => c.n === 1).length;
  if (without > 0) missing.push(`${files(without)} of ${card.length} ${without === 1 ? 'is' : 'are'} in no verified copy.`);
  if (once > 0) {
    const shared = new Set(good.map((c) => c.volume)).size < good.length;
    missing.push(shared ? `Copies share the volume ${good[0]!.volumeName}: one fault would take both. Make a copy on another volume.` : `${files(once)} of ${card.length} ${once === 1 ? 'is' : 'are'} in one verified copy only. Make another on a different volume.`);
  }
  if (cannot.length > 0) notes.push(`${cannot.length === 1 ? '1 entry is' : `${cannot.length} entries are`} no plain file and cannot be copied: ${cannot.slice(0, 3).join(', ')}${cannot.length > 3 ? ' …' : ''}`);
  const may = missing.length === 0 || (counts.every((c) => c.n >= 2) && !running && failed.length === 0);
  const kinds = [...new Set(good.map((c) => HASH_WORDS[c.kind]))].join(' and ');
  const volumes = new Set(good.map((c) => c.volume)).size;
  return may
    ? { may, because: `All ${files(card.length)} of the card are in ${good.length} copies on ${volumes} volumes, verified by contents (${kinds}).`, missing: [], notes: [...missing, ...notes] }
    : { may, because: missing[0]!, missing, notes };
}
