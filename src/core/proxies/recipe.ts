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
  /** What becomes of the fields of an interlaced picture: each two made one frame, or both kept. */
  interlaced: z.enum(['deinterlaced', 'kept']),
});
export type Recipe = z.infer<typeof Recipe>;

/** The one recipe of this version: light, and playable in a browser. */
export const LIGHT: Recipe = {
  id: 'light',
  name: 'H.264 in MP4, fits in 960×540',
  box: { width: 960, height: 540 },
  quality: 23,
  audioBitRate: 96_000,
  interlaced: 'deinterlaced',
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
  /** Width of a pixel by its height; `null` where it is not stated: FFmpeg's own reading counts then. */
  pixelAspect: number | null;
  /** How far the picture is turned when shown, degrees clockwise. */
  rotation: number;
  /** Which field comes first, of an interlaced picture; `null` where it is not stated whether it is one. */
  scan: 'progressive' | 'top' | 'bottom' | null;
  rate: Rate;
  /** Whether frames follow each other at uneven times. */
  varies: boolean;
  frames: number;
  start: Timecode | null;
  /** Channels of each audio stream, in order, by file: the picture's own first, then those of sound that is apart. */
  audio: readonly (readonly number[])[];
  /** Colour tags as the original carries them; `null` where it has none. */
  colour: {
    range: 'full' | 'limited' | null;
    primaries: string | null;
    transfer: string | null;
    matrix: string | null;
  };
}

/**
 * Layouts the AAC encoder takes, by channel count (ISO/IEC 14496-3 channel configurations, from memory). Those with more channels have one
 * for low frequencies, of which the encoder keeps nothing but bass: a recorder's channels are never put there.
 */
const LAYOUT = ['', 'mono', 'stereo', '3.0', '4.0', '5.0'] as const;

/** A stream's channels as the proxy's streams have them: all in one, or in pairs where one would not keep them all. */
function groupsOf(channels: number): number[][] {
  const all = Array.from({ length: channels }, (_, i) => i);
  if (channels < LAYOUT.length) return [all];
  return Array.from({ length: Math.ceil(channels / 2) }, (_, i) => all.slice(2 * i, 2 * i + 2));
}

/** H.273 calls the matrix of RGB "identity"; FFmpeg calls it "gbr". */
const isRgb = (s: ProxySource): boolean => s.colour.matrix === 'gbr';

/** `fitSize` in FFmpeg's own words, of the picture as it comes: its shape is kept whatever was read of it. */
function fitted({ width, height }: Recipe['box']): string {
  const even = (side: string) => `'max(2,2*round(${side}*min(1,min(${width}/(iw*sar),${height}/ih))/2))'`;
  return `w=${even('iw*sar')}:h=${even('ih')}`;
}

/** What is otherwise in a proxy than in its original, in words. */
export function changesOf(recipe: Recipe, s: ProxySource): string[] {
  return [
    ...(isInterlaced(s) && recipe.interlaced === 'deinterlaced' ? ['deinterlaced'] : []),
    ...(s.rotation === 0 ? [] : [`turned by ${s.rotation}°`]),
    ...(s.pixelAspect === null || s.pixelAspect === 1 ? [] : ['pixels made square']),
    ...(isRgb(s) ? ['RGB made Y′CbCr'] : []),
    ...(s.audio.flat().some((n) => n >= LAYOUT.length) ? ['audio channels in pairs'] : []),
  ];
}

const isInterlaced = (s: ProxySource): boolean => s.scan === 'top' || s.scan === 'bottom';

/** Ticks a second of a proxy whose frames come at uneven times. */
const FINE = 90_000;

/**
 * FFmpeg's arguments for a proxy, input and output left out. Every frame is kept as it is (`keepFrames`: FFmpeg's own option
 * to drop and double none, which has two names), colour tags and range are carried across (RGB becomes limited Y′CbCr by BT.709), and the
 * start timecode goes into a timecode track. FFmpeg turns the picture as it is to be shown before it comes to these filters.
 */
export function proxyArguments(recipe: Recipe, source: ProxySource, keepFrames: readonly string[]): string[] {
  const aspect = source.pixelAspect;
  const rgb = isRgb(source);
  const range = source.colour.range === 'full' && !rgb ? 'full' : 'limited';
  const matrix = rgb ? 'bt709' : source.colour.matrix;
  const kept = isInterlaced(source) && recipe.interlaced === 'kept';
  const fields =
    source.scan === 'progressive' || kept
      ? []
      : [
          source.scan === null
            ? 'bwdif=mode=send_frame:deint=interlaced'
            : `bwdif=mode=send_frame:parity=${source.scan === 'top' ? 'tff' : 'bff'}:deint=all`,
        ];
  const levels = rgb ? `out_color_matrix=bt709:out_range=${range}` : `in_range=${range}:out_range=${range}`;
  const args = [
    '-map',
    '0:v:0',
    '-map_metadata',
    '-1',
    '-map_chapters',
    '-1',
    '-vf',
    [
      ...fields,
      ...(aspect === null ? [] : [`setsar=${source.rotation % 180 === 0 ? aspect : 1 / aspect}`]),
      `scale=${fitted(recipe.box)}:flags=bicubic:${levels}${kept ? ':interl=1' : ''}`,
      'setsar=1',
      'format=yuv420p',
    ].join(','),
    ...keepFrames,
    '-enc_time_base',
    source.varies ? `1/${FINE}` : `${source.rate.den}/${source.rate.num}`,
    '-c:v',
    'libx264',
    '-preset',
    'veryfast',
    '-crf',
    String(recipe.quality),
    '-profile:v',
    'high',
    ...(kept ? ['-flags', '+ilme+ildct', '-x264opts', source.scan === 'top' ? 'tff=1' : 'bff=1'] : []),
    '-g',
    String(Math.max(1, Math.round(source.rate.num / source.rate.den / 2))),
    '-color_range',
    range === 'full' ? 'pc' : 'tv',
    ...(source.colour.primaries ? ['-color_primaries', source.colour.primaries] : []),
    ...(source.colour.transfer ? ['-color_trc', source.colour.transfer] : []),
    ...(matrix ? ['-colorspace', matrix] : []),
    '-video_track_timescale',
    String(source.varies ? FINE : source.rate.num * (source.rate.num < 1000 ? 1000 : 1)),
  ];
  let out = 0;
  source.audio.forEach((streams, file) =>
    streams.forEach((channels, stream) => {
      for (const group of groupsOf(channels)) {
        // Channel by channel: a layout that is another by name must not be mixed into this one.
        const pan = [LAYOUT[group.length], ...group.map((from, to) => `c${to}=c${from}`)].join('|');
        args.push('-map', `${file}:a:${stream}`, `-filter:a:${out}`, `pan=${pan}`, `-c:a:${out}`, 'aac');
        args.push(`-b:a:${out}`, String(recipe.audioBitRate * group.length));
        out++;
      }
    }),
  );
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
