import { and, eq, inArray, isNull } from 'drizzle-orm';
import { among } from '../platform/db/among';
import type { Writer } from '../platform/db/transaction';
import { clipsOf, isCard } from './ofJob';
import { cameras, cards, clips, days } from './tables';

/** Cards of a job that hold no clip any more go. */
async function dropEmpty(tx: Writer, job: string, labels: readonly string[]): Promise<void> {
  for (const label of labels)
    if ((await clipsOf(tx, job, label).limit(1)).length === 0)
      await tx.delete(cards).where(isCard(job, label));
}

/** Clips leave the job, with all that is of them; a card that holds nothing any more goes with them. No file is touched. */
export async function forgetClips(tx: Writer, job: string, ids: readonly string[]): Promise<void> {
  const mine = and(eq(clips.job, job), among(clips.id, ids));
  const labels = await tx.selectDistinct({ card: clips.card }).from(clips).where(mine);
  await tx.delete(clips).where(mine);
  await dropEmpty(
    tx,
    job,
    labels.map((l) => l.card),
  );
}

/** Clips become those of another card of the job, which is there; a card that holds nothing any more goes. */
export async function moveToCard(
  tx: Writer,
  job: string,
  ids: readonly string[],
  from: string,
  to: string,
): Promise<void> {
  await tx.update(clips).set({ card: to }).where(among(clips.id, ids));
  await dropEmpty(tx, job, [from]);
}

/** All that the job holds goes: clips, cards, cameras and days. No file is touched. */
export async function forgetCards(tx: Writer, job: string): Promise<void> {
  await tx.delete(clips).where(eq(clips.job, job));
  await tx.delete(cards).where(eq(cards.job, job));
  await tx.delete(cameras).where(eq(cameras.job, job));
  await tx.delete(days).where(eq(days.job, job));
}

/** A clip's filmstrip is there. */
export async function hasFilmstrip(db: Writer, clip: string): Promise<void> {
  await db.update(clips).set({ filmstrip: true }).where(eq(clips.id, clip));
}

/** Clips that waited to be read cannot be, and say why. */
export async function cannotBeRead(db: Writer, ids: readonly string[], fault: string | null): Promise<void> {
  await db
    .update(clips)
    .set({ state: 'unreadable', fault })
    .where(and(inArray(clips.id, [...ids]), eq(clips.state, 'waiting')));
}

/** A card of the job that was used in place names the physical card it turned out to be. */
export async function nameCard(tx: Writer, job: string, label: string, physical: string): Promise<void> {
  await tx
    .update(cards)
    .set({ physical })
    .where(and(isCard(job, label), isNull(cards.physical)));
}
