import * as z from 'zod';
import {
  chooseFacts,
  count,
  type FieldId,
  isTimeOfDay,
  rateOf,
  type Source,
  startOf,
  type Statement,
  text,
  type Trust,
} from '../facts';
import { ShownPath } from '../platform/names';
import { Rate, sameRate } from '../platform/timecode/rate';
import { atRate, Timecode } from '../platform/timecode/timecode';

/**
 * What a program reads in a media file by itself, without what is known of the clip besides: by this, edits are connected to their
 * originals. `null` where the file does not state it. A take of several files is one: the name of the first, the frames of all.
 */
export const Held = z.object({
  what: z.enum(['original', 'cameraProxy', 'proxy', 'transcode', 'rewrap']),
  /** With its extension, without its folder. */
  name: ShownPath,
  reel: z.string().nullable(),
  /** Timecode of its first frame. */
  start: Timecode.nullable(),
  rate: Rate.nullable(),
  frames: z.int().nullable(),
  /** Whether it is sound alone: nothing takes it for a picture of the same timecode. */
  sound: z.boolean(),
  /** Of all its audio streams. */
  channels: z.int().nullable(),
});
export type Held = z.infer<typeof Held>;

export const HELD_WORDS: Record<Held['what'], string> = {
  original: 'original',
  cameraProxy: 'camera’s proxy',
  proxy: 'proxy',
  transcode: 'transcode',
  rewrap: 'rewrap',
};

/** A file's name without its extension. */
export const stemOf = (name: string): string => name.replace(/(?<=.)\.[^.]{1,12}$/, '');

/** A name by which files are told to be the same one: in whichever of its forms Unicode writes it (UAX 15). */
export const nameKey = (name: string): string => name.normalize('NFC');

/**
 * The number of a file's first frame at its own rate: its timecode may be counted at another. 0 where it states none, as programs count
 * (common practice); `null` where that falls between its frames, or its rate is not known.
 */
export function firstFrame({ start, rate }: Pick<Held, 'start' | 'rate'>): number | null {
  if (!rate) return null;
  if (!start) return 0;
  return sameRate(start.rate, rate) ? start.frame : (atRate(start, rate)?.frame ?? null);
}

/** What stands in the file itself, not beside it, in its name, or in what a person says. */
const IN_FILE: ReadonlySet<Source> = new Set<Source>(['timecodeTrack', 'container', 'bext', 'ixml']);

/** What of a clip is asked for to know what its file states. */
export const HELD_FIELDS = [
  'start',
  'rate',
  'frames',
  'reel',
  'channels',
  'samples',
  'sampleRate',
] as const satisfies readonly FieldId[];

/** An original, by all that is stated of its clip. */
export function heldOriginal(name: ShownPath, statements: readonly Statement[]): Held {
  const facts = chooseFacts(statements.filter((s) => IN_FILE.has(s.source)));
  const [start, rate] = [startOf(facts), rateOf(facts)];
  const [samples, sampleRate] = [count(facts, 'samples'), count(facts, 'sampleRate')];
  // Sound alone has no frames: it is counted as its timecode is, to the end of the frame that it ends in.
  const counted = rate === null && start !== null && samples !== null && sampleRate ? start.rate : null;
  return {
    what: 'original',
    name,
    reel: text(facts, 'reel'),
    start,
    sound: rate === null && samples !== null,
    rate: rate ?? counted,
    frames: counted
      ? Math.ceil((samples! * counted.num) / (sampleRate! * counted.den))
      : count(facts, 'frames'),
    channels: count(facts, 'channels'),
  };
}

/** The timecode a clip really begins at, by all that is stated of it; `null` where only a time of day stands in for one, or nothing. */
export const knownStart = (statements: readonly Statement[], trust?: Trust): Timecode | null => {
  const stated = statements.filter((s) => s.field === 'start' && !isTimeOfDay(s));
  return startOf(chooseFacts(stated, trust));
};
