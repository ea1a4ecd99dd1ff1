import { z } from 'zod';
import { formatTimecode, type Timecode } from '../platform/timecode/timecode';
import type { Rate } from '../platform/timecode/rate';

/** How a proxy is made. */
export const Recipe = z.object({
  id: z.string(),
  name: z.string(),
  /** The picture is made to fit in this box, its shape kept, never enlarged. Pixels. */
  box: z.object({ width: z.int().positive(), height: z.int().positive() }),
  /** Constant quality of the H.264 encoder, 0 (best) to 51. */
  quality: z.int().min(0).max(51),
  /** Bits a second for each audio channel. */
  audioBitRate: z.int().positive(),
});
export type Recipe = z.infer<typeof Recipe>;

/** The one recipe of this version: light, and playable in a browser. */
export const LIGHT: Recipe = {
  id: 'light',
  name: 'H.264 in MP4, fits in 960×540',
  box: { width: 960, height: 540 },
  quality: 23,
  audioBitRate: 96_000,
};

/** Frame size within a box: shape kept, never enlarged, both sides even as 4:2:0 needs, at least 2. */
export function fitSize(
  width: number,
  height: number,
  box: Recipe['box'],
): { width: number; height: number } {
  const k = Math.min(1, box.width / width, box.height / height);
  const even = (x: number) => Math.max(2, 2 * Math.round((x * k) / 2));
  return { width: even(width), height: even(height) };
}

export interface ProxySource {
  width: number;
  height: number;
  rate: Rate;
  frames: number;
  start: Timecode | null;
  /** Channels of each audio stream, in order. */
  audio: readonly number[];
  /** Colour tags as the original carries them; `null` where it has none. */
  colour: {
    range: 'full' | 'limited' | null;
    primaries: string | null;
    transfer: string | null;
    matrix: string | null;
  };
}

/** Names of channel layouts the AAC encoder takes, by channel count (ISO/IEC 14496-3 channel configurations, from memory). */
const LAYOUT: Record<number, string> = {
  1: 'mono',
  2: 'stereo',
  3: '3.0',
  4: '4.0',
  5: '5.0',
  6: '5.1',
  8: '7.1',
};

/**
 * FFmpeg's arguments for a proxy, input and output left out. Every frame is kept as it is (`keepFrames`: FFmpeg's own option
 * to drop and double none, which has two names), colour tags and range are carried across unchanged, and the start timecode goes into a timecode track.
 */
export function proxyArguments(recipe: Recipe, source: ProxySource, keepFrames: readonly string[]): string[] {
  const { width, height } = fitSize(source.width, source.height, recipe.box);
  const range = source.colour.range === 'full' ? 'full' : 'limited';
  const matrix = source.colour.matrix;
  const args = [
    '-map',
    '0:v:0',
    '-map',
    '0:a?',
    '-map_metadata',
    '-1',
    '-map_chapters',
    '-1',
    '-vf',
    `scale=${width}:${height}:flags=bicubic:in_range=${range}:out_range=${range},setsar=1,format=yuv420p`,
    ...keepFrames,
    '-enc_time_base',
    `${source.rate.den}/${source.rate.num}`,
    '-c:v',
    'libx264',
    '-preset',
    'veryfast',
    '-crf',
    String(recipe.quality),
    '-profile:v',
    'high',
    '-g',
    String(Math.max(1, Math.round(source.rate.num / source.rate.den / 2))),
    '-color_range',
    range === 'full' ? 'pc' : 'tv',
    ...(source.colour.primaries ? ['-color_primaries', source.colour.primaries] : []),
    ...(source.colour.transfer ? ['-color_trc', source.colour.transfer] : []),
    ...(matrix ? ['-colorspace', matrix] : []),
    '-video_track_timescale',
    String(source.rate.num * (source.rate.num < 1000 ? 1000 : 1)),
  ];
  source.audio.forEach((channels, i) => {
    const layout = LAYOUT[channels];
    args.push(`-c:a:${i}`, 'aac', `-b:a:${i}`, String(recipe.audioBitRate * channels));
    if (layout) args.push(`-filter:a:${i}`, `aformat=channel_layouts=${layout}`);
  });
  if (source.start) args.push('-timecode', formatTimecode(source.start));
  return [...args, '-write_tmcd', source.start ? '1' : '0', '-movflags', '+faststart', '-f', 'mp4'];
}

/** Containers and codecs the browser plays: H.264 4:2:0 8 bit with AAC or no sound (Debian's Chromium; HEVC and ProRes it does not). */
export function browserPlays(clip: {
  container: string | null;
  codec: string | null;
  chroma: string | null;
  bitDepth: number | null;
  audioCodec: string | null;
}): boolean {
  return (
    (clip.container === 'MP4' || clip.container === 'MOV') &&
    clip.codec === 'H.264' &&
    clip.chroma === '4:2:0' &&
    clip.bitDepth === 8 &&
    (clip.audioCodec === null || clip.audioCodec === 'AAC')
  );
}

/** Whether a clip needs a proxy, and why; a camera-made one that matches is enough. */
export function needsProxy(clip: { readable: boolean; hasProvenProxy: boolean; hasCameraProxy: boolean }): {
  needed: boolean;
  because: string;
} {
  if (!clip.readable) return { needed: false, because: 'the original cannot be read' };
  if (clip.hasProvenProxy) return { needed: false, because: 'a proven proxy stands beside it' };
  return {
    needed: true,
    because: clip.hasCameraProxy ? 'the camera-made proxy does not prove' : 'the camera made none',
  };
}

/**
 * Size in bytes and seconds of work for proxies of `seconds` of footage. Bits per pixel are a rule of thumb for this
 * recipe on camera footage; `timesRealTime` comes from the proxies made so far.
 */
export function estimate(
  recipe: Recipe,
  clips: readonly { width: number; height: number; frames: number; rate: Rate; channels: number }[],
  timesRealTime: number,
) {
  let bytes = 0;
  let running = 0;
  for (const c of clips) {
    const size = fitSize(c.width, c.height, recipe.box);
    const s = (c.frames * c.rate.den) / c.rate.num;
    bytes += (size.width * size.height * c.frames * 0.08 + s * c.channels * recipe.audioBitRate) / 8;
    running += s;
  }
  return { bytes: Math.round(bytes), seconds: running / timesRealTime };
}
