import { fps, type Rate } from '../platform/timecode/rate';
import { addFrames } from '../platform/timecode/timecode';
import type { PairFacts } from './prove';
import type { Recipe } from './recipe';
import type { Part } from './shapes';
import type { ProxySource } from './source';

/** A part with so many frames more on both sides, as far as the clip has them. */
export const withHandles = ({ from, to }: Part, handles: number, frames: number): Part => ({
  from: Math.max(0, from - handles),
  to: Math.min(frames, to + handles),
});

/**
 * A recipe of a part: its name and the words after the file's name say which frames, counted from 1, so that several parts of a clip stand
 * beside each other. What would be a proxy is a transcode: no part stands for its clip.
 */
export const ofPart = (recipe: Recipe, { from, to }: Part): Recipe => ({
  ...recipe,
  purpose: recipe.purpose === 'rewrap' ? 'rewrap' : 'transcode',
  name: `${recipe.name}, frames ${from + 1} to ${to}`,
  words: `${recipe.words}_${from + 1}-${to}`,
});

/** Why no part can be made of a clip; null where it can. */
export const partFault = ({ varies }: Pick<ProxySource, 'varies'>): string | null =>
  varies ? 'its frames come at uneven times, so that no part of it can be told by numbers.' : null;

/** A frame at which a clip can be cut without re-encoding: none after it refers to one before it. Its number, and when it is shown and decoded, seconds. */
export interface KeyFrame {
  frame: number;
  at: number;
  decodedAt: number;
}

/** Where a file is cut without re-encoding it. Seconds: `from`, after its start; for how long pictures are taken (null: to the end), and sound. */
export interface Cut {
  part: Part;
  from: number;
  pictures: number | null;
  sound: number;
}

/**
 * The least part of a clip that has all of this one and is cut at key frames. Pictures are taken in the order they are decoded in, so that they
 * end half a frame before the key frame after them is decoded.
 */
export function cutFor(
  { from, to }: Part,
  keys: readonly KeyFrame[],
  { frames, rate }: { frames: number; rate: Rate },
): Cut {
  const first = keys.findLast((k) => k.frame <= from) ?? { frame: 0, at: 0, decodedAt: 0 };
  const next = keys.find((k) => k.frame >= to && k.frame > first.frame);
  const half = 0.5 / fps(rate);
  const part = { from: first.frame, to: next?.frame ?? frames };
  return {
    part,
    from: first.at,
    pictures: next ? next.decodedAt - first.at - half : null,
    sound: (part.to - part.from) / fps(rate),
  };
}

/** What a part is made from: as long as it is, its timecode being that of its first frame. */
export const sourceOfPart = (source: ProxySource, { from, to }: Part): ProxySource => ({
  ...source,
  frames: to - from,
  start: source.start && addFrames(source.start, from),
});

/** What the pair of a part is proven by. */
export const factsOfPart = (facts: PairFacts, { from, to }: Part): PairFacts => ({
  ...facts,
  frames: to - from,
  start: facts.start && addFrames(facts.start, from),
});
