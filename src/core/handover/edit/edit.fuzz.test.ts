import { expect, test } from '@jest/globals';
import { randomFrom } from '../../platform/random';
import { shownPath } from '../../platform/names';
import { rate } from '../../platform/timecode/rate';
import { Edit, NotAnEdit } from './edit';
import { guessRate, readEdl, writeEdl } from './edl';
import { type Kept, lay, Shelved } from './lay';
import { readOtio } from './otio';

// Timelines as a damaged disk or a stranger would write them: read, laid and written again, or refused in words.

const ROUNDS = 500;
const NUMBERS = [0, -1, 0.1, 23.976, 1e-300, 5e-324, 1e9, 864_000_001, 2 ** 31, 2 ** 53, 1e16, 1e300, -1e300];
const WORDS = [
  '',
  ' ',
  '::',
  '99:99:99:99',
  '00:00:00;00',
  '\0',
  '\ud800',
  '__proto__',
  '{constructor}',
  '%ff',
  '\n',
];
const RATES = [rate(25), rate(24_000, 1001), rate(30_000, 1001), rate(50), rate(120)];

const EDL = `TITLE: TIDE MILL
FCM: NON-DROP FRAME
001  A001     V     C        10:00:00:00 10:00:02:12 01:00:00:00 01:00:02:12
* FROM CLIP NAME: A001_C001.mov
M2   A001       050.0                10:00:00:00
002  B001     AA/V  D    012 10:00:10:00 10:00:12:12 01:00:02:12 01:00:05:00
* TO CLIP NAME: B001_C002
* SOURCE FILE: B001_C002.MP4
003  BL       V     C        00:00:00:00 00:00:01:00 01:00:05:00 01:00:06:00
004  A001     A2    W001 012 10:00:10:00 10:00:12:12 01:00:06:00 01:00:08:12
`;
const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: 25 });
const range = (from: number, frames: number) => ({ start_time: time(from), duration: time(frames) });
const clip = (name: string) => ({
  OTIO_SCHEMA: 'Clip.2',
  name,
  source_range: range(900_100, 50),
  media_references: {
    DEFAULT_MEDIA: { target_url: `file:///x/${name}.mp4`, available_range: range(900_000, 2000) },
  },
  effects: [
    { OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 2 },
    { OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 0.5 },
  ],
});
const OTIO = {
  OTIO_SCHEMA: 'Timeline.1',
  global_start_time: time(90_000),
  tracks: {
    OTIO_SCHEMA: 'Stack.1',
    children: [
      {
        ...{ OTIO_SCHEMA: 'Track.1', name: 'V1', kind: 'Video', source_range: range(0, 500) },
        children: [
          clip('A001_C001'),
          { OTIO_SCHEMA: 'Transition.1', in_offset: time(5), out_offset: time(5) },
          clip('B001_C002'),
          { OTIO_SCHEMA: 'Gap.1', source_range: range(0, 10) },
          { OTIO_SCHEMA: 'Stack.1', children: [{ OTIO_SCHEMA: 'Track.1', children: [clip('A001_C001')] }] },
        ],
      },
    ],
  },
};
const held = (name: string, start: number | null): Kept['files'][number] => ({
  ...{ what: 'original', name: shownPath(name), reel: name.slice(0, 4), sound: false, channels: 2 },
  ...{ start: start === null ? null : { frame: start, rate: rate(25), drop: false } },
  ...{ rate: rate(25), frames: 3000 },
});
const shelved = new Shelved([
  { clip: 'a', files: [held('A001_C001.mov', 900_000)] },
  { clip: 'b', files: [held('B001_C002.mp4', null)] },
]);

const random = randomFrom(11);
const below = (n: number): number => Math.floor(random() * n);
const one = <T>(of: readonly T[]): T => of[below(of.length)]!;

/** A value in which some parts are others, doubled, or gone. */
function spoilt(value: unknown, often: number): unknown {
  if (random() < often) return one([null, [], {}, true, one(NUMBERS), one(WORDS)]);
  if (Array.isArray(value))
    return value.flatMap((v) => Array.from({ length: one([1, 1, 1, 1, 1, 0, 2]) }, () => spoilt(v, often)));
  if (typeof value === 'object' && value !== null)
    return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, spoilt(v, often)]));
  return value;
}

/** A text in which characters, words, numbers and lines are others. */
function scrambled(text: string): string {
  for (let n = 1 + below(6); n > 0; n--) {
    const at = below(text.length);
    const lines = text.split('\n');
    text = one<() => string>([
      () => text.slice(0, at) + one(WORDS) + text.slice(at),
      () => text.slice(0, at) + text.slice(at + below(20)),
      () => text.slice(0, at) + String.fromCharCode(below(300)) + text.slice(at + 1),
      () => [...lines, one(lines), one(lines)].join('\n'),
      () =>
        text.replace(/\d\d:\d\d:\d\d:\d\d/g, (t) => one([t, t, '23:59:59:24', '00:00:00:00', '25:61:61:99'])),
      () => text.replace(/\d{3}/g, (t) => one([t, t, '999', '000', '-10'])),
    ])();
  }
  return text;
}

/** Whether it was read; where it was, all of it makes sense and can be laid and written again. */
function isRead(read: () => Edit): boolean {
  let edit: Edit;
  try {
    edit = read();
  } catch (e) {
    expect(e).toBeInstanceOf(NotAnEdit);
    return false;
  }
  expect(Edit.safeParse(edit).error).toBeUndefined();
  expect(lay(edit, shelved).map((l) => l.length)).toEqual(edit.tracks.map((t) => t.events.length));
  for (const track of edit.tracks) {
    const written = writeEdl({ ...edit, name: '' }, [
      { ...track, events: track.events.map((e) => ({ ...e, name: null, file: null, reel: null })) },
    ]);
    expect(written).not.toMatch(/NaN|Infinity|undefined/);
  }
  return true;
}

test('lists of events', () => {
  const read = Array.from({ length: ROUNDS }, () => {
    const text = scrambled(EDL);
    return isRead(() => readEdl(text, one([guessRate(text, null), ...RATES])));
  });
  expect(new Set(read)).toEqual(new Set([true, false]));
});

test('timelines of objects', () => {
  const read = Array.from({ length: ROUNDS }, () => {
    const text = JSON.stringify(spoilt(OTIO, one([0.005, 0.02, 0.06])));
    return isRead(() => readOtio(text));
  });
  expect(new Set(read)).toEqual(new Set([true, false]));
});
