import { and, desc, eq, inArray, sql } from 'drizzle-orm';
import { isUnderWay } from '../../core/offload';
import { type Receipt, type SafeCopyView, type WipeView } from '../../core/custody/shapes';
import type { KnownFile } from '../../core/custody/manifest';
import { type DiskIdentity, goesWithCard } from '../../core/platform/disks';
import { type CardCopy, type CardFile, mayBeWiped } from '../../core/custody/wipe';
import { shownPath } from '../../core/platform/names';
import { plural } from '../../core/platform/words';
import { isCard } from '../cards';
import { cards } from '../cards/tables';
import { offloadFiles, offloads } from '../offload/tables';
import { physicalCards, safeCopies } from './tables';
import { NotFound } from '../platform/errors';
import { resolveIn } from '../platform/files/paths';
import type { InJob } from './ports';
import { requireJob } from '../jobs';
import { rootById } from '../places';
import { checking } from './checks';
import { cardHashes, copiesOf, type KnownCopy } from './copies';
import { diskWiped } from './offered';
import { lookInReaders } from './inReader';
import { manifestOf, type PhysicalCard } from './physicalCards';

/** The physical card behind a card's id, or by its own id, also where no card of the job bears its label any more. */
async function physicalOf(
  runtime: InJob,
  id: string,
): Promise<{ card: typeof cards.$inferSelect | null; physical: PhysicalCard | null }> {
  const [card] = await runtime.db.select().from(cards).where(isCard(runtime.job, id));
  const [physical] = await runtime.db
    .select()
    .from(physicalCards)
    .where(eq(physicalCards.id, card ? (card.physical ?? '') : id));
  if (!card && !physical)
    throw new NotFound(`There is no card ${id} in this job.`, { next: 'Go back to the Wall.' });
  const [labelled] =
    card || !physical
      ? [card]
      : await runtime.db
          .select()
          .from(cards)
          .where(and(eq(cards.job, runtime.job), eq(cards.physical, physical.id)))
          .limit(1);
  return { card: labelled ?? null, physical: physical ?? null };
}

/** On how many roots each card of the job (or one of them) has safe copies, by its id: a second go adds to the first. */
export async function safeCopyCounts(
  runtime: Pick<InJob, 'db' | 'job'>,
  card?: string,
): Promise<Map<string, number>> {
  const rows = await runtime.db
    .select({ card: cards.id, n: sql<number>`count(distinct ${safeCopies.root})::int` })
    .from(cards)
    .innerJoin(safeCopies, eq(safeCopies.physical, cards.physical))
    .innerJoin(offloads, eq(offloads.id, safeCopies.offload))
    .where(
      and(
        card === undefined ? eq(cards.job, runtime.job) : isCard(runtime.job, card),
        inArray(offloads.state, ['done', 'partly']),
      ),
    )
    .groupBy(cards.id);
  return new Map(rows.map((r) => [r.card, r.n]));
}

/** Files the newest copying that tried them could not copy, with the reason, and those that every copying left on the card. By number in the manifest. */
async function fatesOf(
  runtime: InJob,
  physical: string,
): Promise<{ faults: Map<number, string>; left: Set<number> }> {
  const rows = await runtime.db
    .select({ number: offloadFiles.cardFile, state: offloadFiles.state, fault: offloadFiles.fault })
    .from(offloadFiles)
    .innerJoin(offloads, eq(offloads.id, offloadFiles.offload))
    .where(eq(offloads.physical, physical))
    .orderBy(desc(offloads.queuedAt));
  const faults = new Map<number, string>();
  const left = new Set<number>();
  const tried = new Set<number>();
  for (const r of rows) {
    if (r.state === 'left') {
      if (!tried.has(r.number)) left.add(r.number);
      continue;
    }
    left.delete(r.number);
    if (r.state === 'failed' && !tried.has(r.number))
      faults.set(r.number, r.fault ?? 'it could not be copied');
    tried.add(r.number);
  }
  return { faults, left };
}

function viewOf(
  runtime: InJob,
  c: KnownCopy,
  cardDisk: DiskIdentity | null,
  manifest: ReadonlyMap<number, KnownFile>,
): SafeCopyView {
  const { row } = c;
  const tally = { proven: 0, sizeOnly: 0, wrong: 0 };
  for (const p of c.proofs.values()) {
    if (p === 'proven') tally.proven++;
    else if (p === 'sizeOnly') tally.sizeOnly++;
    else if (p !== 'otherDisk') tally.wrong++;
  }
  return {
    id: row.id,
    root: row.root,
    rootName: c.root?.name ?? row.root,
    folder: shownPath(row.folder),
    place: shownPath(c.place),
    present: c.presence === 'there',
    disk: c.disk,
    withCard: goesWithCard(c.disk, cardDisk),
    sameDisk: c.sameDisk,
    standIn: c.disk.kind === 'standIn',
    verification: row.verification,
    hash: row.hash,
    verifiedAt: (c.readAt ?? row.madeAt).toISOString(),
    seenAt: c.seenAt?.toISOString() ?? null,
    files: c.proofs.size,
    bytes: [...c.proofs.keys()].reduce((n, k) => n + (manifest.get(k)?.size ?? 0), 0),
    ...tally,
    check: row.check,
    checking: checking(runtime, row.id),
  };
}

/** May this card be wiped? Every file of its manifest, against every copy there is, looked at now. */
export async function receipt(runtime: InJob, id: string): Promise<Receipt> {
  const job = await requireJob(runtime);
  // A drive that has come may know what this database does not.
  await runtime.heedRecords();
  const { card, physical } = await physicalOf(runtime, id);
  const all = physical ? await manifestOf(runtime.db, physical.id) : [];
  const byNumber = new Map(all.map((f) => [f.number, f]));
  // An index that was written anew is in the manifest in several versions, of which the card holds the newest.
  const present = new Set(all.filter((f) => !f.gone).map((f) => f.path));
  const manifest = all.filter((f) => !f.gone || !present.has(f.path));
  const copies = physical ? (await copiesOf(runtime, physical.id)).filter((c) => c.proofs.size > 0) : [];
  const { faults, left } = physical
    ? await fatesOf(runtime, physical.id)
    : { faults: new Map<number, string>(), left: new Set<number>() };
  // A card that was kept before its disk was asked for: told while it is connected.
  const cardDisk =
    physical &&
    (physical.disk ??
      (await rootById(runtime, physical.root)
        .then((root) => resolveIn(root, physical.folder))
        .then((at) => diskWiped(runtime, at))
        .catch(() => null)));
  const rows = physical
    ? await runtime.db
        .select()
        .from(offloads)
        .where(eq(offloads.physical, physical.id))
        .orderBy(desc(offloads.queuedAt))
    : [];
  const inReader = physical ? await lookInReaders(runtime, physical, manifest) : null;
  const answer = mayBeWiped({
    cardDisk,
    card: manifest.map((f): CardFile => ({
      number: f.number,
      path: shownPath(f.path),
      size: f.size,
      fault: faults.get(f.number) ?? null,
      left: left.has(f.number),
    })),
    copies: copies.map((c): CardCopy => ({
      id: c.row.id,
      place: `${c.root?.name ?? c.row.root}: ${shownPath(c.row.folder)}`,
      disk: c.disk,
      presence: c.presence,
      seenAt: c.seenAt?.toISOString() ?? null,
      kind: c.row.hash,
      proofs: c.proofs,
    })),
    cannot: (physical?.cannot ?? []).map((c) => ({ ...c, path: shownPath(c.path) })),
    running: rows.some((o) => isUnderWay(o.state) && o.state !== 'naming'),
    newOnCard: inReader?.fresh?.map(shownPath) ?? null,
    unseenOnCard: (inReader?.unseen ?? []).map((c) => ({ ...c, path: shownPath(c.path) })),
    unknownInPlace: inReader?.other === 'unknown',
    allowOffline: job.offlineCounts,
    serversApart: job.serversApart,
    scope: physical?.wholeVolume === false ? 'folder' : 'volume',
  });
  answer.notes.push(...notesOf(answer.may, { physical, inReader, copies, rows }));
  const hashes = physical ? await cardHashes(runtime, physical.id) : new Map<number, never[]>();
  return {
    card: card?.id ?? physical?.label ?? id,
    physical: physical?.id ?? null,
    labelled: card !== null,
    camera: card?.camera ?? '',
    day: card?.day ?? 0,
    at: new Date().toISOString(),
    job: job.name,
    code: job.code,
    offlineCounts: job.offlineCounts,
    serversApart: job.serversApart,
    ...answer,
    scope: physical?.wholeVolume === false ? 'folder' : 'volume',
    // Tried again in the job whose it is.
    retry: rows.find((o) => o.state === 'partly' && o.job === runtime.job)?.id ?? null,
    files: manifest.length,
    bytes: manifest.reduce((n, f) => n + f.size, 0),
    copies: copies.map((c) => viewOf(runtime, c, cardDisk, byNumber)),
    shelf: rows.some((o) => o.destinations.some((d) => d.kind === 'shelf')),
    list: manifest.map((f) => {
      const [hash] = hashes.get(f.number) ?? [];
      return {
        path: shownPath(f.path),
        size: f.size,
        hash: hash?.value ?? null,
        kind: hash?.kind ?? null,
        copies: copies.filter((c) => c.proofs.get(f.number) === 'proven' && !goesWithCard(c.disk, cardDisk))
          .length,
      };
    }),
  };
}

/** What is to be known beside the answer: where it was looked, what was not offered, and what plays a part. */
function notesOf(
  may: boolean,
  {
    physical,
    inReader,
    copies,
    rows,
  }: {
    physical: PhysicalCard | null;
    inReader: Awaited<ReturnType<typeof lookInReaders>> | null;
    copies: readonly KnownCopy[];
    rows: readonly (typeof offloads.$inferSelect)[];
  },
): string[] {
  const notes: string[] = [];
  const other = inReader?.other === 'unknown' ? null : inReader?.other;
  if (physical && may && !inReader?.fresh)
    notes.push(
      `${other ? `${other.label} is in its place now, which this answer does not cover: it is` : 'The card is not in a reader now: the answer is'} about what was on it on ${physical.lastSeen.toISOString().slice(0, 10)} at ${physical.lastSeen.toISOString().slice(11, 16)} UTC.`,
    );
  const system = inReader?.ofSystem ?? [];
  if (system.length > 0)
    notes.push(
      `${plural(system.length, 'file')} that computers keep on it for themselves ${system.length === 1 ? 'is' : 'are'} new or changed since it was copied, the first ${shownPath(system[0]!)}: ${system.length === 1 ? 'it does' : 'they do'} not count.`,
    );
  if (physical && !physical.wholeVolume) {
    const beside =
      physical.outside.length > 0
        ? ` The same volume also holds ${physical.outside.slice(0, 6).map(shownPath).join(', ')}${physical.outside.length > 6 ? ' …' : ''}, which this answer does not cover.`
        : '';
    notes.push(
      `The card was offered as the folder “${shownPath(physical.folder || '/')}”, not as a whole volume.${beside}`,
    );
  }
  if (copies.some((c) => c.disk.kind === 'standIn'))
    notes.push('Drives marked “stand-in” are folders that play the part of drives in the demonstration.');
  if (rows.some((o) => o.state !== 'cancelled' && o.destinations.every((d) => d.kind === 'shelf')))
    notes.push('A copy to the shelf alone is a working copy, which does not count.');
  return notes;
}

/** The answer without the list of files. */
export async function wipeView(runtime: InJob, id: string): Promise<WipeView> {
  const { list: _, ...view } = await receipt(runtime, id);
  return view;
}
