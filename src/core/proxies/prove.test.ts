import { describe, expect, test } from '@jest/globals';
import { rate } from '../platform/timecode/rate';
import { parseTimecode } from '../platform/timecode/timecode';
import {
  foundAgain,
  lostOf,
  type PairFacts,
  pairReason,
  partsAsOne,
  provePair,
  statedByProxy,
} from './prove';

const facts = (extra: Partial<PairFacts> = {}): PairFacts => ({
  frames: 100,
  rate: rate(25),
  start: parseTimecode('14:22:05:00', rate(25)),
  channels: 2,
  ...extra,
});

describe('provePair', () => {
  test('all five the same is proof', () => {
    const p = provePair(facts(), facts());
    expect(p.state).toBe('proven');
    expect(p.checks.map((c) => c.what)).toEqual(['frames', 'rate', 'start', 'duration', 'channels']);
    expect(pairReason(p.checks)).toBe('');
  });

  test.each<[string, Partial<PairFacts>, string]>([
    [
      'a frame less',
      { frames: 99 },
      'frame count: original 100, proxy 99; duration: original 4.00 s, proxy 3.96 s',
    ],
    [
      '29.97 for 30 would drift',
      { rate: rate(30000, 1001) },
      'frame rate: original 25, proxy 29.97; duration: original 4.00 s, proxy 3.34 s',
    ],
    [
      'timecode lost',
      { start: parseTimecode('00:00:00:00', rate(25)) },
      'start timecode: original 14:22:05:00, proxy 00:00:00:00',
    ],
    ['a channel lost', { channels: 1 }, 'audio channels: original 2, proxy 1'],
  ])('%s is a mismatch, with its reason', (_, change, reason) => {
    const p = provePair(facts(), facts(change));
    expect(p.state).toBe('mismatched');
    expect(pairReason(p.checks)).toBe(reason);
  });

  test('what is not stated proves nothing', () => {
    const p = provePair(facts(), facts({ start: null }));
    expect(p.state).toBe('unproven');
    expect(pairReason(p.checks)).toBe('start timecode: original 14:22:05:00, proxy not stated');
    expect(provePair(facts(), facts({ start: null, frames: 99 })).state).toBe('mismatched');
    expect(provePair(facts({ frames: null }), facts()).state).toBe('unproven');
  });

  test('a proxy counted at another rate of the same address matches in timecode', () => {
    const half = { ...facts({ rate: rate(50), frames: 200 }), start: parseTimecode('14:22:05:00', rate(25)) };
    expect(
      provePair(facts({ rate: rate(50), frames: 200, start: parseTimecode('14:22:05:00', rate(50)) }), half)
        .state,
    ).toBe('proven');
  });

  test('drop-frame and non-drop start at one address only where they name it alike', () => {
    const r = rate(30000, 1001);
    const drop = facts({ rate: r, start: parseTimecode('01:00:00;00', r) });
    expect(provePair(drop, facts({ rate: r, start: parseTimecode('01:00:00:00', r) })).state).toBe(
      'mismatched',
    );
  });
});

test('what a proxy states is known from what it was proven by, also where its timecode is counted at another rate', () => {
  const { shown: _, times: __, ...plain } = facts({ rate: rate(50), frames: 200 });
  const stated = { ...plain, start: parseTimecode('14:22:05:12', rate(25)) };
  expect(statedByProxy(provePair(facts(), stated).checks)).toEqual({ ...stated, reel: null });
  const r = rate(30000, 1001);
  const drop = { frames: 7, rate: r, start: parseTimecode('01:00:00;02', r), channels: 0 };
  expect(statedByProxy(provePair(facts(), { ...drop, reel: 'A001' }).checks)).toEqual({
    ...drop,
    reel: 'A001',
  });
  // As it was kept before, and where nothing is stated.
  const kept = provePair(facts(), drop).checks.map(({ states: _, ...c }) => c);
  expect(statedByProxy(kept)).toEqual({ ...drop, reel: null });
  const none = { frames: null, rate: null, start: null, channels: null, reel: null };
  expect(statedByProxy(provePair(facts(), none).checks)).toEqual(none);
  expect(statedByProxy([])).toEqual(none);
});

describe('a rate that varies', () => {
  const times = [0, 0.033, 0.1, 0.134];
  const of = (extra: Partial<PairFacts>) => facts({ frames: 4, times, ...extra });

  test('is proven by the times of all frames, whatever the averages are', () => {
    const p = provePair(of({}), of({ rate: rate(30), times: [0, 0.0331, 0.1, 0.134] }));
    expect(p.state).toBe('proven');
    expect(p.checks.map((c) => c.what)).toEqual(['frames', 'times', 'start', 'channels']);
  });

  test('the first frame that is late is named; of evenly spaced ones most are', () => {
    const p = provePair(of({}), of({ times: [0, 0.045, 0.09, 0.134] }));
    expect(p.state).toBe('mismatched');
    expect(pairReason(p.checks)).toBe('frame times: original frame 2 at 0.033 s, proxy frame 2 at 0.045 s');
    expect(pairReason(provePair(of({}), of({ times: times.slice(0, 3) })).checks)).toBe(
      'frame times: original frame 4 at 0.134 s, proxy frame 4 at no time',
    );
    expect(provePair(of({}), of({ times: [...times, 0.2] })).state).toBe('mismatched');
    expect(provePair(of({}), facts({ frames: 4 })).state).toBe('unproven');
    // An original whose frames could not be looked at proves nothing, and is no mismatch.
    const unseen = provePair(of({ times: null }), of({}));
    expect([unseen.state, pairReason(unseen.checks)]).toEqual([
      'unproven',
      'frame times: original not stated, proxy 4 frames to 0.134 s',
    ]);
  });
});

test('proxies of chapters count as one with the take', () => {
  const take = facts({ frames: 300 });
  const at = (text: string) => parseTimecode(text, rate(25));
  const parts = [facts(), facts({ start: at('14:22:09:00') }), facts({ start: null })];
  // A second part of another take, as long as the right one.
  const other = provePair(take, partsAsOne([facts(), facts({ start: at('15:00:00:00') }), facts()]));
  expect([other.state, pairReason(other.checks)]).toEqual([
    'mismatched',
    expect.stringMatching(/^start timecode: original 14:22:05:00/),
  ]);
  expect(provePair(take, partsAsOne(parts)).state).toBe('proven');
  expect(provePair(take, partsAsOne(parts.slice(1))).state).toBe('mismatched');
  const unknown = facts({ frames: null, start: null });
  expect(provePair(take, partsAsOne([facts(), unknown, unknown])).state).toBe('unproven');
  expect(partsAsOne([])).toEqual({ frames: null, rate: null, start: null, channels: null });
});

test.each<[Partial<PairFacts>, 'proven' | 'mismatched' | 'unproven']>([
  [{}, 'proven'],
  [{ frames: 99 }, 'mismatched'],
  [{ start: null }, 'unproven'],
])(
  'a pair that is lost says which file is missing, and is what it was once both are there: %j',
  (change, state) => {
    const before = provePair(facts(), facts(change));
    expect(before.state).toBe(state);
    const proxy = lostOf(before.checks, { original: false, proxy: true });
    expect([proxy.state, pairReason(proxy.checks)]).toEqual(['lost', 'the proxy is not at its place']);
    // The other file goes as well: that is said in place of it.
    const both = lostOf(proxy.checks, { original: true, proxy: true });
    expect(pairReason(both.checks)).toBe('neither original nor proxy is at its place');
    expect(foundAgain(both.checks)).toEqual(before);
  },
);

test('one of which nothing was ever compared is not proven by being found', () => {
  expect(foundAgain(lostOf([], { original: true, proxy: false }).checks).state).toBe('unproven');
});
