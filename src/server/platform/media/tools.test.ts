import { afterEach, expect, test } from '@jest/globals';
import { abilities, keepFrames } from './tools';

const was = process.env.FFMPEG_PATH;
const back = (): void => {
  if (was === undefined) delete process.env.FFMPEG_PATH;
  else process.env.FFMPEG_PATH = was;
};
afterEach(back);

test('an FFmpeg that did not start once is asked again: what it can do is not unknown for good', async () => {
  process.env.FFMPEG_PATH = '/bin/false';
  await expect(keepFrames()).rejects.toThrow();
  await expect(abilities()).rejects.toThrow();
  back();
  expect((await keepFrames())[1]).toBe('passthrough');
  expect((await abilities()).encoders.has('prores_ks')).toBe(true);
  // What it said once is known, also where it starts no more.
  process.env.FFMPEG_PATH = '/bin/false';
  expect((await keepFrames())[1]).toBe('passthrough');
});
