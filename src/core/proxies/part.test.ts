import { expect, test } from '@jest/globals';
import { rate } from '../platform/timecode/rate';
import { formatTimecode, parseTimecode } from '../platform/timecode/timecode';
import { cutFor, factsOfPart, ofPart, partFault, sourceOfPart, withHandles } from './part';
import { LIGHT } from './recipe';
import { NO_TAGS, type ProxySource } from './source';

const source = (start: string, num: number, den: number): ProxySource => ({
  matrix: 'bt709',
  pixelAspect: 1,
  rotation: 0,
  scan: 'progressive',
  varies: false,
  rate: rate(num, den),
  frames: 10_000,
  start: parseTimecode(start, rate(num, den)),
  audio: [[2]],
  colour: { range: null, primaries: null, transfer: null, matrix: null },
  tags: NO_TAGS,
});

// Worked by hand from SMPTE ST 12-1 (from memory): drop-frame skips two numbers a minute at 29.97, four at 59.94, but not each tenth minute.
test.each([
  ['10:00:00:00', 25, 1, 1500, '10:01:00:00'],
  ['10:00:59:24', 25, 1, 1, '10:01:00:00'],
  ['10:00:59;29', 30000, 1001, 1, '10:01:00;02'],
  ['10:09:59;29', 30000, 1001, 1, '10:10:00;00'],
  ['10:00:00;00', 30000, 1001, 1800, '10:01:00;02'],
  ['10:00:59;59', 60000, 1001, 1, '10:01:00;04'],
  ['10:00:00;00', 60000, 1001, 3600, '10:01:00;04'],
  ['23:59:59:24', 25, 1, 1, '00:00:00:00'],
])('a part of %s at %i/%i from frame %i on starts at %s', (start, num, den, from, expected) => {
  const part = { from, to: from + 50 };
  const of = source(start, num, den);
  expect(formatTimecode(sourceOfPart(of, part).start!)).toBe(expected);
  const facts = { frames: of.frames, rate: of.rate, start: of.start, channels: 2 };
  expect(factsOfPart(facts, part)).toMatchObject({ frames: 50, start: sourceOfPart(of, part).start });
});

test('handles end where the clip does', () => {
  expect(withHandles({ from: 10, to: 20 }, 25, 30)).toEqual({ from: 0, to: 30 });
  expect(withHandles({ from: 10, to: 20 }, 5, 30)).toEqual({ from: 5, to: 25 });
});

test('parts of a clip have names of their own, and none is a proxy', () => {
  expect(ofPart(LIGHT, { from: 40, to: 75 })).toMatchObject({
    purpose: 'transcode',
    words: '_41-75',
    name: expect.stringMatching(/, frames 41 to 75$/),
  });
});

test('a clip of uneven frames has no parts', () => {
  expect(partFault({ varies: true })).toContain('uneven times');
  expect(partFault({ varies: false })).toBeNull();
});

// Worked by hand: key frames each twelve at 25 fps, of which the next is decoded two frames before it is shown.
test('what is not re-encoded is cut at the key frames around a part', () => {
  const keys = [0, 12, 24, 36].map((frame) => ({
    frame,
    at: frame / 25,
    decodedAt: (frame - 2) / 25,
  }));
  const of = { frames: 40, rate: rate(25) };
  const cut = cutFor({ from: 14, to: 24 }, keys, of);
  expect(cut.part).toEqual({ from: 12, to: 24 });
  expect([cut.from, cut.pictures, cut.sound]).toEqual([
    12 / 25,
    // The key frame 24 is decoded ten frames after the frame 12 is shown: half a frame before that.
    expect.closeTo(9.5 / 25),
    12 / 25,
  ]);
  expect(cutFor({ from: 12, to: 25 }, keys, of).part).toEqual({ from: 12, to: 36 });
  expect(cutFor({ from: 37, to: 38 }, keys, of)).toMatchObject({
    part: { from: 36, to: 40 },
    pictures: null,
  });
  expect(cutFor({ from: 5, to: 6 }, [], of)).toMatchObject({ part: { from: 0, to: 40 }, from: 0 });
  // Where each frame stands by itself it is cut at any.
  const all = Array.from({ length: 40 }, (_, n) => ({ frame: n, at: n / 25, decodedAt: n / 25 }));
  expect(cutFor({ from: 7, to: 9 }, all, of).part).toEqual({ from: 7, to: 9 });
});
