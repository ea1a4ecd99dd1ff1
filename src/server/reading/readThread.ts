import { type FoundEntry, recognise as recogniseCards, type RecogniseOptions } from '../../core/intake';
import { type ClipOnDisk, firstPass, type Reading, type ReadOptions } from './firstPass';

// What a reading thread is made of, bundled by scripts/threads.mjs.

/** One clip after another. */
export async function read(task: { clips: readonly ClipOnDisk[]; options: ReadOptions }): Promise<Reading[]> {
  const readings: Reading[] = [];
  for (const clip of task.clips) readings.push(await firstPass(clip, task.options));
  return readings;
}
export const recognise = (task: { entries: readonly FoundEntry[]; options: RecogniseOptions }) =>
  recogniseCards(task.entries, task.options);
export const ready = (): void => undefined;
