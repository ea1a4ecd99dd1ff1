import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdirSync, renameSync } from 'node:fs';
import path from 'node:path';
import { DEFAULT_PROXIES } from '../../core/proxies';
import { look } from '../intake/look';
import { takeIn } from '../intake/takeIn';
import { saveSettings } from '../jobs/job';
import { beginJob } from '../jobs/jobs';
import { FFMPEG, FFPROBE } from '../platform/media/tools';
import { clipFootage, clipViews, statementsOf } from '../cards';
import { makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { imageSource, makeImages } from './images';
import { provePairs, takesOf } from './provePairs';
import { proxiesView } from './views';

// Clips whose picture and sound are in several files, from the card to their proxies.

let s: TestShelf;
const at = (...p: string[]): string => path.join(s.shelf, ...p);
const ffmpeg = (file: string, ...args: string[]): void => {
  mkdirSync(path.dirname(file), { recursive: true });
  execFileSync(FFMPEG(), ['-v', 'error', '-y', '-f', 'lavfi', '-i', ...args, file]);
};

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  // Picture and sound apart, as OP-Atom has them; interlaced.
  ffmpeg(
    at('Atoms', 'CONTENTS', 'VIDEO', '0001AB.MXF'),
    ...['testsrc2=s=1920x1080:r=50:d=0.4', '-vf', 'interlace=scan=tff', '-c:v', 'dnxhd', '-b:v', '120M'],
    ...['-flags', '+ildct', '-pix_fmt', 'yuv422p', '-timecode', '10:00:00:00', '-f', 'mxf_opatom'],
  );
  for (const n of ['00', '01'])
    ffmpeg(
      at('Atoms', 'CONTENTS', 'AUDIO', `0001AB${n}.MXF`),
      ...['sine=d=0.4:r=48000', '-c:a', 'pcm_s16le', '-f', 'mxf_opatom'],
    );
  // A take in two chapters, with the camera's small one of each.
  for (const [n, start] of [
    ['01', '10:00:00:00'],
    ['02', '10:00:04:00'],
  ]) {
    const stem = at('Tides', 'DCIM', '100TIDES', `WX${n}0123`);
    makeClip(`${stem}.MP4`, { frames: 100, start, size: '640x360' });
    makeClip(`${stem}.small.mp4`, { frames: 100, start, size: '64x36' });
    renameSync(`${stem}.small.mp4`, `${stem}.LRX`);
  }
  ffmpeg(
    at('Vary', 'V0001.MP4'),
    ...['testsrc2=s=320x180:r=30:d=2', '-vf', "select='mod(n,7)'", '-fps_mode', 'passthrough'],
    ...['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-video_track_timescale', '30000'],
  );
  for (const [folder, camera, cardId] of [
    ['Atoms', 'A', 'A001'],
    ['Tides', 'B', 'B001'],
    ['Vary', 'C', 'C001'],
  ] as const) {
    const found = await look(s.runtime, 'shelf', folder);
    expect(found.cards.map((c) => c.clips.length)).toEqual([1]);
    await takeIn(s.runtime, {
      root: 'shelf',
      path: folder,
      cards: [{ folder: found.cards[0]!.folder, camera, cardId, day: 1, date: null }],
    });
  }
  await s.runtime.queue.drain();
});
afterAll(() => s.close());

const pairOf = async (card: string) =>
  (await proxiesView(s.runtime)).pairs.filter((p) => p.card === card && p.first);

test('proxies a camera makes of each chapter are the take’s, taken together', async () => {
  const pairs = await pairOf('B001');
  expect(pairs.map((p) => [p.state, p.reason, p.made])).toEqual([['proven', '', false]]);
  expect(pairs[0]!.checks[0]).toMatchObject({ what: 'frames', original: '200', proxy: '200' });
});

test('a clip whose sound is in files of its own gets one proxy with all of it, and what was changed is said', async () => {
  await saveSettings(s.runtime, {
    proxies: { ...DEFAULT_PROXIES, need: { ...DEFAULT_PROXIES.need, all: true } },
  });
  const needs = (await proxiesView(s.runtime)).clips.filter((c) => c.needed);
  expect(needs.map((n) => n.card)).toEqual(['A001', 'C001']);
  await s.runtime.queue.add(
    'proxy',
    needs.map((n) => n.clip),
  );
  await s.runtime.queue.drain();
  const [pair] = await pairOf('A001');
  expect(pair).toMatchObject({ state: 'proven', made: true, changes: ['deinterlaced'], reason: '' });
  const streams = execFileSync(
    FFPROBE(),
    [
      ...['-v', 'error', '-show_entries', 'stream=codec_type,channels', '-of', 'csv=p=0'],
      path.join(s.proxies, 'not-named', 'SLW', 'A001', '0001AB.mp4'),
    ],
    { encoding: 'utf8' },
  );
  expect(streams.match(/audio,1/g)).toHaveLength(2);
});

/** MD5 of each picture that FFmpeg makes of an input. */
const md5s = (...args: string[]): string[] =>
  execFileSync(FFMPEG(), ['-v', 'error', ...args, '-fps_mode', 'passthrough', '-f', 'framemd5', '-'], {
    encoding: 'utf8',
  })
    .split('\n')
    .filter((line) => line !== '' && !line.startsWith('#'))
    .map((line) => line.split(',').at(-1)!.trim());
/** Images of frames of the clip of a card. */
const imagesOf = async (card: string, from: number, to: number): Promise<string[]> => {
  const clip = (await clipViews(s.runtime)).find((c) => c.card === card)!.id;
  const found = imageSource((await statementsOf(s.runtime.db, [clip])).get(clip)!)!;
  const about = (frame: number) => ({
    ...{ name: String(frame), source: card, timecode: null, rate: found.source.rate },
    ...{ interlaced: false, transfer: null, primaries: null },
  });
  const how = { ...found, kind: 'dpx10' as const, bytes: 1, about };
  const footage = await clipFootage(s.runtime, clip);
  const signal = new AbortController().signal;
  const made = await makeImages(footage, { from, to }, how, path.join(s.dir, 'images %d'), signal);
  return made.flatMap((image) => md5s('-i', `file:${image}`, '-pix_fmt', 'gbrp10le'));
};

test('images of a take in chapters are its frames across their join, of fields each frame with both', async () => {
  const rgb = (matrix: string, fields = '') =>
    `scale=in_range=limited:in_color_matrix=${matrix}:out_range=full:flags=bicubic+accurate_rnd+full_chroma_int${fields},format=gbrp10le`;
  const chapter = (n: string, from: number, to: number) =>
    md5s(
      ...['-i', at('Tides', 'DCIM', '100TIDES', `WX${n}0123.MP4`), '-map', '0:v:0', '-vf'],
      `select='between(n,${from},${to})',${rgb('smpte170m')}`,
    );
  expect(await imagesOf('B001', 97, 103)).toEqual([...chapter('01', 97, 99), ...chapter('02', 0, 2)]);
  const atom = at('Atoms', 'CONTENTS', 'VIDEO', '0001AB.MXF');
  expect(await imagesOf('A001', 3, 6)).toEqual(
    md5s('-i', atom, '-vf', `select='between(n,3,5)',${rgb('bt709', ':interl=1')}`),
  );
  // More than there are.
  await expect(imagesOf('A001', 3, 600)).rejects.toThrow(
    'No images could be made of 0001AB.MXF: FFmpeg made 7 of 597 frames',
  );
});

test('an original that is gone makes its pair lost, and the others are proven', async () => {
  const ids = (await proxiesView(s.runtime)).pairs.map((p) => p.clip);
  renameSync(at('Vary'), at('Away'));
  expect(await provePairs(s.runtime, ids)).toEqual({ checked: 3, offline: [] });
  expect((await pairOf('C001')).map((p) => [p.state, p.reason])).toEqual([
    ['lost', 'the original is not at its place'],
  ]);
  expect((await pairOf('A001'))[0]!.state).toBe('proven');
  renameSync(at('Away'), at('Vary'));
  await provePairs(s.runtime, ids);
  expect((await pairOf('C001'))[0]!.checks.find((c) => c.what === 'times')!.result).toBe('same');
});

test('only one proxy of every chapter is the take’s: others are compared each for itself', () => {
  const files = (text: string) =>
    text.split(' ').map((f) => {
      const [role, suffix = ''] = f.split(':') as ['original' | 'segment' | 'cameraProxy' | 'proxy', string?];
      return { role, suffix };
    });
  const takes = (text: string) => takesOf(files(text)).map((t) => t.map((f) => f.suffix).join('+'));
  const take = 'original:_1 segment:_2 segment:_10';
  expect(takes(`${take} cameraProxy: cameraProxy:_2 cameraProxy:_10 proxy:`)).toEqual(['+_2+_10', '']);
  expect(takes(`${take} cameraProxy:_2_px cameraProxy:_10_px cameraProxy:_px`)).toEqual(['_px+_2_px+_10_px']);
  expect(takes(`${take} cameraProxy: cameraProxy:_px cameraProxy:_2`)).toEqual(['', '_2', '_px']);
  expect(takes(`${take} cameraProxy: cameraProxy:_2`)).toEqual(['', '_2']);
  expect(takes('original: cameraProxy:_px')).toEqual(['_px']);
});
