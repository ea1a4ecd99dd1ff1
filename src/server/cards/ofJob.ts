import { and, eq } from 'drizzle-orm';
import type { CardName } from '../../core/cards';
import type { Database } from '../platform/db/client';
import type { InJob } from './ports';
import { cards, clips } from './tables';

/** The card of a clip, to join them by: a label means a card in its job only. */
export const cardOfClip = and(eq(cards.job, clips.job), eq(cards.id, clips.card));

/** A card of a job. */
export const isCard = (job: string, label: string) => and(eq(cards.job, job), eq(cards.id, label));

/** The cards of the job, in their natural order. */
export async function cardsOf({ db, job }: Pick<InJob, 'db' | 'job'>): Promise<CardName[]> {
  const rows = await db
    .select({ id: cards.id, camera: cards.camera, day: cards.day })
    .from(cards)
    .where(eq(cards.job, job));
  return rows.sort((a, b) => a.id.localeCompare(b.id, 'en', { numeric: true }));
}

/** Ids of the clips of a job, or of a card of it, to be looked for within a query. */
export const clipsOf = (db: Pick<Database, 'select'>, job: string, card?: string) =>
  db
    .select({ id: clips.id })
    .from(clips)
    .where(and(eq(clips.job, job), card === undefined ? undefined : eq(clips.card, card)));
