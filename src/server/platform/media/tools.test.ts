import { afterEach, expect, test } from '@jest/globals';
import { abilities, keepFrames, readNoFurther } from './tools';

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

test('that a file gave no more bytes is told from what is wrong in it', () => {
  const at = (words: string): string =>
    `[mjpeg @ 0x55] overread 8\nfile:/tmp/shelf-input-x/0.mov: ${words}\n`;
  expect(readNoFurther(at('Transport endpoint is not connected'))).toBe(
    'Transport endpoint is not connected',
  );
  expect(readNoFurther(at('Input/output error'))).toBe('Input/output error');
  expect(readNoFurther(at('Invalid data found when processing input'))).toBeNull();
  expect(readNoFurther('[out#0] title: Input/output error')).toBeNull();
});
