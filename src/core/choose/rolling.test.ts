import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { rate } from '../platform/timecode/rate';
import { apartText, rollingTogether, type Runs } from './rolling';

const clip = (id: string, more: Partial<Runs>): Runs => ({
  ...{ id, camera: id[0]!, day: 1, seconds: 60, timecode: null, clock: null },
  ...more,
});
const none = () => false;
const together = (clips: Runs[], apart: (a: string, b: string) => boolean = none) =>
  rollingTogether(clips, { dayStart: 4, apart }).map((g) =>
    g.map((c) => `${c.id} ${Math.round(c.offset * 1000) / 1000} ${c.by}`),
  );
const at = (h: number, m: number, s: number): number => h * 3600 + m * 60 + s;

describe('what ran at the same time', () => {
  test('by timecode: two cameras and a recorder, each with its distance from the first', () => {
    expect(
      together([
        clip('A1', { timecode: at(14, 0, 10) }),
        clip('B1', { timecode: at(14, 0, 12.48) }),
        clip('S1', { timecode: at(13, 59, 58), seconds: 300 }),
        // The next take, which only the recorder still heard; and one behind all of it.
        clip('A2', { timecode: at(14, 3, 0) }),
        clip('B2', { timecode: at(14, 30, 0) }),
      ]),
    ).toEqual([['S1 0 timecode', 'A1 12 timecode', 'B1 14.48 timecode', 'A2 182 timecode']]);
  });

  test('by clocks where there is no timecode, and where clocks say that timecodes count otherwise', () => {
    const morning = Date.parse('2026-05-06T08:00:00Z') / 1000;
    expect(
      together([
        clip('A1', { clock: morning }),
        clip('C1', { clock: morning + 31, timecode: at(8, 0, 29) }),
        // Counted from one o'clock on by each camera for itself: hours apart by their clocks.
        clip('D1', { timecode: at(1, 0, 0), clock: morning + 3600 }),
        clip('E1', { timecode: at(1, 0, 0), clock: morning + 9000 }),
        clip('F1', { timecode: at(1, 20, 0), clock: morning + 9020 }),
      ]),
    ).toEqual([
      ['A1 0 clock', 'C1 31 clock'],
      ['E1 0 clock', 'F1 20 clock'],
    ]);
  });

  test('one camera never with itself; not over two days; not where they only touch; not what was told apart', () => {
    expect(together([clip('A1', { timecode: 50_000 }), clip('A2', { timecode: 50_010 })])).toEqual([]);
    expect(together([clip('A1', { timecode: 50_000 }), clip('B1', { timecode: 50_010, day: 2 })])).toEqual(
      [],
    );
    expect(together([clip('A1', { timecode: 50_000 }), clip('B1', { timecode: 50_060 })])).toEqual([]);
    const apart = (a: string, b: string) => a + b === 'A1B1' || a + b === 'B1A1';
    const three = [
      clip('A1', { timecode: 50_000 }),
      clip('B1', { timecode: 50_001 }),
      clip('C1', { timecode: 50_002 }),
    ];
    expect(together(three.slice(0, 2), apart)).toEqual([]);
    expect(together(three)).toEqual([['A1 0 timecode', 'B1 1 timecode', 'C1 2 timecode']]);
  });

  test('behind midnight it is still the day before', () => {
    expect(
      together([
        clip('A1', { timecode: at(23, 59, 50) }),
        clip('B1', { timecode: at(0, 0, 5) }),
        clip('C1', { timecode: at(23, 59, 59) }),
      ]),
    ).toEqual([['A1 0 timecode', 'C1 9 timecode', 'B1 15 timecode']]);
  });

  test('of very many that all run at once the distances are those of their timecodes', () => {
    const some = fc.array(
      fc.record({ start: fc.integer({ min: 0, max: 4000 }), long: fc.integer({ min: 1, max: 900 }) }),
      {
        maxLength: 200,
      },
    );
    fc.assert(
      fc.property(some, (list) => {
        const clips = list.map(({ start, long }, i) =>
          clip(`${String.fromCharCode(65 + (i % 7))}${i}`, { timecode: 40_000 + start, seconds: long }),
        );
        const begins = new Map(clips.map((c) => [c.id, c.timecode!]));
        for (const group of rollingTogether(clips, { dayStart: 4, apart: none })) {
          const first = Math.min(...group.map((c) => begins.get(c.id)!));
          expect(group.length).toBeGreaterThan(1);
          for (const c of group) expect(c.offset).toBeCloseTo(begins.get(c.id)! - first, 6);
        }
      }),
      { numRuns: 60 },
    );
  });
});

test.each([
  [0, rate(25), '±0:00:00'],
  [0.01, rate(25), '±0:00:00'],
  [-0.02, rate(25), '−0:00:01'],
  [65.48, rate(25), '+1:05:12'],
  [-3601.04, rate(25), '−1:00:01:01'],
  [9.009, rate(30_000, 1001), '+0:09:00'],
  [1.001, rate(60_000, 1001), '+0:01:00'],
])('%d seconds at %j are %s', (seconds, r, text) => {
  expect(apartText(seconds, r)).toBe(text);
});
