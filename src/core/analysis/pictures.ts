import * as z from 'zod';
import { sampledFrames } from './filmstrip';
import { type Range, Ranges } from './ranges';

/** The picture as it is compared and looked at: brightness only, full range, one byte a pixel. */
export const SMALL = { width: 32, height: 18 } as const;
const BYTES = SMALL.width * SMALL.height;

/**
 * What counts as black: so many of the pixels at most so bright, for so many seconds. FFmpeg's own `blackdetect` takes these values by
 * itself (98 %, 10 % of the range, 2 s): common practice, no standard.
 */
export const BLACK = { share: 0.98, bright: 0.1 * 255, seconds: 2 } as const;
/** A picture that stands still: so many decibels between two at most, for so many seconds. FFmpeg's `freezedetect` has these by itself. */
export const FROZEN = { decibels: -60, seconds: 2 } as const;

/** Pictures of a clip by which it is known again: those of its filmstrip, small. */
export interface Sampled {
  /** Frame of each, from 0. */
  frames: number[];
  /** Each `SMALL`, row by row. */
  pictures: Uint8Array[];
}

export interface PicturesSeen {
  sampled: Sampled;
  /** Frames. */
  black: Range[];
  /** How many pictures there were. */
  frames: number;
}

/** Takes all pictures of a clip, small, as they come, in pieces of any length. */
export class PictureReader {
  readonly #wanted: Set<number>;
  readonly #sampled: Sampled = { frames: [], pictures: [] };
  readonly #black: Ranges;
  readonly #picture = new Uint8Array(BYTES);
  #filled = 0;
  #frame = 0;

  /** `frames`: how many are expected; `perSecond`: their rate. */
  constructor(frames: number, perSecond: number) {
    this.#wanted = new Set(sampledFrames(frames));
    this.#black = new Ranges(BLACK.seconds * perSecond);
  }

  push(bytes: Uint8Array): void {
    for (let at = 0; at < bytes.length;) {
      const part = bytes.subarray(at, at + BYTES - this.#filled);
      this.#picture.set(part, this.#filled);
      at += part.length;
      this.#filled += part.length;
      if (this.#filled < BYTES) return;
      this.#filled = 0;
      this.#whole();
    }
  }

  #whole(): void {
    let dark = 0;
    for (const v of this.#picture) if (v <= BLACK.bright) dark++;
    this.#black.at(this.#frame, dark >= BLACK.share * BYTES);
    if (this.#wanted.has(this.#frame)) {
      this.#sampled.frames.push(this.#frame);
      this.#sampled.pictures.push(this.#picture.slice());
    }
    this.#frame++;
  }

  end(): PicturesSeen {
    return { sampled: this.#sampled, black: this.#black.of(this.#frame), frames: this.#frame };
  }
}

/**
 * Two pictures count as alike from this correlation on, where both have something to be seen in them: from measurements here, of every
 * recipe on every camera of the demonstration and of other frames of the same clips. No standard states one.
 */
export const ALIKE = { correlation: 0.9, levels: 10, flat: 3 } as const;

export interface Likeness {
  /** Correlation of the two pictures about their means, 1 for the same; null where one of them is flat. */
  correlation: number | null;
  /** Whether only one of them is flat, or both are and one is much brighter. */
  flatDiffers: boolean;
  /** Mean brightness of the two, of 255. */
  means: [number, number];
}

/** How alike two small pictures are. `rows`: only so many from the top, where something is written into the rest. */
export function likeness(a: Uint8Array, b: Uint8Array, rows: number = SMALL.height): Likeness {
  const n = rows * SMALL.width;
  let [sumA, sumB] = [0, 0];
  for (let i = 0; i < n; i++) {
    sumA += a[i]!;
    sumB += b[i]!;
  }
  const means: [number, number] = [sumA / n, sumB / n];
  let [ab, aa, bb] = [0, 0, 0];
  for (let i = 0; i < n; i++) {
    const [da, db] = [a[i]! - means[0], b[i]! - means[1]];
    ab += da * db;
    aa += da * da;
    bb += db * db;
  }
  const [deviationA, deviationB] = [Math.sqrt(aa / n), Math.sqrt(bb / n)];
  if (deviationA >= ALIKE.flat && deviationB >= ALIKE.flat)
    return { correlation: ab / Math.sqrt(aa * bb), flatDiffers: false, means };
  // A coder may take what little is to be seen; much of it, it does not.
  return {
    correlation: null,
    flatDiffers:
      Math.abs(deviationA - deviationB) > 2 * ALIKE.flat || Math.abs(means[0] - means[1]) > 4 * ALIKE.levels,
    means,
  };
}

/** Of a file, compared with the pictures of its original frame by frame. */
export interface Compared {
  /** How many pictures were compared. */
  pictures: number;
  /** The least alike: its frame and correlation; null where all are flat. */
  worst: { frame: number; correlation: number } | null;
  /** Mean brightness of the two, of 255. */
  levels: { original: number; other: number };
  /** The first frame that is flat in one of the two only, or much brighter in one. */
  flatDiffers: number | null;
}

/** Compares the pictures of the same frames; null where the two have no frame in common. */
export function compare(original: Sampled, other: Sampled, rows?: number): Compared | null {
  const out: Compared = { pictures: 0, worst: null, levels: { original: 0, other: 0 }, flatDiffers: null };
  original.frames.forEach((frame, i) => {
    const j = other.frames.indexOf(frame);
    if (j < 0) return;
    const { correlation, flatDiffers, means } = likeness(original.pictures[i]!, other.pictures[j]!, rows);
    out.pictures++;
    out.levels.original += means[0];
    out.levels.other += means[1];
    if (flatDiffers) out.flatDiffers ??= frame;
    if (correlation !== null && (!out.worst || correlation < out.worst.correlation))
      out.worst = { frame, correlation };
  });
  out.levels.original /= Math.max(1, out.pictures);
  out.levels.other /= Math.max(1, out.pictures);
  return out.pictures === 0 ? null : out;
}

/** Whether the pictures of the two are those of one clip. */
export const areAlike = ({ worst, flatDiffers }: Compared): boolean =>
  flatDiffers === null && (worst === null || worst.correlation >= ALIKE.correlation);

/** How pictures that are kept were found: those before may be of other frames than they say. */
const FOUND_BY = 2;

/** Sampled pictures as they are kept. `of`: what the file was they are of. */
export const KeptSampled = z.object({
  foundBy: z.literal(FOUND_BY),
  of: z.string(),
  frames: z.array(z.int()),
  pictures: z.array(z.base64().transform((text) => Uint8Array.from(atob(text), (c) => c.charCodeAt(0)))),
});

export const packSampled = ({ frames, pictures }: Sampled, of: string): z.input<typeof KeptSampled> => ({
  foundBy: FOUND_BY,
  of,
  frames,
  pictures: pictures.map((p) => btoa(String.fromCharCode(...p))),
});
