import { describe, expect, test } from '@jest/globals';
import { rate } from '../../platform/timecode/rate';
import { type Edit, NotAnEdit } from './edit';
import { guessRate, readEdl, reelTable, relabelled, writeEdl } from './edl';

const NTSC = rate(30000, 1001);
const NTSC_60 = rate(60000, 1001);
const list = (...lines: string[]): string => ['TITLE: TIDE MILL', ...lines].join('\n');
const events = (edit: Edit) => edit.tracks.flatMap((t) => t.events);

// Counted by hand: frames = hours × 3600 × n + minutes × 60 × n + seconds × n + frames, less two numbers a minute but each tenth (SMPTE ST 12-1).
describe('an event at each rate, worked out by hand', () => {
  test.each([
    // 10:00:00:00 at 24 is 36 000 × 24.
    [
      '24',
      rate(24),
      'NON-DROP FRAME',
      '10:00:00:00 10:00:02:12 01:00:00:00 01:00:02:12',
      864_000,
      60,
      86_400,
    ],
    // 14:22:05:12 at 25: 51 725 s × 25 + 12.
    [
      '25',
      rate(25),
      'NON-DROP FRAME',
      '14:22:05:12 14:22:07:00 00:59:59:24 01:00:01:12',
      1_293_137,
      38,
      89_999,
    ],
    // 01:00:00;00 is 107 892; a minute later 01:01:00;02 is 107 892 + 1 800.
    [
      '29.97 drop',
      NTSC,
      'DROP FRAME',
      '01:00:00:00 01:01:00:02 01:00:00:00 01:01:00:02',
      107_892,
      1_800,
      107_892,
    ],
    // 00:10:00;00 at 59.94 is 35 964.
    [
      '59.94 drop',
      NTSC_60,
      'DROP FRAME',
      '00:10:00:00 00:10:01:00 01:00:00:00 01:00:01:00',
      35_964,
      60,
      215_784,
    ],
  ])('%s', (_, r, fcm, times, from, frames, start) => {
    const edit = readEdl(list(`FCM: ${fcm}`, `001  A001     V     C        ${times}`), r);
    expect(edit).toMatchObject({ name: 'TIDE MILL', start, faults: [] });
    expect(events(edit)).toEqual([
      {
        ...{ label: '001', from: 0, to: frames, name: null, file: null, reel: 'A001' },
        source: { from, frames, rate: r, drop: fcm === 'DROP FRAME' },
        ...{ speed: 1, transition: null },
      },
    ]);
  });
});

describe('lists as programs write them', () => {
  test('long reels, comments with names, Windows line ends, a byte order mark, small letters', () => {
    const edit = readEdl(
      `\uFEFF${list(
        'fcm: non-drop frame',
        '000001  A001_C001_260505 v     c        10:00:00:00 10:00:01:00 01:00:00:00 01:00:01:00  ',
        '*FROM CLIP NAME:  A001_C001.MOV',
        '* SOURCE FILE: A001_C001.MOV',
        '>>> SOURCE A001 THING',
        '000002  AX       V2    C        10:00:00:00 10:00:01:00 01:00:01:00 01:00:02:00',
        '* from clip name: water: the wheel',
      ).replaceAll('\n', '\r\n')}`,
      rate(25),
    );
    expect(edit.faults).toEqual([]);
    expect(edit.tracks.map((t) => [t.name, t.kind])).toEqual([
      ['V', 'video'],
      ['V2', 'video'],
    ]);
    expect(events(edit)).toMatchObject([
      { label: '000001', reel: 'A001_C001_260505', name: 'A001_C001.MOV', file: 'A001_C001.MOV' },
      { reel: null, name: 'water: the wheel', from: 25, to: 50 },
    ]);
  });

  test('a dissolve has a line of what goes and one of what comes, each with its name', () => {
    const edit = readEdl(
      list(
        '001  A001     V     C        10:00:00:00 10:00:04:00 01:00:00:00 01:00:04:00',
        '* FROM CLIP NAME: ONE',
        '002  A001     V     C        10:00:04:00 10:00:04:00 01:00:04:00 01:00:04:00',
        '002  B001     V     D    024 11:00:00:00 11:00:03:00 01:00:04:00 01:00:07:00',
        '* FROM CLIP NAME: ONE',
        '* TO CLIP NAME: TWO',
        '003  BL       V     C        00:00:00:00 00:00:01:00 01:00:07:00 01:00:08:00',
        '004  C001     V     W001 012 12:00:00:00 12:00:01:00 01:00:08:00 01:00:09:00',
      ),
      rate(25),
    );
    expect(events(edit).map((e) => [e.label, e.name, e.reel, e.transition])).toEqual([
      ['001', 'ONE', 'A001', null],
      ['002', 'TWO', 'B001', { kind: 'dissolve', frames: 24 }],
      ['004', null, 'C001', { kind: 'wipe', frames: 12 }],
    ]);
  });

  test('a dissolve in one line is of what comes', () => {
    const edit = readEdl(
      list(
        '001  AX     V     D    012 10:00:00:00 10:00:04:00 01:00:00:00 01:00:04:00',
        '* FROM CLIP NAME: ONE',
        '* TO CLIP NAME: TWO',
      ),
      rate(25),
    );
    expect(events(edit)).toMatchObject([{ name: 'TWO', transition: { kind: 'dissolve', frames: 12 } }]);
  });

  test('speeds: twice as fast, backwards, a still frame; how many frames of the clip are seen', () => {
    const speed = (m2: string) =>
      events(
        readEdl(
          list('001  A001     V     C        10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00', m2),
          rate(25),
        ),
      )[0]!;
    expect(speed('M2   A001       050.0                10:00:00:00')).toMatchObject({
      speed: 2,
      source: { frames: 100 },
    });
    expect(speed('M2   A001      -012.5                10:00:00:00')).toMatchObject({
      speed: -0.5,
      source: { frames: 25 },
    });
    expect(speed('M2   A001       000.0                10:00:00:00')).toMatchObject({
      speed: 0,
      source: { frames: 1 },
    });
    expect(speed('M2   A001       025.0')).toMatchObject({ speed: 1, source: { frames: 50 } });
  });

  test('drop-frame flags: what a list says holds from there on; a semicolon says it of one number', () => {
    const edit = readEdl(
      list(
        'FCM: NON-DROP FRAME',
        '001  A001     V     C        01:00:00:00 01:00:01:00 01:00:00;00 01:00:01;00',
        'FCM: DROP FRAME',
        '002  A002     V     C        01:00:00:00 01:00:01:00 01:00:01:00 01:00:02:00',
      ),
      NTSC,
    );
    expect(events(edit).map((e) => [e.source.from, e.source.drop])).toEqual([
      [108_000, false],
      [107_892, true],
    ]);
  });

  test('an edit begins with its first event, whichever way its numbers count', () => {
    const edit = readEdl(
      list(
        'FCM: NON-DROP FRAME',
        '001  A001     V     C        01:00:00:00 01:00:01:00 01:00:00;00 01:00:01;00',
      ),
      NTSC,
    );
    expect(edit).toMatchObject({ start: 107_892, drop: true });
    expect(events(edit)).toMatchObject([{ from: 0, to: 30 }]);
  });

  test('a number that drop-frame skips is said, and read as the first behind it', () => {
    const edit = readEdl(
      list('FCM: DROP FRAME', '001  A001     V     C        01:01:00:00 01:01:01:00 01:00:00:00 01:00:01:00'),
      NTSC,
    );
    expect(edit.faults).toEqual([
      'Event 001: 01:01:00:00 does not exist in drop-frame; it was read as the number after it.',
    ]);
    expect(events(edit)[0]!.source.from).toBe(107_892 + 1_800);
  });

  test('past midnight; back in time is no event', () => {
    const edit = readEdl(
      list(
        '001  A001     V     C        23:59:59:00 00:00:01:00 01:00:00:00 01:00:02:00',
        '002  A001     V     C        10:00:02:00 10:00:01:00 01:00:02:00 01:00:03:00',
      ),
      rate(25),
    );
    expect(events(edit)).toMatchObject([{ source: { from: 2_159_975, frames: 50 } }]);
    expect(edit.faults).toEqual(['Event 002 ends before it begins; it was left out.']);
  });

  test('a list cut in the middle of a line keeps what is whole, and says the rest', () => {
    const whole = list(
      '001  A001     V     C        10:00:00:00 10:00:01:00 01:00:00:00 01:00:01:00',
      '002  A002     V     C        10:00:00:00 10:00:01:00 01:00:01:00 01:00:02:00',
    );
    const edit = readEdl(whole.slice(0, -9), rate(25));
    expect(events(edit)).toHaveLength(1);
    expect(edit.faults).toEqual([
      expect.stringMatching(/^Line 3 is no event that can be read, and was left out: “002/),
    ]);
    expect(() => readEdl('TITLE: NOTHING\nhello', rate(25))).toThrow(NotAnEdit);
    expect(() => readEdl('', rate(25))).toThrow('no line of it is an event');
    const high = readEdl(
      list(
        '001  A V C 10:00:00:24 10:00:01:00 01:00:00:00 01:00:00:01',
        '002  A V C 10:00:00:30 10:00:01:00 01:00:00:00 01:00:00:01',
      ),
      rate(25),
    );
    expect(high.faults[0]).toContain('10:00:00:30 is no timecode at 25.00 frames a second');
  });

  test('its rate is guessed by its numbers and flags', () => {
    const at = (times: string, fcm = 'NON-DROP FRAME') => list(`FCM: ${fcm}`, `001  A001 V C ${times}`);
    expect(guessRate(at('10:00:00:10 10:00:01:00 01:00:00:00 01:00:00:15'), null)).toEqual(rate(25));
    expect(guessRate(at('10:00:00:10 10:00:01:00 01:00:00:00 01:00:00:15'), rate(24000, 1001))).toEqual(
      rate(24000, 1001),
    );
    expect(guessRate(at('10:00:00:24 10:00:01:00 01:00:00:00 01:00:00:15'), rate(24))).toEqual(rate(25));
    expect(guessRate(at('10:00:00:29 10:00:01:00 01:00:00:00 01:00:00:01'), rate(25))).toEqual(NTSC);
    expect(guessRate(at('10:00:00:10 10:00:01:00 01:00:00:00 01:00:00:15', 'DROP FRAME'), rate(25))).toEqual(
      NTSC,
    );
    // One number of many is a slip.
    const many = Array.from(
      { length: 10 },
      () => '001  A001 V C 10:00:00:10 10:00:01:00 01:00:00:00 01:00:00:15',
    );
    expect(
      guessRate(list(...many, '002  A001 V C 10:00:00:29 10:00:01:00 01:00:00:00 01:00:00:15'), rate(25)),
    ).toEqual(rate(25));
    expect(guessRate(at('10:00:00:45 10:00:01:00 01:00:00:00 01:00:00:15'), null)).toEqual(rate(50));
  });
});

test('reels are eight letters and figures, each its own', () => {
  const table = reelTable();
  const names = ['A001', 'A001_C001_260505.MOV', 'A001_C001_260506.MOV', 'ax', 'Mühle', '—', 'A001'];
  expect(names.map((n) => table.reelOf(n))).toEqual([
    'A001',
    'A001_C00',
    'A001_C02',
    'AX2',
    'MHLE',
    'REEL',
    'A001',
  ]);
  expect(table.entries()).toHaveLength(6);
  const many = Array.from({ length: 2000 }, (_, i) => table.reelOf(`A001_C001_${i}`));
  expect(new Set(many).size).toBe(2000);
  expect(many.every((r) => /^[A-Z0-9_]{1,8}$/.test(r))).toBe(true);
});

test('a number of another rate names the same moment', () => {
  expect(relabelled(1_293_137, rate(25), false, rate(50), false)).toBe(2_586_274);
  expect(relabelled(2_586_275, rate(50), false, rate(25), false)).toBe(1_293_137);
  // 01:00:00:00 non-drop is 108 000, drop 107 892; 01:01:00:00 is skipped, the first behind it is 01:01:00;02.
  expect(relabelled(108_000, NTSC, false, NTSC, true)).toBe(107_892);
  expect(relabelled(109_800, NTSC, false, NTSC, true)).toBe(109_692);
});

test('what is written is read again as it was', () => {
  const edit: Edit = {
    ...{ name: 'String-out', rate: rate(25), start: 90_000, drop: false, faults: [] },
    tracks: [
      {
        ...{ name: 'V', kind: 'video' },
        events: [
          {
            ...{
              label: '001',
              from: 0,
              to: 50,
              name: 'A001_C001',
              file: 'A001_C001.MOV',
              reel: 'A001_C001_260505',
            },
            source: { from: 1_293_137, frames: 50, rate: rate(25), drop: false },
            ...{ speed: 1, transition: null },
          },
          {
            ...{ label: '002', from: 50, to: 60, name: 'T\n0001', file: null, reel: 'B001' },
            source: { from: 900_000, frames: 20, rate: rate(25), drop: false },
            ...{ speed: -2, transition: { kind: 'dissolve', frames: 5 } },
          },
        ],
      },
    ],
  };
  const text = writeEdl(edit, edit.tracks);
  expect(text.split('\r\n')).toEqual([
    'TITLE: String-out',
    'FCM: NON-DROP FRAME',
    '',
    '001  A001_C00 V     C        14:22:05:12 14:22:07:12 01:00:00:00 01:00:02:00',
    '* FROM CLIP NAME: A001_C001',
    '* SOURCE FILE: A001_C001.MOV',
    '002  B001     V     D    005 10:00:00:00 10:00:00:20 01:00:02:00 01:00:02:10',
    'M2   B001       -050.0                10:00:00:00',
    '* TO CLIP NAME: T 0001',
    '',
    '* REEL A001_C00 STANDS FOR A001_C001_260505',
    '',
  ]);
  const again = readEdl(text, rate(25));
  expect(again.faults).toEqual([]);
  const [one, two] = edit.tracks[0]!.events;
  expect(events(again)).toEqual([
    { ...one, reel: 'A001_C00' },
    { ...two, name: 'T 0001' },
  ]);
  // Recorded at another rate: the number of the same moment.
  const fast = {
    ...edit,
    tracks: [
      {
        ...edit.tracks[0]!,
        events: [{ ...one!, source: { ...one!.source, from: 2_586_275, frames: 100, rate: rate(50) } }],
      },
    ],
  };
  expect(writeEdl(fast, fast.tracks)).toContain('14:22:05:12 14:22:07:12');
});
