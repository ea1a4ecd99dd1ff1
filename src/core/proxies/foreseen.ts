import type { Rate } from '../platform/timecode/rate';
import { fitSize, type Recipe } from './recipe';

/** Of a clip, what size and time of its proxy follow from. */
export interface ForeseenOf {
  width: number;
  height: number;
  frames: number;
  rate: Rate;
  channels: number;
  /** Of the original. */
  bytes: number;
}

/**
 * Bits a pixel of a frame. ProRes from the target rates of its grades for 1920×1080 at 29.97 (45, 102, 147 and 220 Mbit/s, as
 * RDD 36 encoders commonly aim at, from memory), VC-3 from those of its own (45, 145, 220), which it keeps whatever is in the
 * picture; the others are rules of thumb for camera footage, until recipes have been measured here.
 */
const MBIT = 1e6 / (1920 * 1080 * 29.97);
const BITS: Record<string, number> = {
  'prores proxy': 45 * MBIT,
  'prores lt': 102 * MBIT,
  'prores standard': 147 * MBIT,
  'prores high': 220 * MBIT,
  'vc3 low': 45 * MBIT,
  'vc3 standard': 145 * MBIT,
  'vc3 high': 220 * MBIT,
  'vc3 high10': 220 * MBIT,
};

/** H.264 takes twice as much for each six steps of quality (its quantiser halves; that size follows is a rule of thumb). */
const h264Bits = (quality: number): number => 0.08 * 2 ** ((23 - quality) / 6);

function pictureBits({ video, size }: Recipe, { width, height, frames, rate, bytes }: ForeseenOf): number {
  const to = fitSize(width, height, size);
  const pixels = to.width * to.height * frames;
  switch (video.codec) {
    case 'copy':
      return bytes * 8;
    case 'h264':
      return video.bitRate === null
        ? pixels * h264Bits(video.quality)
        : (video.bitRate * frames * rate.den) / rate.num;
    case 'mjpeg':
      return (pixels * 4) / video.quality;
    default:
      return pixels * BITS[`${video.codec} ${video.grade}`]!;
  }
}

function soundBits({ audio }: Recipe, channels: number, seconds: number): number {
  const kept = audio.channels ? audio.channels.filter((c) => c <= channels).length : channels;
  const bits = { aac: audio.bitRate, pcm: 24 * 48_000, copy: 0, none: 0 };
  return bits[audio.codec] * kept * seconds;
}

/** Bytes a recipe makes of a clip. */
export function foreseenBytes(recipe: Recipe, clip: ForeseenOf): number {
  const seconds = (clip.frames * clip.rate.den) / clip.rate.num;
  return Math.round((pictureBits(recipe, clip) + soundBits(recipe, clip.channels, seconds)) / 8);
}

/** How many proxies are made at once. Two are a little faster than one after the other even on two cores (`npm run bench proxies`), and more so on more. */
export const AT_ONCE = 2;

/** Of work that has not ended: seconds of footage, by which recipe, and how much of it is done, 0 to 1. */
export interface OpenPiece {
  seconds: number | null;
  recipe: string | null;
  progress: number;
}

/**
 * Seconds until all of it is done, as work by the same recipes went here (times real time); by that of all where a recipe is new. Null
 * where nothing was made yet, or a length is not known.
 */
export function secondsLeft(
  open: readonly OpenPiece[],
  measured: readonly { recipe: string; timesRealTime: number }[],
): number | null {
  if (measured.length === 0 || open.some((w) => w.seconds === null)) return null;
  const by = new Map(measured.map((m) => [m.recipe, m.timesRealTime]));
  const any = measured.length / measured.reduce((n, m) => n + 1 / m.timesRealTime, 0);
  const each = open.map((w) => (w.seconds! * (1 - w.progress)) / (by.get(w.recipe ?? '') ?? any));
  return Math.max(0, ...each, each.reduce((n, s) => n + s, 0) / AT_ONCE);
}
