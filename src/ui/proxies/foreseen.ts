import { foreseenBytes } from '../../core/proxies/foreseen';
import type { Recipe } from '../../core/proxies/recipe';
import type { Makeable, Measured } from '../../core/proxies/shapes';

/** Seconds of footage a second of work, before anything was made. */
const GUESS = 2;

/** Bytes and seconds that making something of clips will take, and how much of it is known from work done here. */
export function foreseen(
  clips: readonly { clip: Makeable; recipe: Recipe }[],
  measured: readonly Measured[],
): { bytes: number; seconds: number; guessed: boolean } {
  const by = new Map(measured.map((m) => [m.recipe, m]));
  let [bytes, seconds, guessed] = [0, 0, false];
  for (const { clip, recipe } of clips) {
    const here = by.get(recipe.name);
    guessed ||= !here;
    bytes += foreseenBytes(recipe, clip) * (here?.size ?? 1);
    seconds += clip.seconds / (here?.timesRealTime ?? GUESS);
  }
  return { bytes, seconds, guessed };
}
