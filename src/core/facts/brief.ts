import { browserPlays } from '../proxies';
import type { Rate } from '../platform/timecode/rate';
import { endOf, formatTimecode, seconds } from '../platform/timecode/timecode';
import type { Source } from './catalogue';
import {
  count,
  type FactContext,
  type Facts,
  findings,
  flag,
  isTimeOfDay,
  momentOf,
  numberIn,
  rateOf,
  startOf,
  text,
} from './facts';

/**
 * What lists of clips show of one and clocks are judged by: worked out with the table's facts whenever those change, so that
 * a look at thousands of clips reads none of their statements. `null` where the clip states nothing of the kind.
 */
export interface Brief {
  /** Recorded time by the job's clock, "2026-05-06T14:22:05", and who stated it. */
  recordedAt: string | null;
  recordedBy: Source | null;
  rate: Rate | null;
  frames: number | null;
  /** Running time: of pictures by frames and rate, of sound by samples. */
  seconds: number | null;
  /** Timecode of the first frame and of the one after the last, as text. */
  start: string | null;
  end: string | null;
  /** Number of its first frame since midnight. */
  startFrame: number | null;
  /** Seconds since midnight its own timecode begins at; `null` also where the clock stands in for one, or it is zero. */
  timecode: number | null;
  codec: string | null;
  chroma: string | null;
  bitDepth: number | null;
  width: number | null;
  height: number | null;
  channels: number | null;
  /** Whether each frame stands by itself, and bits a second of the picture; absent of what was worked out before they were kept. */
  allIntra?: boolean | null;
  bitRate?: number | null;
  /** Whether a browser plays the original. */
  playable: boolean;
  /** What a person should look at, in sentences. */
  looks: string[];
}

/** Of the facts as `factsOf` gives them, by the same context. */
export function briefOf(facts: Facts, context: FactContext = {}): Brief {
  const [rate, frames, start] = [rateOf(facts), count(facts, 'frames'), startOf(facts)];
  const [samples, sampleRate] = [count(facts, 'samples'), count(facts, 'sampleRate')];
  const recorded = facts.get('recordedAt')?.chosen;
  const own = start !== null && start.frame > 0 && !isTimeOfDay(facts.get('start')!.chosen);
  const [codec, chroma, bitDepth] = [text(facts, 'codec'), text(facts, 'chroma'), count(facts, 'bitDepth')];
  return {
    recordedAt: momentOf(facts)?.local ?? null,
    recordedBy: recorded?.source ?? null,
    rate,
    frames,
    seconds:
      rate && frames !== null
        ? seconds(frames, rate)
        : samples !== null && sampleRate
          ? samples / sampleRate
          : numberIn(facts, 'length'),
    start: start && formatTimecode(start),
    startFrame: start?.frame ?? null,
    end: start && frames !== null ? formatTimecode(endOf(start, frames)) : null,
    timecode: own ? (start.frame * start.rate.den) / start.rate.num : null,
    codec,
    chroma,
    bitDepth,
    width: count(facts, 'width'),
    height: count(facts, 'height'),
    channels: count(facts, 'channels'),
    allIntra: flag(facts, 'allIntra'),
    bitRate: count(facts, 'bitRate'),
    playable: browserPlays({
      container: text(facts, 'container'),
      codec,
      chroma,
      bitDepth,
      audioCodec: text(facts, 'audioCodec'),
    }),
    looks: findings(facts, context).map((f) => f.text),
  };
}

/** Of a clip nobody has read yet. */
export const NO_BRIEF: Brief = briefOf(new Map());
