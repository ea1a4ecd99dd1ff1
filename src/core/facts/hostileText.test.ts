import { describe, expect, test } from '@jest/globals';
import vm from 'node:vm';
import { cameraNumber } from '../intake/counter';
import { recognise } from '../intake/recognise';
import { patternFault } from '../offload/pattern';
import { readCdl, readCube } from './looks';
import { readSums } from '../hashLists/sums';
import { Said } from './catalogue';
import { readFlightLog } from './flightLog';
import { parseMoment } from './moments';
import { parseValue } from './parse';
import { statementsFromTags } from './tags';
import { parsePlace, sayTags, secondsOf } from './userTags';
import { parseRate } from '../platform/timecode/rate';
import { parseTimecode } from '../platform/timecode/timecode';

// Text as a card may hold it to keep a reader busy: what repeats, and never comes to an end. A pattern that tries every way of parting it
// would need hours for a file of a few kilobytes, and is ended here after seconds.

/** Runs work and ends it, patterns included, where it takes too long. */
const within = (work: () => unknown): unknown => vm.runInNewContext('work()', { work }, { timeout: 10_000 });

const N = 200_000;
const HOSTILE = {
  digits: '1'.repeat(N),
  spaces: ' '.repeat(N),
  lines: '\n'.repeat(N),
  'lines with blanks': '\n \t'.repeat(N / 3),
  'digits and blanks': '1 '.repeat(N / 2),
  'digits, then blanks': `1${' '.repeat(N)}x`,
  slashes: '1/'.repeat(N / 2),
  words: 'lat: '.repeat(N / 5),
  'shutter words': 'shutter 1'.repeat(N / 9),
  brackets: '['.repeat(N),
  tags: '<'.repeat(N),
  cues: `00:00:01,000${' '.repeat(N)}`,
  'a cue and blanks': `1\n00:00:01,000 --> 00:00:02,000\nlat${' '.repeat(N)}`,
  'a cue and digits': `1\n00:00:01,000 --> 00:00:02,000\niso ${'1'.repeat(N)}`,
  braces: '{'.repeat(N),
  dots: '.'.repeat(N),
  signs: '+1'.repeat(N / 2),
  zeros: '\0'.repeat(N),
  'table words': 'LUT_3D_SIZE\n'.repeat(N / 12),
  quotes: 'TITLE "'.repeat(N / 7),
};
const readers: Record<string, (text: string) => unknown> = {
  'a flight log': (t) => readFlightLog(t),
  'a lookup table': (t) => readCube(t),
  'an exposure time': (t) => secondsOf(t),
  'a place': (t) => parsePlace(t),
  'a rate': (t) => parseRate(t),
  'a moment': (t) => parseMoment(t, 0),
  'a timecode': (t) => parseTimecode(t, { num: 25, den: 1 }),
  'a camera number': (t) => cameraNumber(t),
  'a folder pattern': (t) => patternFault(t),
  'checksum lines': (t) => readSums(t, 'x.md5'),
  'user tags': (t) =>
    sayTags(
      new Said('container'),
      [
        { key: t, text: t },
        ...['make', 'iso', 'shutterspeed', 'xyz', 'creationdate'].map((key) => ({ key, text: t })),
      ],
      0,
    ),
  'camera tags': (t) =>
    statementsFromTags(
      { Make: t, ISO: t, ExposureTime: t, DateTimeOriginal: t, OffsetTimeOriginal: t },
      { zoneMinutes: 0, kind: 'picture' },
    ),
  'a correction': (t) =>
    readCdl({
      name: 'ColorCorrection',
      attributes: {},
      text: '',
      children: [{ name: 'Slope', attributes: {}, text: t, children: [] }],
    }),
  'a person’s words': (t) =>
    (['reel', 'iso', 'rate', 'recordedAt', 'shutter', 'slope', 'start'] as const).map((id) =>
      parseValue(id, t, { num: 25, den: 1 }),
    ),
};

describe.each(Object.entries(readers))('%s', (_, read) => {
  test.each(Object.entries(HOSTILE))('of %s is read, or not, at once', (__, text) => {
    expect(() => within(() => read(text))).not.toThrow(/timed out/);
  });
});

describe('cards laid out to keep recognising busy', () => {
  const file = (path: string) => ({ path, kind: 'file' as const, size: 1000, modified: 0 });
  test('segments of one take without end, each with something beside it', () => {
    const names = Array.from({ length: 9999 }, (_, i) => `A/A_${String(i).padStart(4, '0')}`);
    const { cards } = within(() =>
      recognise(names.flatMap((n) => [file(`${n}.MP4`), file(`${n}.XML`)])),
    ) as ReturnType<typeof recognise>;
    expect(cards[0]!.families.map((f) => f.files.length)).toEqual([2 * 9999]);
  });
  test('files below a hundred folders', () => {
    const deep = Array.from({ length: 100 }, (_, i) => `level ${i}`).join('/');
    const { cards } = within(() =>
      recognise(Array.from({ length: 2000 }, (_, i) => file(`${deep}/T${i}.MP4`))),
    ) as ReturnType<typeof recognise>;
    expect(cards[0]!.families).toHaveLength(2000);
  });
});
