import { chooseFacts, count, numberIn, rateOf, startOf, type Statement, text } from '../../core/facts';
import type { ProxySource } from '../../core/proxies/recipe';

/** Whether a clip's frames come at uneven times. */
export function varies(statements: readonly Statement[]): boolean {
  const facts = chooseFacts(statements);
  const [least, most] = [numberIn(facts, 'rateLeast'), numberIn(facts, 'rateMost')];
  return least !== null && most !== null && least < most;
}

/**
 * What a proxy is made from, out of what a clip states; `null` where it states no rate or length. The time of day that stands in for
 * a timecode is none. `audio` are the channels of each stream, by file.
 */
export function sourceOf(statements: readonly Statement[], audio: ProxySource['audio']): ProxySource | null {
  const facts = chooseFacts(statements.filter((s) => s.source !== 'clock'));
  const [rate, frames] = [rateOf(facts), count(facts, 'frames')];
  if (!rate || !frames) return null;
  const aspect = facts.get('pixelAspect')?.chosen.value;
  const [range, scan] = [text(facts, 'range'), text(facts, 'scan')];
  return {
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
  };
}
