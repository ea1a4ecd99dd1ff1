import { useState } from 'react';
import { ChosenHash } from '../../core/hashLists';
import type { LookedCard } from '../../core/intake/shapes';
import type { JobView } from '../../core/jobs';
import { NOTHING_NEXT } from '../../core/next';
import { MOST_SAFE, NewOffload, type Verification } from '../../core/offload';
import { shareDisk, standApart } from '../../core/platform/disks';
import type { RootView } from '../../core/places';
import { formatBytes } from '../platform/format';
import { notCopied, type OtherCard, sumOf } from './ticks';

/** What a copy is asked for with, as it is typed and ticked. */
export interface CopyAsked {
  camera: string;
  cardId: string;
  day: string;
  date: string;
  safe: readonly string[];
  shelf: boolean;
  wholeCard: boolean;
  pattern: string;
  verification: Verification;
  hash: ChosenHash;
  next: typeof NOTHING_NEXT;
  /** Whether what happens next can be taken as it is. */
  nextReady: boolean;
}

export interface OfferedCard {
  job: JobView;
  root: string;
  path: string;
  card: LookedCard;
  /** The cards that were recognised beside it. */
  others: readonly OtherCard[];
  ticked: ReadonlySet<string>;
  singles: readonly string[];
}

/** The hash that the copies of a card are compared by already; undefined where there is none. */
export const settledHash = (card: LookedCard): ChosenHash | undefined =>
  ChosenHash.safeParse(card.known?.hash).data;

const asOffered = (job: JobView, card: LookedCard): CopyAsked => ({
  camera: card.suggestion.camera.value,
  cardId: card.suggestion.cardId.value,
  day: String(card.suggestion.day.value),
  date: card.suggestion.date.value ?? '',
  safe: job.roots
    .filter((r) => r.kind === 'safe' && r.present)
    .slice(0, MOST_SAFE)
    .map((r) => r.id),
  shelf: true,
  wholeCard: true,
  pattern: job.intake.pattern,
  verification: job.intake.verification,
  hash: settledHash(card) ?? job.intake.hash,
  next: NOTHING_NEXT,
  nextReady: true,
});

export type CopyForm = ReturnType<typeof useCopyForm>;

/** The form of a copy: what is asked for, what would be begun with it, and what speaks against it. */
export function useCopyForm({ job, root, path, card, others, ticked, singles }: OfferedCard) {
  const [asked, setAsked] = useState(() => asOffered(job, card));
  const put = (changed: Partial<CopyAsked>): void => setAsked((old) => ({ ...old, ...changed }));
  const { camera, cardId, pattern, verification, hash, shelf, next } = asked;
  const safes = job.roots.filter((r) => r.kind === 'safe');
  const shelfRoot = job.roots.find((r) => r.id === 'shelf')!;
  const chosen = asked.safe.filter((id) => safes.some((r) => r.id === id));
  const date = asked.date === '' ? null : asked.date;
  const sum = sumOf(card.clips, ticked);
  /** Whether all of the card is copied, and not only what is ticked. */
  const isWhole = chosen.length > 0 && asked.wholeCard;
  const bytes = isWhole ? card.all.bytes : sum.bytes;
  const wanted = NewOffload.safeParse({
    root,
    path,
    folder: card.folder,
    camera,
    cardId,
    day: Number(asked.day),
    date,
    clips: [...ticked],
    wholeCard: asked.wholeCard,
    safe: chosen,
    shelf: shelf && ticked.size > 0,
    pattern,
    verification,
    hash,
    singles: singles.filter((p) => card.folder === '' || p.startsWith(`${card.folder}/`)),
    next: { keywords: next.keywords, bin: next.bin },
  });
  const going = [
    ...chosen.map((id) => ({ root: safes.find((r) => r.id === id)!, bytes })),
    ...(shelf ? [{ root: shelfRoot, bytes: sum.bytes }] : []),
  ];
  return {
    asked,
    put,
    safes,
    shelfRoot,
    chosen,
    sum,
    isWhole,
    bytes,
    wanted,
    going,
    /** What the folder of a safe copy is named by. */
    words: { job: job.code, day: Number(asked.day) || 0, date, camera, card: cardId },
    fault: (field: string) =>
      wanted.success ? undefined : wanted.error.issues.find((i) => i.path[0] === field)?.message,
    full: tooMuch(going),
    shared: sharedDisk(safes.filter((r) => chosen.includes(r.id))),
    left: notCopied(card, others, path, ticked, { safe: chosen.length, shelf, wholeCard: asked.wholeCard }),
    // What is in the job already is not named anew.
    fresh: card.clips.filter((c) => c.here === null && ticked.has(c.path)).map((c) => c.path),
    nothing:
      chosen.length === 0 && !shelf
        ? 'Choose where it is copied to.'
        : ticked.size === 0 && !isWhole
          ? 'Tick the clips to take.'
          : null,
  };
}

/** Whether one broken disk would take two of the copies, in words; null where each is on a disk of its own. */
function sharedDisk(roots: readonly RootView[]): string | null {
  for (const [i, a] of roots.entries()) {
    if (!a.disk) continue;
    if (a.disk.kind === 'memory') return `${a.name} stands in memory: it is no safe copy.`;
    for (const b of roots.slice(i + 1)) {
      if (!b.disk || standApart(a.disk, b.disk, false)) continue;
      if (!shareDisk(a.disk, b.disk) && a.disk.kind === 'network')
        return `${a.name} and ${b.name} are on servers of different addresses, which may be one: they count as two only where the job says so.`;
      const blind = [a, b].find((r) => r.disk!.disks.length === 0);
      return blind
        ? `Which disk ${blind.name} stands on cannot be told: these do not count as two copies.`
        : `${a.name} and ${b.name} stand on one disk: one fault would take both.`;
    }
  }
  return null;
}

/** What the volumes cannot hold, in words; null where all have room. */
function tooMuch(going: readonly { root: RootView; bytes: number }[]): string | null {
  const needs = new Map<string, { names: string[]; bytes: number; free: number }>();
  for (const { root, bytes } of going) {
    const n = needs.get(root.volume ?? root.id) ?? { names: [], bytes: 0, free: root.free ?? 0 };
    needs.set(root.volume ?? root.id, { ...n, names: [...n.names, root.name], bytes: n.bytes + bytes });
  }
  const [over] = [...needs.values()].filter((n) => n.bytes > n.free);
  return over
    ? `${over.names.join(' and ')}: ${formatBytes(over.bytes)} do not fit into ${formatBytes(over.free)}.`
    : null;
}
