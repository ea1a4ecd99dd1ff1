import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { FILMSTRIP, Third } from '../../core/analysis';
import { FFMPEG } from '../platform/media/tools';
import { cached } from './store';
import { keepFilmstrip, posterOf, thirdOf } from './strips';

let home: string;
beforeAll(() => {
  home = mkdtempSync(path.join(tmpdir(), 'shelf-strips-%03d-'));
  mkdirSync(path.join(home, 'cache', 'filmstrips'), { recursive: true });
});
afterAll(() => rmSync(home, { recursive: true }));

const { width, height } = FILMSTRIP;
/** A filmstrip of so many pictures, each lighter than the one before by `step`. */
function strip(to: string, pictures: number, step: number): string {
  const grey = `geq=lum='16+${step}*floor(X/${width})':cb=128:cr=128`;
  const source = `color=size=${pictures * width}x${height},format=yuv444p,${grey},scale=in_range=tv:out_range=pc,format=yuvj420p`;
  execFileSync(FFMPEG(), [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    source,
    '-frames:v',
    '1',
    ...['-q:v', '2', '-update', '1'],
    to,
  ]);
  return to;
}
/** Which pictures of its filmstrip a clip's thirds are, by how light they are in their middle. */
const numbersOf = (clip: string, step: number): Promise<number[]> =>
  Promise.all(Third.options.map(async (third) => numberOf(await thirdOf({ home }, clip, third), step)));
function numberOf(jpeg: Uint8Array, step: number): number {
  const raw = execFileSync(
    FFMPEG(),
    ['-v', 'error', '-f', 'mjpeg', '-i', 'pipe:0', '-vf', 'format=gray', '-f', 'rawvideo', 'pipe:1'],
    { input: jpeg },
  );
  expect(raw).toHaveLength(width * height);
  // Grey is from 0 to 255, of video from 16 to 235.
  return Math.round((raw[60 * width + width / 2]! * 219) / 255 / step);
}

test.each([
  [20, [0, 10, 19]],
  [7, [0, 3, 6]],
  [2, [0, 1, 1]],
  [1, [0, 0, 0]],
])('of a filmstrip of %d pictures its thirds are %j', async (pictures, wanted) => {
  const clip = `clip${pictures}`;
  await keepFilmstrip({ home }, clip, strip(path.join(home, 'made.jpg'), pictures, 10));
  expect(await numbersOf(clip, 10)).toEqual(wanted);
});

test('they are made when they are asked for where a filmstrip has none, and are of the filmstrip that was kept last', async () => {
  strip(cached({ home }, 'filmstrips', 'old'), 20, 5);
  const asked = await Promise.all(Array.from({ length: 4 }, () => numbersOf('old', 5)));
  for (const numbers of asked) expect(numbers).toEqual([0, 10, 19]);
  await keepFilmstrip({ home }, 'old', strip(path.join(home, 'made.jpg'), 3, 50));
  expect(await numbersOf('old', 50)).toEqual([0, 1, 2]);
  for (const third of Third.options)
    expect(readdirSync(path.join(home, 'cache', third)).filter((n) => n.includes('part'))).toEqual([]);
  await expect(thirdOf({ home }, 'none', 'last')).rejects.toMatchObject({ title: 'Unreadable' });
});

test('one picture of a clip is its poster; of one without, or with a new filmstrip, the middle of that', async () => {
  await keepFilmstrip({ home }, 'shown', strip(path.join(home, 'made.jpg'), 3, 50));
  expect(await posterOf({ home }, 'shown')).toEqual(await thirdOf({ home }, 'shown', 'middle'));
  mkdirSync(path.join(home, 'cache', 'posters'));
  writeFileSync(cached({ home }, 'posters', 'shown'), 'poster');
  expect(Buffer.from(await posterOf({ home }, 'shown')).toString()).toBe('poster');
  await keepFilmstrip({ home }, 'shown', strip(path.join(home, 'made.jpg'), 3, 20));
  expect(numberOf(await posterOf({ home }, 'shown'), 20)).toBe(1);
  await expect(posterOf({ home }, 'none')).rejects.toMatchObject({ title: 'Unreadable' });
});
