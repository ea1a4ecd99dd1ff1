import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { Change, FindQuery, RangesQuery } from '../../core/choose';
import { cached } from '../analysis';
import { clipViews } from '../cards';
import { look, takeIn } from '../intake';
import { beginJob } from '../jobs';
import { FFMPEG } from '../platform/media/tools';
import { makeClip, put, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { waveform } from '../viewing';
import { changeChoice } from './change';
import { chooseView, chosenClip, findClips, findRanges } from './find';
import { stringOutDetail } from './stringOuts';

// Sound alone and stills: what has no frames of its own is marked, too.

let s: TestShelf;
const ids = new Map<string, string>();
const change = (c: object) => changeChoice(s.runtime, Change.parse(c));

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const folder = path.join(s.shelf, 'In', 'S001');
  mkdirSync(folder, { recursive: true });
  const make = (...args: string[]) => execFileSync(FFMPEG(), ['-v', 'error', '-y', ...args]);
  // Left a quarter of full scale and silent from 2 s on, right half of it throughout; 4.01 s.
  const tones = 'aevalsrc=0.25*sin(800*t)*lt(t\\,2)|0.5*sin(800*t):s=48000:d=4.01';
  for (const name of ['T01', 'T02'])
    make('-f', 'lavfi', '-i', tones, '-c:a', 'pcm_s24le', path.join(folder, `${name}.WAV`));
  const still = make('-f', 'lavfi', '-i', 'testsrc2=size=320x240', '-frames:v', '1', '-f', 'mjpeg', 'pipe:1');
  put(path.join(folder, 'P001.JPG'), still);
  makeClip(path.join(folder, 'V001.MOV'), { frames: 10 });
  await look(s.runtime, 'shelf', 'In');
  await takeIn(s.runtime, {
    ...{ root: 'shelf', path: 'In' },
    cards: [{ folder: 'S001', camera: 'S', cardId: 'S001', day: 1, date: '2026-05-06' }],
  });
  await s.runtime.queue.drainKind('read');
  await s.runtime.queue.drainKind('rest');
  for (const c of await clipViews(s.runtime)) ids.set(path.parse(c.name).name, c.id);
  expect([...ids.keys()].sort()).toEqual(['P001', 'T01', 'T02', 'V001']);
});
afterAll(() => s.close());

test('sound has ranges in 25ths of a second, inside it; a still is a select as a whole', async () => {
  const [sound, still] = [ids.get('T01')!, ids.get('P001')!];
  await change({ do: 'addRange', clip: sound, from: 50, to: 101, kind: 'select', name: 'mill' });
  // 4.01 s are begun 25ths, and no more.
  await expect(change({ do: 'addRange', clip: sound, from: 50, to: 102, kind: 'select' })).rejects.toThrow(
    'the clip has 101 frames',
  );
  await change({ do: 'addRange', clip: still, from: 0, to: 1, kind: 'reject' });
  await expect(change({ do: 'addRange', clip: still, from: 0, to: 2, kind: 'note' })).rejects.toThrow(
    'the clip has 1 frame.',
  );
  expect((await chosenClip(s.runtime, sound)).ranges).toMatchObject([{ from: 50, to: 101, name: 'mill' }]);
  expect((await findClips(s.runtime, FindQuery.parse({ query: 'with reject' }))).tiles).toMatchObject([
    { id: still, frames: 1 },
  ]);
  expect(await findRanges(s.runtime, RangesQuery.parse({ query: '' }))).toMatchObject({
    ranges: 2,
    parts: expect.arrayContaining([
      expect.objectContaining({ clip: sound, media: 'sound', start: null, plays: 'original', frames: 101 }),
      expect.objectContaining({ clip: still, media: 'still', plays: null }),
    ]),
  });
});

test('sound is in string-outs, whole or in stretches, and is played; a still is not', async () => {
  const [sound, still, moving] = [ids.get('T01')!, ids.get('P001')!, ids.get('V001')!];
  const parts = async () => {
    const [list] = (await chooseView(s.runtime)).stringOuts;
    const { seconds, parts: all } = await stringOutDetail(s.runtime, list!.id);
    expect(list!.seconds).toBeCloseTo(seconds, 9);
    return { id: list!.id, seconds, all };
  };
  await change({
    ...{ do: 'addStringOut', name: 'Heard' },
    items: [{ clip: sound }, { clip: moving }, { clip: sound, from: 25, to: 75 }],
  });
  const { id, seconds, all } = await parts();
  expect(seconds).toBeCloseTo(101 / 25 + 10 / 25 + 2, 9);
  expect(all).toMatchObject([
    {
      clip: sound,
      from: 0,
      to: 101,
      media: 'sound',
      plays: 'original',
      rate: { num: 25, den: 1 },
      twice: true,
    },
    { clip: moving, from: 0, to: 10, media: 'video', twice: false },
    { clip: sound, from: 25, to: 75, twice: true },
  ]);
  await expect(
    change({ do: 'addToStringOut', list: id, items: [{ clip: still }], before: null }),
  ).rejects.toThrow('P001 cannot be in a string-out: a still has no length.');
  await expect(
    change({ do: 'addToStringOut', list: id, items: [{ clip: sound, from: 90, to: 102 }], before: null }),
  ).rejects.toThrow('the clip has 101 frames');
  await change({ do: 'removeStringOut', list: id });
  // Of what is chosen or found, all that runs, and the rest is said; of stills alone, nothing.
  expect(
    await change({ do: 'addStringOut', name: 'Chosen', items: [{ clip: still }, { clip: moving }] }),
  ).toMatchObject({
    text: 'String-out Chosen made of 1 part; left out, as stills or of unknown length: P001',
  });
  const chosen = await parts();
  expect(chosen.all.map((p) => p.clip)).toEqual([moving]);
  const again = { items: [moving, ...Array.from({ length: 5 }, () => still)].map((clip) => ({ clip })) };
  expect(await change({ do: 'addToStringOut', list: chosen.id, before: null, ...again })).toMatchObject({
    text: '1 part added to the string-out Chosen; left out, as stills or of unknown length: P001, P001, P001 and 2 others',
  });
  await change({ do: 'removeStringOut', list: chosen.id });
  expect(
    await change({ do: 'addStringOut', name: 'All', found: { wanted: {}, what: 'clips' } }),
  ).toMatchObject({ text: 'String-out All made of 3 parts; left out, as stills or of unknown length: P001' });
  expect((await parts()).all.map((p) => p.clip).sort()).toEqual([sound, moving, ids.get('T02')!].sort());
  await change({ do: 'removeStringOut', list: (await parts()).id });
  const stills = { do: 'addStringOut', name: 'Stills' } as const;
  await expect(
    change({ ...stills, found: { wanted: { query: 'kind is still' }, what: 'clips' } }),
  ).rejects.toThrow('P001 cannot be in a string-out: a still has no length.');
  await expect(change({ ...stills, items: [{ clip: still }, { clip: still }] })).rejects.toThrow(
    'None of these clips runs: they are stills, or their length is not known.',
  );
  await expect(
    change({ ...stills, found: { wanted: { query: 'no such clip' }, what: 'clips' } }),
  ).rejects.toThrow('No clip is shown here.');
});

test('a recording is listened to when its waveform is first asked for, channel by channel, and once', async () => {
  const sound = ids.get('T01')!;
  const [one, two] = await Promise.all([waveform(s.runtime, sound), waveform(s.runtime, sound)]);
  expect(two).toBe(one);
  expect(one!.length).toBeCloseTo(4.01, 3);
  expect(one!.channels).toHaveLength(2);
  const [left, right] = one!.channels as [number[], number[]];
  const middle = (of: number[], share: number) => of[Math.floor(of.length * share)];
  // Of 255: a quarter, and half.
  expect([63, 64]).toContain(middle(left, 0.25));
  expect(middle(left, 0.75)).toBe(0);
  for (const share of [0.25, 0.75]) expect([127, 128]).toContain(middle(right, share));
  expect(JSON.parse(readFileSync(cached(s.runtime, 'waveforms', sound), 'utf8'))).toEqual(one);
  expect(await waveform(s.runtime, sound)).toEqual(one);
  // What came to harm since it was read says so, and the next try is one of its own.
  const broken = ids.get('T02')!;
  const file = path.join(s.shelf, 'In', 'S001', 'T02.WAV');
  const whole = readFileSync(file);
  writeFileSync(file, 'RIFF'.repeat(50));
  await expect(waveform(s.runtime, broken)).rejects.toMatchObject({ title: 'Unreadable' });
  writeFileSync(file, whole);
  expect((await waveform(s.runtime, broken))!.channels).toHaveLength(2);
  // Of what has pictures nothing is decoded for it alone.
  expect(await waveform(s.runtime, ids.get('V001')!)).toBeNull();
  expect(await waveform(s.runtime, ids.get('P001')!)).toBeNull();
});
