import { HASH_WORDS, type HashKind } from '../exchange/hashes';
import type { Verification } from './verification';

/** What stood on a card and could not be copied: no plain file, or `unread` where it could not even be looked at. */
export interface Cannot { path: string; reason: string; unread?: boolean }

/** One file that stood on the card when it was last offered; `left` where it was not taken. */
export interface CardFile { path: string; size: number; fault: string | null; left?: boolean }

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
 * volumes, whose last check found nothing wrong. What could not be looked at on the card may be footage, and makes it a no.
 */
export function mayBeWiped(card: readonly CardFile[], copies: readonly CardCopy[], cannot: readonly Cannot[], running: boolean): WipeAnswer {
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
  const unread = cannot.filter((c) => c.unread);
  if (unread.length > 0) missing.push(`${unread[0]!.path} could not be read on the card${unread.length > 1 ? `, nor ${unread.length - 1} more` : ''} (${unread[0]!.reason}): what is there is in no copy. Copy the card again.`);
  const failed = card.filter((f) => f.fault !== null);
  if (failed.length > 0) missing.push(`${files(failed.length)} could not be copied, the first ${failed[0]!.path}: ${failed[0]!.fault}`);
  const nowhere = counts.filter((c) => c.n === 0 && c.f.fault === null).map((c) => c.f);
  const left = nowhere.filter((f) => f.left);
  const without = nowhere.length - left.length;
  if (left.length > 0) missing.push(`${files(left.length)} of ${card.length} ${left.length === 1 ? 'was' : 'were'} left on the card when it was copied, the first ${left[0]!.path}. Copy the whole card to count ${left.length === 1 ? 'it' : 'them'}.`);
  const once = counts.filter((c) => c.n === 1).length;
  if (without > 0) missing.push(`${files(without)} of ${card.length} ${without === 1 ? 'is' : 'are'} in no verified copy, the first ${nowhere.find((f) => !f.left)!.path}.`);
  if (once > 0) {
    const shared = new Set(good.map((c) => c.volume)).size < good.length;
    missing.push(shared ? `Copies share the volume ${good[0]!.volumeName}: one fault would take both. Make a copy on another volume.` : `${files(once)} of ${card.length} ${once === 1 ? 'is' : 'are'} in one verified copy only. Make another on a different volume.`);
  }
  const odd = cannot.filter((c) => !c.unread).map((c) => c.path);
  if (odd.length > 0) notes.push(`${odd.length === 1 ? '1 entry is' : `${odd.length} entries are`} no plain file and cannot be copied: ${odd.slice(0, 3).join(', ')}${odd.length > 3 ? ' …' : ''}`);
  const may = missing.length === 0 || (counts.every((c) => c.n >= 2) && !running && failed.length === 0 && unread.length === 0);
  const kinds = [...new Set(good.map((c) => HASH_WORDS[c.kind]))].join(' and ');
  const volumes = new Set(good.map((c) => c.volume)).size;
  return may
    ? { may, because: `All ${files(card.length)} of the card are in ${good.length} copies on ${volumes} volumes, verified by contents (${kinds}).`, missing: [], notes: [...missing, ...notes] }
    : { may, because: missing[0]!, missing, notes };
}
