import * as z from 'zod';
import { cardFolder, type CardWords } from '../offload';

/** What is asked of further folders: which there are to be, and whether those that are missing are made. */
export const SkeletonRequest = z.object({
  skeleton: z.array(z.string().max(400)).max(200),
  root: z.string().max(80).nullable(),
  layOut: z.boolean(),
});
export type SkeletonRequest = z.infer<typeof SkeletonRequest>;

export const SkeletonView = z.object({
  folders: z.array(z.object({ folder: z.string(), there: z.boolean() })),
});
export type SkeletonView = z.infer<typeof SkeletonView>;

const OF_CARDS = /\{(?:day|date|camera|card)\}/u;
const NO_CARD = { day: 0, date: null, camera: '', card: '' };
const natural = new Intl.Collator('en', { numeric: true });

/**
 * Folders that lines give, each once, in their natural order: a line with words of a card, a day or a camera (`PATTERN_WORDS`) gives one for
 * each the job has, and none while it has none; another line gives one.
 */
export function skeletonFolders(
  lines: readonly string[],
  job: string,
  cards: readonly Omit<CardWords, 'job'>[],
): string[] {
  const all = lines.flatMap((line) =>
    (OF_CARDS.test(line) ? cards : [NO_CARD]).map((card) => cardFolder(line, { ...card, job })),
  );
  return [...new Set(all)].filter((folder) => folder !== '').sort(natural.compare);
}
