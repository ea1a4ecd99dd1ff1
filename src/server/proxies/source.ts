import {
  chooseFacts,
  count,
  isTimeOfDay,
  matrixOf,
  type Facts,
  momentOf,
  numberIn,
  rateOf,
  startOf,
  type Statement,
  text,
} from '../../core/facts';
import type { ForeseenOf } from '../../core/proxies/foreseen';
import type { ProxySource } from '../../core/proxies/source';

/** Whether a clip's frames come at uneven times. */
export function varies(statements: readonly Statement[]): boolean {
  const facts = chooseFacts(statements);
  const [least, most] = [numberIn(facts, 'rateLeast'), numberIn(facts, 'rateMost')];
  return least !== null && most !== null && least < most;
}

/** What is known of a clip beside its statements: the camera's name of it, its card, and the minutes its clock is ahead of UTC. */
export interface About {
  clip: string | null;
  reel: string | null;
  zoneMinutes: number;
}

function tagsOf(facts: Facts, { clip, reel, zoneMinutes }: About): ProxySource['tags'] {
  const moment = momentOf(facts);
  const recorded = moment && Date.parse(`${moment.local}Z`) - (moment.offset ?? zoneMinutes) * 60_000;
  return {
    clip,
    reel: text(facts, 'reel') ?? reel,
    maker: text(facts, 'maker'),
    model: text(facts, 'model'),
    recorded: recorded === null || Number.isNaN(recorded) ? null : new Date(recorded).toISOString(),
  };
}

/**
 * What a proxy is made from, out of what a clip states; `null` where it states no rate or length. The time of day that stands in for
 * a timecode is none. `audio` are the channels of each stream, by file; `about` is what its card and job say of it.
 */
export function sourceOf(
  statements: readonly Statement[],
  audio: ProxySource['audio'],
  about: About = { clip: null, reel: null, zoneMinutes: 0 },
): ProxySource | null {
  const facts = chooseFacts(statements.filter((s) => !isTimeOfDay(s)));
  const [rate, frames] = [rateOf(facts), count(facts, 'frames')];
  if (!rate || !frames) return null;
  const aspect = facts.get('pixelAspect')?.chosen.value;
  const [range, scan] = [text(facts, 'range'), text(facts, 'scan')];
  return {
    matrix: matrixOf(facts),
    pixelAspect: aspect?.type === 'fraction' && aspect.num > 0 ? aspect.num / aspect.den : null,
    rotation: count(facts, 'rotation') ?? 0,
    scan:
      scan === 'progressive'
        ? scan
        : scan?.includes('top field first')
          ? 'top'
          : scan?.includes('bottom field first')
            ? 'bottom'
            : null,
    rate,
    varies: varies(statements),
    frames,
    start: startOf(facts),
    audio,
    colour: {
      range: range === 'full' || range === 'limited' ? range : null,
      primaries: text(facts, 'primaries'),
      transfer: text(facts, 'transfer'),
      matrix: text(facts, 'matrix'),
    },
    tags: tagsOf(facts, about),
  };
}

/** What the size of a made file follows from, out of what a clip states. `bytes` is its original's size. */
export function foreseenOf(statements: readonly Statement[], bytes: number): ForeseenOf {
  const facts = chooseFacts(statements);
  return {
    width: count(facts, 'width') ?? 1920,
    height: count(facts, 'height') ?? 1080,
    frames: count(facts, 'frames') ?? 0,
    rate: rateOf(facts) ?? { num: 25, den: 1 },
    channels: count(facts, 'channels') ?? 0,
    bytes,
  };
}
