import { expect, test } from '@jest/globals';
import { shownPath } from '../platform/names';
import { randomFrom } from '../platform/random';
import type { DiskIdentity } from '../platform/disks';
import { type KnownFile, type ManifestFile, relate } from './manifest';
import { checkFile, type CopyReading, type FileHash, type Proof, proofOf } from './proof';
import { type CardCopy, mayBeWiped } from './wipe';

// Random histories of cards, copies, checks, drives and mishaps, kept as the product keeps them (cards by manifest, readings as
// rows), and asked at every turn whether the card may be wiped. A naive answer reads every byte of everything: it says whether
// each file that was ever on the card is, with the card's own bytes, on two connected disks. Not one yes may be wrong.
//
// What no answer can know without reading is left out of the mishaps that count: a medium that changes bytes by itself, under an
// unchanged size and time, after they were read back. Those happen too, and are healed or found by a check before it is asked.

/** A file on a simulated disk: contents as a word, size, time. */
interface SimFile {
  bytes: string;
  size: number;
  modified: number;
  sample: string;
}
type Tree = Map<string, SimFile>;
interface SimDisk {
  id: string;
  disk: string;
  files: Map<string, Tree>;
  connected: boolean;
}

interface Card {
  physical: number;
  tree: Tree;
  label: string;
  former: SimFile | null;
}
interface Physical {
  seen: number;
  manifest: KnownFile[];
  hashes: Map<number, FileHash[]>;
  copies: Copy[];
}
interface Copy {
  drive: number;
  folder: string;
  disk: DiskIdentity;
  readings: Map<number, CopyReading>;
  list: Map<string, string> | null;
  seen: boolean;
  wrong: Set<number>;
}

const HASH = 'xxh128' as const;
const hashOf = (f: SimFile): string => `h(${f.bytes})`;
const sampleOf = (path: string, f: SimFile): string | null => (path.endsWith('.MP4') ? f.sample : null);
const identity = (d: SimDisk, lasting: boolean): DiskIdentity => ({
  kind: 'disk',
  disks: [`disk ${d.disk}`],
  lasting,
  name: d.disk,
});

function history(seed: number): { asked: number; yes: number; wrongYes: string[] } {
  const random = randomFrom(seed);
  const int = (n: number): number => Math.floor(random() * n);
  const pick = <T>(list: readonly T[]): T | undefined => list[int(list.length)];
  let clock = 1e12;
  const now = (): number => (clock += 10_000);
  let contents = 0;
  const film = (): SimFile => ({
    bytes: `b${++contents}`,
    size: 10 + int(3),
    modified: now(),
    sample: `s${contents}`,
  });
  const index = (): SimFile => ({ bytes: `i${++contents}`, size: 5, modified: now(), sample: '' });
  // Two drives of one disk, two of their own, and one that is another part of what the cards are on: it is wiped with them.
  const drives: SimDisk[] = ['one', 'one', 'two', 'three', 'card'].map((disk, i) => ({
    id: `drive ${i}`,
    disk,
    files: new Map(),
    connected: true,
  }));
  const cardDisk = identity(drives[4]!, true);
  // Drives that are in a cupboard, their clones being used in their place.
  const cloned: SimDisk[] = [];
  const physicals: Physical[] = [];
  const cards: Card[] = [];
  const told: string[] = [];
  const result = { asked: 0, yes: 0, wrongYes: [] as string[] };
  let allowOffline = false;

  const newCard = (): void => {
    const tree: Tree = new Map();
    // Counters start anew on every card: names and often sizes are those of others.
    for (let n = 1; n <= 1 + int(3); n++) tree.set(`CLIP/T${n}.MP4`, film());
    if (int(2) === 0) tree.set('INDEX.XML', index());
    cards.push({ physical: -1, tree, label: `B00${int(3)}`, former: null });
  };

  const manifestOf = (card: Card): ManifestFile[] =>
    [...card.tree].map(([path, f]) => ({
      path,
      size: f.size,
      modified: f.modified,
      sample: sampleOf(path, f),
    }));

  let offers = 0;
  /** As `keepCard`: recognised by what it is, else a new one. */
  const offer = (card: Card): Physical => {
    const found = manifestOf(card);
    const best = physicals
      .map((p, i) => ({ p, i, relation: relate(p.manifest, found) }))
      .filter((x) => x.relation.same)
      .sort((a, b) => b.relation.kept.length - a.relation.kept.length || b.p.seen - a.p.seen)[0];
    if (!best) {
      physicals.push({
        seen: ++offers,
        manifest: found.map((f, number) => ({ ...f, number, gone: false })),
        hashes: new Map(),
        copies: [],
      });
      card.physical = physicals.length - 1;
      return physicals.at(-1)!;
    }
    best.p.seen = ++offers;
    for (const k of best.p.manifest) {
      if (best.relation.gone.includes(k.number)) k.gone = true;
      if (best.relation.kept.includes(k.number)) k.gone = false;
    }
    for (const f of best.relation.fresh)
      best.p.manifest.push({ ...f, number: best.p.manifest.length, gone: false });
    card.physical = best.i;
    return best.p;
  };

  const numberOn = (p: Physical, card: Card, path: string): number => {
    const f = card.tree.get(path)!;
    return p.manifest.findLast((k) => !k.gone && k.path === path && k.size === f.size)!.number;
  };

  const copyCard = (): void => {
    const card = pick(cards);
    const drive = pick(drives.filter((d) => d.connected));
    if (!card || !drive) return;
    const p = offer(card);
    // Two copies of one label are in folders of their own: a safe copy is never added to.
    let folder = card.label;
    for (let n = 2; drive.files.has(folder); n++) folder = `${card.label}-${n}`;
    const tree: Tree = new Map();
    drive.files.set(folder, tree);
    const lasting = int(5) > 0;
    const copy: Copy = {
      drive: drives.indexOf(drive),
      folder,
      disk: identity(drive, lasting),
      readings: new Map(),
      list: new Map(),
      seen: true,
      wrong: new Set(),
    };
    p.copies.push(copy);
    const byContents = int(4) > 0;
    const whole = int(3) > 0;
    for (const [path, f] of card.tree) {
      if (!whole && int(2) === 0) continue;
      if (int(12) === 0) break; // a crash: what follows is not copied, and nothing of it is recorded
      const number = numberOn(p, card, path);
      // A reader that gives wrong bytes, unnoticed where only sizes are compared.
      const stands = !byContents && int(6) === 0 ? { ...f, bytes: `x${++contents}` } : { ...f };
      tree.set(path, stands);
      if (int(15) === 0) continue; // a crash between the name and the record
      p.hashes.set(number, [{ kind: HASH, value: hashOf(f) }]);
      copy.readings.set(number, {
        how: 'copied',
        result: byContents ? 'read' : 'sizeOnly',
        kind: HASH,
        value: byContents ? hashOf(stands) : null,
        size: f.size,
        modified: f.modified,
      });
      copy.list!.set(path, hashOf(f));
    }
    told.push(
      `copy ${card.label} (${card.physical}) to ${drive.id}/${folder}${byContents ? '' : ' by size'}`,
    );
  };

  const check = (): void => {
    const p = pick(physicals);
    const copy = p && pick(p.copies);
    if (!p || !copy || !drives[copy.drive]!.connected) return;
    copy.disk = identity(drives[copy.drive]!, copy.disk.lasting);
    const tree = drives[copy.drive]!.files.get(copy.folder) ?? new Map<string, SimFile>();
    for (const [number] of copy.readings) {
      const recorded = p.hashes.get(number)?.find((h) => h.kind === HASH);
      if (!recorded) continue;
      const path = p.manifest[number]!.path;
      const there = tree.get(path);
      if (!there) {
        copy.readings.set(number, {
          how: 'check',
          result: 'missing',
          kind: HASH,
          value: null,
          size: 0,
          modified: 0,
        });
        continue;
      }
      const listed = copy.list?.get(path);
      const { result: found } = checkFile(recorded, listed ? { kind: HASH, value: listed } : null, [
        { kind: HASH, value: hashOf(there) },
      ]);
      copy.readings.set(number, {
        how: 'check',
        result: found === 'same' ? 'read' : found,
        kind: HASH,
        value: hashOf(there),
        size: there.size,
        modified: there.modified,
      });
    }
    told.push(`check ${drives[copy.drive]!.id}/${copy.folder}`);
  };

  const mishap = (): void => {
    const drive = pick(drives.filter((d) => d.files.size > 0));
    const folder = drive && pick([...drive.files.keys()]);
    const tree = folder === undefined ? undefined : drive!.files.get(folder);
    const path = tree && pick([...tree.keys()]);
    const kind = int(6);
    told.push(`mishap ${kind} ${drive?.id ?? ''}/${folder ?? ''}/${path ?? ''}`);
    if (!drive || !drive.connected || !tree || folder === undefined) return;
    if (kind === 0) drive.files.set(folder, new Map());
    else if (kind === 1 && path) tree.delete(path);
    else if (kind === 2 && path)
      tree.set(path, { ...tree.get(path)!, bytes: `z${++contents}`, modified: now() });
    else if (kind === 3 && path) tree.set(path, { ...tree.get(path)!, bytes: '', size: 0 });
    else {
      // A list that was altered, to fit or not, or removed.
      for (const p of physicals)
        for (const c of p.copies)
          if (drives[c.drive] === drive && c.folder === folder)
            c.list = kind === 4 ? null : new Map([...(c.list ?? [])].map(([k]) => [k, `h(z${contents})`]));
    }
  };

  /** The drive is cloned to another disk, which is used from now on; what goes wrong meanwhile keeps sizes and times. */
  const clone = (): void => {
    const i = int(drives.length);
    const drive = drives[i]!;
    if (!drive.connected) return;
    cloned.push({ ...drive, connected: false });
    // A disk without a number of its own cannot be told from its clone.
    const tellable = physicals.every((p) => p.copies.every((c) => c.drive !== i || c.disk.lasting));
    const copyOf = (f: SimFile): SimFile =>
      tellable && int(4) === 0 ? { ...f, bytes: `c${++contents}` } : { ...f };
    drives[i] = {
      ...drive,
      disk: `clone ${cloned.length}`,
      files: new Map(
        [...drive.files].map(([folder, tree]) => [
          folder,
          new Map([...tree].map(([path, f]) => [path, copyOf(f)])),
        ]),
      ),
    };
    told.push(`clone ${drive.id}`);
  };

  /** As `copiesOf` and `receipt`. */
  const ask = (p: Physical, card: Card | null): void => {
    const present = new Set(p.manifest.filter((f) => !f.gone).map((f) => f.path));
    const wanted = p.manifest.filter((f) => !f.gone || !present.has(f.path));
    const copies = p.copies.map((c, i): CardCopy => {
      const drive = drives[c.drive]!;
      const tree = drive.connected ? (drive.files.get(c.folder) ?? new Map<string, SimFile>()) : null;
      const proofs = new Map<number, Proof>();
      const sameDisk = !tree || !c.disk.lasting || c.disk.disks.includes(`disk ${drive.disk}`);
      for (const [number, r] of c.readings) {
        const standing = tree
          ? (tree.get(p.manifest[number]!.path) ?? null)
          : c.wrong.has(number)
            ? null
            : { size: r.size, modified: r.modified };
        proofs.set(number, proofOf(p.hashes.get(number) ?? [], r, standing, sameDisk));
      }
      if (tree && sameDisk) {
        c.disk = identity(drive, c.disk.lasting);
        c.wrong = new Set([...proofs].filter(([, x]) => x === 'missing' || x === 'altered').map(([n]) => n));
      }
      return {
        id: String(i),
        place: drive.id,
        disk: tree ? identity(drive, c.disk.lasting) : c.disk,
        presence: tree ? 'there' : 'offline',
        seenAt: c.seen ? '2026-05-05T00:00:00.000Z' : null,
        kind: HASH,
        proofs,
      };
    });
    const onCard = card ? relate(wanted, manifestOf(card)).fresh.map((f) => shownPath(f.path)) : null;
    const answer = mayBeWiped({
      cardDisk,
      card: wanted.map((f) => ({
        number: f.number,
        path: shownPath(f.path),
        size: f.size,
        fault: null,
        left: false,
      })),
      copies,
      cannot: [],
      running: false,
      newOnCard: onCard,
      unseenOnCard: [],
      unknownInPlace: false,
      allowOffline,
      serversApart: false,
      scope: 'volume',
    });
    result.asked++;
    if (!answer.may) return;
    result.yes++;
    // The naive answer: every byte of every drive, by what the card holds now, or held where it is away.
    for (const f of card
      ? [...card.tree].map(([path, x]) => ({ path, bytes: x.bytes }))
      : wanted.map((k) => ({
          path: k.path,
          bytes: p.hashes.get(k.number)?.[0]?.value.slice(2, -1) ?? '?',
        }))) {
      const disks = new Set(
        [...drives, ...cloned]
          .filter((d) => d.disk !== 'card')
          .filter((d) => d.connected || answer.verdict === 'asOf')
          .filter((d) => [...d.files.values()].some((t) => t.get(f.path)?.bytes === f.bytes))
          .map((d) => d.disk),
      );
      if (disks.size < 2)
        result.wrongYes.push(
          `seed ${seed}: ${f.path} is on ${disks.size} disks, and the answer was: ${answer.because}\n${told.join('\n')}`,
        );
    }
  };

  newCard();
  for (let turn = 0; turn < 24; turn++) {
    const what = int(23);
    const card = pick(cards);
    if (what === 0) newCard();
    else if (what < 8) copyCard();
    else if (what < 11) check();
    else if (what < 13) mishap();
    else if (what === 13 && card) card.tree.set(`CLIP/T${card.tree.size + 1}.MP4`, film());
    else if (what === 14 && card?.tree.has('INDEX.XML')) {
      // The index is written anew, or is again what it was before.
      const now = card.tree.get('INDEX.XML')!;
      card.tree.set('INDEX.XML', card.former && int(2) === 0 ? card.former : index());
      card.former = now;
    } else if (what === 15 && card) {
      // Wiped and filled again: the names come back, the label too.
      card.tree.clear();
      for (let n = 1; n <= 1 + int(3); n++) card.tree.set(`CLIP/T${n}.MP4`, film());
      card.physical = -1;
    } else if (what === 16) {
      const drive = pick(drives)!;
      drive.connected = !drive.connected;
    } else if (what === 17) allowOffline = !allowOffline;
    else if (what === 18 && card) card.label = `B00${int(3)}`;
    else if (what === 19 && card && card.tree.size > 1)
      card.tree.delete([...card.tree.keys()][int(card.tree.size)]!);
    else if (what === 22) clone();
    else if (what === 20 && card && card.physical >= 0) {
      // The card gives other bytes than at the reading before, in the middle of a recording, and they are recorded.
      const [path] = [...card.tree.keys()].filter((n) => n.endsWith('.MP4'));
      const p = physicals[card.physical]!;
      if (path && relate(p.manifest, manifestOf(card)).fresh.length === 0) {
        card.tree.set(path, { ...card.tree.get(path)!, bytes: `r${++contents}` });
        p.hashes.set(numberOn(p, card, path), [{ kind: HASH, value: hashOf(card.tree.get(path)!) }]);
      }
    } else if (what === 21 && card) {
      // Written anew on the card, between the places a fingerprint looks at: same size, same fingerprint, another time.
      const [path] = [...card.tree.keys()].filter((n) => n.endsWith('.MP4'));
      if (path) card.tree.set(path, { ...card.tree.get(path)!, bytes: `w${++contents}`, modified: now() });
    }
    for (const c of cards) if (c.physical >= 0) ask(physicals[c.physical]!, int(4) === 0 ? null : c);
  }
  return result;
}

/** How many histories; the long run is `npm run soak custody`. */
const HISTORIES = Number(process.env.SORT_SHELF_HISTORIES ?? 10_000);

test(`over ${HISTORIES} random histories not one wrong yes, and many right ones`, () => {
  const total = { asked: 0, yes: 0 };
  for (let seed = 1; seed <= HISTORIES; seed++) {
    const { asked, yes, wrongYes } = history(seed);
    total.asked += asked;
    total.yes += yes;
    expect(wrongYes).toEqual([]);
  }
  // An answer that always says no would pass the first; it would be of no use.
  expect(total.yes).toBeGreaterThan(total.asked / 100);
  console.log(`${HISTORIES} histories, asked ${total.asked} times, ${total.yes} times yes`);
});
