import { expect, test } from '@jest/globals';
import { matrixBy, scaleMatrix } from './matrix';

// Names of the left are H.273's as FFmpeg gives them, of the right its scaler's.

test('a picture is made by the matrix that it states, else by what is common for so many lines', () => {
  expect(['bt709', 'smpte170m', 'bt470bg', 'bt2020nc', 'fcc'].map((m) => matrixBy(m, 2160))).toEqual([
    ...['bt709', 'smpte170m', 'bt470', 'bt2020', 'fcc'],
  ]);
  expect([2160, 1080, 720, 719, 576, 480].map((lines) => matrixBy(null, lines))).toEqual([
    ...['bt709', 'bt709', 'bt709', 'smpte170m', 'smpte170m', 'smpte170m'],
  ]);
  expect(matrixBy(null, null)).toBe('smpte170m');
});

test('of RGB, and of what the scaler has no name for, the decoder says', () => {
  expect([scaleMatrix('gbr'), scaleMatrix('ictcp'), scaleMatrix(null)]).toEqual(['auto', 'auto', 'auto']);
  expect(matrixBy('gbr', 1080)).toBe('auto');
});
