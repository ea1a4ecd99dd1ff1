import { describe, expect, test } from '@jest/globals';
import { rate, type Rate, STANDARD_RATES } from './rate';
import {
  addFrames,
  addressOf,
  atRate,
  canDrop,
  crossesMidnight,
  endOf,
  formatRunningTime,
  formatTimecode,
  framesBetween,
  framesPerDay,
  fromTimeOfDay,
  parseFramesFirst,
  parseTimecode,
  sameAddress,
  seconds,
  timecode,
} from './timecode';

const NTSC = rate(30000, 1001);
const NTSC_60 = rate(60000, 1001);
const at = (text: string, r: Rate) => {
  const tc = parseTimecode(text, r);
  if (!tc) throw new Error(`${text} is no timecode`);
  return tc;
};

// SMPTE ST 12-1, values from memory, their arithmetic confirmed (frames = minutes × 1798 + 2 per full ten minutes).
describe('drop-frame counting, SMPTE ST 12-1', () => {
  test.each([
    ['00:00:59;29', NTSC, 1_799],
    ['00:01:00;02', NTSC, 1_800],
    ['00:10:00;00', NTSC, 17_982],
    ['01:00:00;00', NTSC, 107_892],
    ['23:59:59;29', NTSC, 2_589_407],
    ['00:01:00;04', NTSC_60, 3_600],
    ['00:10:00;00', NTSC_60, 35_964],
    ['01:00:00;00', NTSC_60, 215_784],
  ])('%s is frame %#', (text, r, frame) => {
    expect(at(text, r).frame).toBe(frame);
    expect(formatTimecode(timecode(frame, r, true))).toBe(text);
  });

  test.each(['00:01:00;00', '00:01:00;01', '00:59:00;01'])('%s does not exist at 29.97', (text) => {
    expect(parseTimecode(text, NTSC)).toBeNull();
  });

  test('00:01:00;03 does not exist at 59.94, 00:10:00;00 does at both', () => {
    expect(parseTimecode('00:01:00;03', NTSC_60)).toBeNull();
    expect(parseTimecode('00:10:00;01', NTSC)?.frame).toBe(17_983);
  });

  // The definition, counted by brute force: step through every label of two hours and skip what the standard skips.
  test.each([
    [NTSC, 2],
    [NTSC_60, 4],
    [rate(120000, 1001), 8],
  ] as const)('every frame of two hours at %j agrees with counting by hand', (r, d) => {
    const n = d * 15;
    let frame = 0;
    for (let label = 0; label < 2 * 3600 * n; label++) {
      const [minute, inMinute] = [Math.floor(label / (60 * n)), label % (60 * n)];
      if (minute % 10 !== 0 && inMinute < d) continue;
      if (frame % 997 === 0 || inMinute < d + 1 || inMinute === 60 * n - 1) {
        const two = (x: number) => String(x).padStart(2, '0');
        const s = Math.floor(label / n);
        const text = `${two(Math.floor(s / 3600))}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)};${String(label % n).padStart(n > 100 ? 3 : 2, '0')}`;
        expect(formatTimecode(timecode(frame, r, true))).toBe(text);
        expect(at(text, r).frame).toBe(frame);
      }
      frame++;
    }
    expect(frame).toBe(2 * (d === 2 ? 107_892 : d === 4 ? 215_784 : 431_568));
  });

  test('a drop-frame day and a clock day differ by less than 0.1 s', () => {
    expect(framesPerDay(NTSC, true)).toBe(2_589_408);
    expect(Math.abs(seconds(framesPerDay(NTSC, true), NTSC) - 86_400)).toBeLessThan(0.1);
  });

  test('is refused where it does not exist', () => {
    expect(canDrop(rate(24000, 1001))).toBe(false);
    expect(() => timecode(0, rate(25), true)).toThrow(RangeError);
    expect(parseTimecode('01:00:00;00', rate(25))?.drop).toBe(false);
  });
});

describe('non-drop counting', () => {
  test('01:00:00:00 at 30 is 108 000 (SMPTE ST 12-1, from memory)', () =>
    expect(at('01:00:00:00', rate(30)).frame).toBe(108_000));

  test('23.976 counts as 24 and runs 0.1 % slow against the clock', () => {
    const r = rate(24000, 1001);
    const tc = at('01:00:00:00', r);
    expect(tc).toEqual({ frame: 86_400, rate: r, drop: false });
    expect(seconds(tc.frame, r)).toBeCloseTo(3603.6, 6);
  });

  test.each([
    [100, '14:22:05:99', 5_172_599],
    [120, '14:22:05:119', 6_207_119],
  ])('%d fps', (n, text, frame) => {
    expect(at(text, rate(n)).frame).toBe(frame);
    expect(formatTimecode(timecode(frame, rate(n)))).toBe(text);
    expect(parseTimecode(text.replace(/\d+$/, String(n)), rate(n))).toBeNull();
  });

  test('formatting and parsing are inverse at every standard rate', () => {
    for (const r of STANDARD_RATES) {
      for (const drop of canDrop(r) ? [false, true] : [false]) {
        for (let k = 0; k < 400; k++) {
          const tc = timecode((k * 7919 * 13) % framesPerDay(r, drop), r, drop);
          expect(at(formatTimecode(tc), r)).toEqual(tc);
        }
      }
    }
  });

  test.each([
    '',
    '1:00:00:00',
    '24:00:00:00',
    '00:60:00:00',
    '00:00:60:00',
    '00:00:00:25',
    '00:00:00',
    'aa:00:00:00',
    '00:00:00:-1',
  ])('%j is no timecode at 25', (text) => expect(parseTimecode(text, rate(25))).toBeNull());
});

describe('arithmetic', () => {
  test('runs across midnight in both directions', () => {
    const tc = at('23:59:59:20', rate(25));
    expect(formatTimecode(addFrames(tc, 10))).toBe('00:00:00:05');
    // A hundred frames a second whose timecode counts 25: frames 48 to 51 have one number, the twelfth.
    const counted = [47, 48, 51, 52].map((f) =>
      formatTimecode(addressOf(at('10:00:00:00', rate(25)), f, rate(100))),
    );
    expect(counted).toEqual(['10:00:00:11', '10:00:00:12', '10:00:00:12', '10:00:00:13']);
    expect(formatTimecode(addFrames(at('00:00:00:05', rate(25)), -10))).toBe('23:59:59:20');
    expect(framesBetween(tc, at('00:00:00:05', rate(25)))).toBe(10);
    expect(formatTimecode(endOf(at('23:59:59;28', NTSC), 4))).toBe('00:00:00;02');
  });

  test('says which clips cross midnight; one that ends on it does not', () => {
    expect(crossesMidnight(at('23:59:59:00', rate(25)), 25)).toBe(false);
    expect(crossesMidnight(at('23:59:59:00', rate(25)), 26)).toBe(true);
  });

  test('does not mix rates', () => {
    expect(() => framesBetween(at('00:00:00:00', rate(25)), at('00:00:01:00', rate(50)))).toThrow(RangeError);
  });
});

describe('addresses at other rates', () => {
  test('25 to 100 and back', () => {
    expect(atRate(at('14:22:05:12', rate(25)), rate(100))).toEqual(at('14:22:05:48', rate(100)));
    expect(atRate(at('14:22:05:49', rate(100)), rate(25))).toBeNull();
    expect(sameAddress(at('14:22:05:12', rate(25)), at('14:22:05:24', rate(50)))).toBe(true);
    expect(sameAddress(at('14:22:05:24', rate(50)), at('14:22:05:12', rate(25)))).toBe(true);
    expect(sameAddress(at('14:22:05:25', rate(50)), at('14:22:05:12', rate(25)))).toBe(false);
    expect(sameAddress(at('00:00:00:00', rate(25)), at('14:22:05:00', rate(25)))).toBe(false);
    const shared = rate(25);
    expect(sameAddress(at('00:00:00:00', shared), at('14:22:05:00', shared))).toBe(false);
    expect(sameAddress(at('14:22:05:00', shared), at('14:22:05:00', shared))).toBe(true);
    expect(sameAddress(at('01:00:00;00', NTSC), at('01:00:00:00', NTSC))).toBe(false);
  });

  test('drop-frame at 29.97 and 59.94', () => {
    expect(sameAddress(at('00:01:00;02', NTSC), at('00:01:00;04', NTSC_60))).toBe(true);
  });
});

test('frames-first digits of XML sidecars', () => {
  expect(parseFramesFirst('00052214', rate(25), false)).toEqual(at('14:22:05:00', rate(25)));
  expect(parseFramesFirst('02000100', NTSC, true)).toEqual(at('00:01:00;02', NTSC));
  expect(parseFramesFirst('25000000', rate(25), false)).toBeNull();
  expect(parseFramesFirst('1234', rate(25), false)).toBeNull();
});

test('time of day as timecode', () => {
  expect(formatTimecode(fromTimeOfDay(14 * 3600 + 22 * 60 + 5.04, rate(25)))).toBe('14:22:05:01');
  expect(formatTimecode(fromTimeOfDay(3600, NTSC, true))).toBe('01:00:00;00');
});

test('running times', () => {
  expect([0, 59.6, 61, 2291, 7200].map(formatRunningTime)).toEqual([
    '0:00',
    '1:00',
    '1:01',
    '38:11',
    '2:00:00',
  ]);
});
