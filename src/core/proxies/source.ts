import type { Rate } from '../platform/timecode/rate';
import type { Timecode } from '../platform/timecode/timecode';
import type { Recipe } from './recipe';

/** What a file is made from. */
export interface ProxySource {
  /** The matrix its picture is made by, for FFmpeg's scaler: also where it states none. */
  matrix: string;
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
  /** What the file says of itself beside its streams; `null` where the clip does not state it. */
  tags: {
    /** The camera's own name of the clip, and its tape or card. */
    clip: string | null;
    reel: string | null;
    maker: string | null;
    model: string | null;
    /** ISO 8601, in UTC. */
    recorded: string | null;
  };
}

export const NO_TAGS: ProxySource['tags'] = {
  clip: null,
  reel: null,
  maker: null,
  model: null,
  recorded: null,
};

/**
 * Layouts the AAC encoder takes, by channel count (ISO/IEC 14496-3 channel configurations, from memory). Those with more channels have one
 * for low frequencies, of which the encoder keeps nothing but bass: a recorder's channels are never put there.
 */
const LAYOUT = ['', 'mono', 'stereo', '3.0', '4.0', '5.0'] as const;

/** An audio stream of a made file: where its channels come from. */
export interface OutStream {
  /** Input file, stream in it, and channels of it, from 0. */
  file: number;
  stream: number;
  from: readonly number[];
  /** As FFmpeg names what they become. */
  layout: string;
}

/** The audio streams of a made file: those of the original, less the channels that are left out, and of AAC in pairs where one would not keep them all. */
export function streamsOf({ audio }: Recipe, source: Pick<ProxySource, 'audio'>): OutStream[] {
  if (audio.codec === 'none') return [];
  const wanted = audio.channels && new Set(audio.channels);
  const out: OutStream[] = [];
  let number = 0;
  source.audio.forEach((streams, file) =>
    streams.forEach((channels, stream) => {
      const from = Array.from({ length: channels }, (_, i) => i).filter(() => {
        number++;
        return !wanted || wanted.has(number);
      });
      if (from.length === 0) return;
      const aside = audio.codec === 'aac' && from.length >= LAYOUT.length;
      for (let i = 0; i < from.length; i += aside ? 2 : from.length) {
        const group = aside ? from.slice(i, i + 2) : from;
        out.push({ file, stream, from: group, layout: LAYOUT[group.length] ?? `${group.length}c` });
      }
    }),
  );
  return out;
}

/** How many channels a made file has: what its pair is proven by. */
export const channelsOf = (recipe: Recipe, source: Pick<ProxySource, 'audio'>): number =>
  recipe.audio.codec === 'copy'
    ? source.audio.flat().reduce((n, c) => n + c, 0)
    : streamsOf(recipe, source).reduce((n, s) => n + s.from.length, 0);

export const isInterlaced = (s: Pick<ProxySource, 'scan'>): boolean =>
  s.scan === 'top' || s.scan === 'bottom';
/** H.273 calls the matrix of RGB "identity"; FFmpeg calls it "gbr". */
export const isRgb = (s: Pick<ProxySource, 'colour'>): boolean => s.colour.matrix === 'gbr';

/** The range a codec has, whatever it is made of: files of ProRes say none and are read as limited, those of Motion JPEG are full. Null where it is stated. */
export const rangeOf = ({ video }: Recipe): 'full' | 'limited' | null =>
  video.codec === 'mjpeg' ? 'full' : video.codec === 'prores' ? 'limited' : null;

/** What is otherwise in a made file than in its original, in words. */
export function changesOf(recipe: Recipe, s: ProxySource): string[] {
  if (recipe.purpose === 'rewrap') return [];
  const all = s.audio.flat().reduce((n, c) => n + c, 0);
  const kept = channelsOf(recipe, s);
  return [
    ...(isInterlaced(s) && recipe.interlaced === 'deinterlaced' ? ['deinterlaced'] : []),
    ...(s.rotation === 0 ? [] : [`turned by ${s.rotation}°`]),
    ...(s.pixelAspect === null || s.pixelAspect === 1 || recipe.pixels === 'kept'
      ? []
      : ['pixels made square']),
    ...(isRgb(s) ? ['RGB made Y′CbCr'] : []),
    ...(rangeOf(recipe) === 'full' && s.colour.range !== 'full' ? ['range made full'] : []),
    ...(rangeOf(recipe) === 'limited' && s.colour.range === 'full' ? ['range made limited'] : []),
    ...(recipe.audio.codec === 'aac' && streamsOf(recipe, s).length > s.audio.flat().length
      ? ['audio channels in pairs']
      : []),
    ...(kept === all ? [] : [kept === 0 ? 'without sound' : `${kept} of ${all} audio channels`]),
  ];
}
