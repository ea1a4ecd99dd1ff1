import { expect, test } from '@jest/globals';
import { rate } from './rate';
import { frameTyped, type Shown } from './typed';
import { parseTimecode } from './timecode';

const shown: Shown = {
  start: parseTimecode('23:59:59:00', rate(25)),
  rate: rate(25),
  frames: 100,
  frame: 40,
};

test.each([
  ['23:59:59:24', 24],
  [' 23:59:59:00 ', 0],
  // Past midnight.
  ['00:00:00:05', 30],
  ['+10', 50],
  ['-40', 0],
  ['1', 0],
  ['100', 99],
  ['101', null],
  ['0', null],
  ['-41', null],
  ['+60', null],
  ['14:00:00:00', null],
  ['', null],
  ['ten', null],
  ['1e3', null],
])('“%s” is frame %s', (text, frame) => expect(frameTyped(text, shown)).toBe(frame));

test('drop-frame: a colon will do, and what was dropped is none', () => {
  const dropped = {
    ...shown,
    start: parseTimecode('10:00:58;00', rate(30000, 1001)),
    rate: rate(30000, 1001),
  };
  // 60 frames from 10:00:58;00 end at 10:00:59;29; the next is 10:01:00;02 (SMPTE ST 12-1, from memory).
  expect(frameTyped('10:01:00;02', dropped)).toBe(60);
  expect(frameTyped('10:01:00:02', dropped)).toBe(60);
  expect(frameTyped('10:01:00;00', dropped)).toBeNull();
});

test('a clip without timecode takes numbers', () => {
  const none = { ...shown, start: null };
  expect(frameTyped('10', none)).toBe(9);
  expect(frameTyped('23:59:59:24', none)).toBeNull();
});
