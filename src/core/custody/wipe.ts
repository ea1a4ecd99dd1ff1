import { HASH_WORDS, type HashKind } from '../hashLists';
import { type DiskIdentity, goesWithCard, shareDisk, standApart } from '../platform/disks';
import type { ShownPath } from '../platform/names';
import type { Proof } from './proof';

/** One file of a card's manifest. */
export interface CardFile {
  number: number;
  path: ShownPath;
  size: number;
  /** Why it could not be copied the last time it was tried; `null` otherwise. */
  fault: string | null;
  /** Whether it was left on the card by every copying so far. */
  left: boolean;
}

/** One copy of the card, as it is when it is looked at. */
export interface CardCopy {
  id: string;
  /** Where it is, in words. */
  place: string;
  disk: DiskIdentity;
  /** `offline` where its drive is not connected: `proofs` then tell how it was when it was seen last. */
  presence: 'there' | 'offline';
  /** ISO 8601: now for what is there, else when it was last seen; `null` where it never was since it was written. */
  seenAt: string | null;
  kind: HashKind;
  /** What it proves, by the number of the file; files it was never to hold are not in it. */
  proofs: ReadonlyMap<number, Proof>;
}

/** What the person can do about a reason. */
export type WayOn =
  | { do: 'check'; copy: string }
  | { do: 'connect'; copy: string }
  | { do: 'copy' }
  | { do: 'retry' }
  | { do: 'wait' }
  | { do: 'servers' };

/** Why the answer is no: in words, with the files it is about and the way on. */
export interface WipeReason {
  text: string;
  /** The first few files, as on the card. */
  files: ShownPath[];
  /** How many files it is about; 0 where it is about none in particular. */
  count: number;
  way: WayOn | null;
}

/**
 * `yes`: proven, looked at just now. `asOf`: proven by copies that are not connected, as they were last seen, which the person
 * allowed for the job. `notNow`: the same where it was not allowed. `no`: anything else.
 */
export type Verdict = 'yes' | 'asOf' | 'notNow' | 'no';

export const VERDICT_WORDS: Record<Verdict, string> = {
  yes: 'Yes',
  asOf: 'Yes, as last seen',
  notNow: 'Not provable now',
  no: 'No',
};

export interface WipeAnswer {
  verdict: Verdict;
  may: boolean;
  /** In one sentence. */
  because: string;
  /** What is missing for a yes. */
  reasons: WipeReason[];
  /** What the person should know although it changes nothing. */
  notes: string[];
}

export interface WipeQuestion {
  card: readonly CardFile[];
  /** The disk the card is on: a copy there may go with it. `null` where it is not known, or nothing that is wiped whole. */
  cardDisk: DiskIdentity | null;
  copies: readonly CardCopy[];
  cannot: readonly { path: ShownPath; reason: string; unread?: boolean }[];
  /** Whether a copying of the card is not at its end. */
  running: boolean;
  /** Files that are on the card now and were not there when it was offered; `null` where the card is not connected. */
  newOnCard: readonly ShownPath[] | null;
  /** What cannot be looked at now where the card is, and could when it was offered. */
  unseenOnCard: readonly { path: ShownPath; reason: string }[];
  /** Whether something that is not known is at the card's place: another card, or this one, emptied and filled again. */
  unknownInPlace: boolean;
  /** Whether the person lets drives count that are not connected. */
  allowOffline: boolean;
  /** Whether the person says that servers of different addresses are different ones. */
  serversApart: boolean;
  /** Whether all of the volume was offered, or one folder of it. */
  scope: 'volume' | 'folder';
}

const NAMED = 8;
const count = (n: number, one: string): string => `${n} ${n === 1 ? one : `${one}s`}`;
const files = (n: number): string => count(n, 'file');

const PROOF_WORDS: Record<Exclude<Proof, 'proven'>, (n: string, place: string) => string> = {
  sizeOnly: (n, place) =>
    `${n} on ${place} compared by size only. Check that copy again: it then reads every byte.`,
  otherBytes: (n, place) => `${n} on ${place} not hold the same bytes as the card. Copy the card again.`,
  altered: (n, place) =>
    `${n} on ${place} changed or replaced since they were verified. Check that copy again.`,
  missing: (n, place) =>
    `${n} on ${place} no longer there. Put them back and check again, or copy the card again.`,
  unreadable: (n, place) => `${n} on ${place} could not be read at the last check.`,
  otherDisk: (n, place) =>
    `${n} on ${place} now on a different disk from the one that was verified. Check that copy again: it then reads every byte.`,
  cardUnread: (n, place) =>
    `${n} on ${place} cannot be compared with the card: it was hashed in another way. Copy the card again.`,
};
const VERBS: Record<Exclude<Proof, 'proven'>, [one: string, many: string]> = {
  sizeOnly: ['was', 'were'],
  otherBytes: ['does', 'do'],
  altered: ['was', 'were'],
  missing: ['is', 'are'],
  unreadable: ['', ''],
  cardUnread: ['', ''],
  otherDisk: ['is', 'are'],
};

/**
 * May this card be wiped? Yes where every file of its manifest is proven in two or more copies on different physical disks,
 * each read back with the card's own hash and standing there now. Everything that is not known is a no.
 */
export function mayBeWiped(q: WipeQuestion): WipeAnswer {
  const notes: string[] = [];
  if (q.card.length === 0) {
    return {
      verdict: 'no',
      may: false,
      because: 'Nothing is known of what stood on this card.',
      reasons: [
        { text: 'Copy the card from a reader or folder first.', files: [], count: 0, way: { do: 'copy' } },
      ],
      notes,
    };
  }
  const pathOf = new Map(q.card.map((f) => [f.number, f.path]));
  const blocking = blockers(q);
  const counting = q.copies.filter((c) => !goesWithCard(c.disk, q.cardDisk));
  const now = shortOf(
    q,
    counting.filter((c) => c.presence === 'there'),
  );
  const ever = shortOf(
    q,
    counting.filter((c) => c.presence === 'there' || (c.disk.lasting && c.seenAt !== null)),
  );
  const odd = q.cannot.filter((c) => !c.unread).map((c) => c.path);
  if (odd.length > 0)
    notes.push(
      `${odd.length === 1 ? '1 entry is' : `${odd.length} entries are`} no plain file and cannot be copied: ${odd.slice(0, 3).join(', ')}${odd.length > 3 ? ' …' : ''}`,
    );
  // A drive that was emptied and written again has several copies at one place: what is the same of each is said once.
  const about = [...new Map(aboutCopies(q, pathOf).map((r) => [r.text, r])).values()];
  const verdict: Verdict =
    blocking.length > 0
      ? 'no'
      : now.length === 0
        ? 'yes'
        : ever.length > 0
          ? 'no'
          : q.allowOffline
            ? 'asOf'
            : 'notNow';
  const may = verdict === 'yes' || verdict === 'asOf';
  const reasons = [...blocking, ...lacking(now, q), ...about];
  if (!may) {
    const because = verdict === 'notNow' ? notNow(q) : reasons[0]!.text;
    return { verdict, may, because, reasons, notes };
  }
  const good = counting.filter(
    (c) => (verdict === 'asOf' || c.presence === 'there') && [...c.proofs.values()].includes('proven'),
  );
  const kinds = [...new Set(good.map((c) => HASH_WORDS[c.kind]))].join(' and ');
  const what = q.scope === 'volume' ? 'the card' : 'this folder';
  const away = good
    .filter((c) => c.presence === 'offline')
    .map((c) => c.seenAt!)
    .sort();
  const asOf = away.length > 0 ? `, as of ${away[0]!.slice(0, 10)} ${away[0]!.slice(11, 16)} UTC` : '';
  const held =
    q.card.length === 1 ? `The one file of ${what} is` : `All ${files(q.card.length)} of ${what} are`;
  return {
    verdict,
    may,
    because: `${held} in ${heldIn(q.card, good)}, verified by contents (${kinds})${asOf}.`,
    reasons: [],
    notes: [...about.map((r) => r.text), ...notes],
  };
}

const reason = (text: string, paths: readonly ShownPath[], way: WayOn | null): WipeReason => ({
  text,
  files: paths.slice(0, NAMED),
  count: paths.length,
  way,
});

/** The copies in which a file is proven; what stands in memory is none. */
const provenIn = (copies: readonly CardCopy[], number: number): CardCopy[] =>
  copies.filter((c) => c.disk.kind !== 'memory' && c.proofs.get(number) === 'proven');

/** In how many copies on how many disks every file is: one copy may hold more files than another. What was copied to one folder in several goes is one. */
function heldIn(card: readonly CardFile[], copies: readonly CardCopy[]): string {
  const held = new Map<string, { places: number; disks: number }>();
  for (const { number } of card) {
    const having = provenIn(copies, number);
    const key = having.map((c) => c.id).join(' ');
    if (!held.has(key))
      held.set(key, {
        places: new Set(having.map((c) => `${c.place}\0${c.disk.disks.join('\0')}`)).size,
        disks: new Set(having.flatMap((c) => c.disk.disks)).size,
      });
  }
  const all = [...held.values()];
  const places = Math.min(...all.map((h) => h.places));
  const disks = Math.min(...all.map((h) => h.disks));
  const least = all.some((h) => h.places > places || h.disks > disks) ? 'at least ' : '';
  return `${least}${count(places, 'copy').replace('copys', 'copies')} on ${count(disks, 'disk')}`;
}

/** What makes it a no whatever the copies hold. */
function blockers(q: WipeQuestion): WipeReason[] {
  const out: WipeReason[] = [];
  if (q.running) out.push(reason('The copying of this card has not finished.', [], { do: 'wait' }));
  const unread = q.cannot.filter((c) => c.unread);
  if (unread.length > 0) {
    const more = unread.length > 1 ? `, nor ${unread.length - 1} more` : '';
    out.push(
      reason(
        `${unread[0]!.path} could not be read on the card${more} (${unread[0]!.reason}): what is there is in no copy. Copy the card again.`,
        unread.map((c) => c.path),
        { do: 'copy' },
      ),
    );
  }
  if (q.unknownInPlace)
    out.push(
      reason(
        'What stands in its place now has not been copied: another card, or this one refilled. Copy it, or take it out.',
        [],
        { do: 'copy' },
      ),
    );
  const [unseen, ...others] = q.unseenOnCard;
  if (unseen) {
    const more = others.length > 0 ? `, nor ${others.length} more` : '';
    out.push(
      reason(
        `${unseen.path || 'The card'} cannot be looked at now${more} (${unseen.reason}): what is there may be new. Put the card in again and ask again, or copy it again.`,
        q.unseenOnCard.map((c) => c.path),
        { do: 'copy' },
      ),
    );
  }
  if (q.newOnCard && q.newOnCard.length > 0) {
    const n = q.newOnCard.length;
    out.push(
      reason(
        `${files(n)} on the card ${n === 1 ? 'is' : 'are'} new or changed since it was copied, the first ${q.newOnCard[0]}. Copy the card again to add ${n === 1 ? 'it' : 'them'}.`,
        q.newOnCard,
        { do: 'copy' },
      ),
    );
  }
  return out;
}

/** A file that is not in two copies on different disks: in how many it is proven, and whether those share a disk. */
interface Short {
  file: CardFile;
  copies: readonly CardCopy[];
}

function shortOf({ card, serversApart }: WipeQuestion, copies: readonly CardCopy[]): Short[] {
  // Files of a card are mostly in the same copies: whether those stand apart is worked out once for each choice of them.
  const apart = new Map<string, boolean>();
  return card.flatMap((file) => {
    const having = provenIn(copies, file.number);
    const key = having.map((c) => c.id).join(' ');
    if (!apart.has(key))
      apart.set(
        key,
        having.some((a, i) => having.slice(i + 1).some((b) => standApart(a.disk, b.disk, serversApart))),
      );
    return apart.get(key) ? [] : [{ file, copies: having }];
  });
}

function lacking(short: readonly Short[], q: WipeQuestion): WipeReason[] {
  const out: WipeReason[] = [];
  const total = q.card.length;
  const failed = short.filter((s) => s.file.fault !== null);
  if (failed.length > 0)
    out.push(
      reason(
        `${files(failed.length)} could not be copied, the first ${failed[0]!.file.path}: ${failed[0]!.file.fault}`,
        failed.map((s) => s.file.path),
        { do: 'retry' },
      ),
    );
  const rest = short.filter((s) => s.file.fault === null);
  const nowhere = rest.filter((s) => s.copies.length === 0);
  const left = nowhere.filter((s) => s.file.left);
  if (left.length > 0) {
    const [were, them] = left.length === 1 ? ['was', 'it'] : ['were', 'them'];
    out.push(
      reason(
        `${files(left.length)} of ${total} ${were} left on the card when it was copied, the first ${left[0]!.file.path}. Copy the whole card to count ${them}.`,
        left.map((s) => s.file.path),
        { do: 'copy' },
      ),
    );
  }
  const without = nowhere.filter((s) => !s.file.left);
  if (without.length > 0)
    out.push(
      reason(
        `${files(without.length)} of ${total} ${without.length === 1 ? 'is' : 'are'} in no verified copy, the first ${without[0]!.file.path}.`,
        without.map((s) => s.file.path),
        { do: 'copy' },
      ),
    );
  const once = rest.filter((s) => s.copies.length === 1);
  if (once.length > 0)
    out.push(
      reason(
        `${files(once.length)} of ${total} ${once.length === 1 ? 'is' : 'are'} in one verified copy only. Make another on a different disk.`,
        once.map((s) => s.file.path),
        { do: 'copy' },
      ),
    );
  const shared = rest.filter((s) => s.copies.length > 1);
  if (shared.length > 0) {
    const blind = shared[0]!.copies.find((c) => c.disk.disks.length === 0);
    const shares = shared[0]!.copies.filter((c) => c.disk.kind === 'network');
    const other = shares.find((c) => !shareDisk(c.disk, shares[0]!.disk));
    if (other) {
      const text = `${shares[0]!.place} and ${other.place} are on servers of different addresses (${shares[0]!.disk.disks[0]}, ${other.disk.disks[0]}), which may be one server: whether they are two, only a person can say.`;
      return [
        ...out,
        reason(
          text,
          shared.map((s) => s.file.path),
          { do: 'servers' },
        ),
      ];
    }
    const text = blind
      ? `Which disk ${blind.place} stands on cannot be told (${blind.disk.name}), so that its copies do not count as two. Make a copy on a disk that can be told.`
      : `The copies stand on one disk, ${shared[0]!.copies[0]!.disk.name}: one fault would take both. Make a copy on another disk.`;
    out.push(
      reason(
        text,
        shared.map((s) => s.file.path),
        { do: 'copy' },
      ),
    );
  }
  return out;
}

/** What is wrong with each copy: nothing said here makes a yes, it tells why a copy does not count. */
function aboutCopies(q: WipeQuestion, pathOf: ReadonlyMap<number, ShownPath>): WipeReason[] {
  return q.copies.flatMap((c) => {
    const out: WipeReason[] = [];
    if (c.presence === 'offline') {
      const when =
        c.seenAt === null ? '' : `, last seen ${c.seenAt.slice(0, 10)} ${c.seenAt.slice(11, 16)} UTC`;
      out.push(
        reason(`${c.place} is offline${when}: connect its drive to count it.`, [], {
          do: 'connect',
          copy: c.id,
        }),
      );
    }
    if (c.disk.kind === 'memory')
      out.push(
        reason(
          `${c.place} stands in memory, which is lost when the power goes: it does not count.`,
          [],
          null,
        ),
      );
    if (goesWithCard(c.disk, q.cardDisk))
      out.push(
        reason(
          `${c.place} stands on the disk the card itself is on: what wipes the one may take the other, so that it does not count.`,
          [],
          null,
        ),
      );
    const bad = new Map<Exclude<Proof, 'proven'>, ShownPath[]>();
    for (const [n, p] of c.proofs) {
      if (p === 'proven') continue;
      const path = pathOf.get(n);
      if (path === undefined) continue;
      const list = bad.get(p);
      if (list) list.push(path);
      else bad.set(p, [path]);
    }
    for (const [p, paths] of bad) {
      const verb = VERBS[p][paths.length === 1 ? 0 : 1];
      const text = PROOF_WORDS[p](files(paths.length), `${c.place}${verb === '' ? '' : ` ${verb}`}`);
      const check =
        p === 'sizeOnly' || p === 'altered' || p === 'missing' || p === 'unreadable' || p === 'otherDisk';
      out.push(
        reason(
          text,
          paths,
          c.presence === 'offline'
            ? { do: 'connect', copy: c.id }
            : check
              ? { do: 'check', copy: c.id }
              : { do: 'copy' },
        ),
      );
    }
    return out;
  });
}

function notNow(q: WipeQuestion): string {
  const away = q.copies.filter((c) => c.presence === 'offline');
  return `Not provable now: ${away.map((c) => c.place).join(' and ')} ${away.length === 1 ? 'is' : 'are'} offline. Connect the ${away.length === 1 ? 'drive' : 'drives'} to have the copies looked at.`;
}
