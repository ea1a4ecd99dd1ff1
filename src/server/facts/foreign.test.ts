import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import path from 'node:path';
import { DEFAULT_INTAKE } from '../../core/intake';
import { namingRequest } from '../../core/naming/shapes';
import { clipViews } from '../cards/clipViews';
import { look } from '../intake/look';
import { stripOf } from '../intake/lookAtFile';
import { takeIn } from '../intake/takeIn';
import { beginJob } from '../jobs/jobs';
import { saveSettings } from '../jobs/job';
import { applyNaming } from '../naming';
import { planNaming } from '../naming/naming';
import { clipDetail } from '../overview';
import { proxiesView } from '../proxies/views';
import { makeClip, put, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { FFMPEG } from '../platform/media/tools';
import { FOREIGN } from '../reading';
import { cached } from '../analysis';

// Footage that nothing on this machine decodes: it is a clip all the same, with what its size, time, tags and preview say.

let s: TestShelf;
const at = (name: string): string => path.join(s.shelf, 'Card', name);

/** A raw still as cameras lay it out: TIFF with tags, no picture that FFmpeg knows, and a JPEG for a preview in its second directory. */
function rawStill(preview: Buffer): Buffer {
  const text = (words: string): Buffer => Buffer.from(`${words}\0`);
  const strings = [text('Whimbrel'), text('Whimbrel K2'), text('2026:05:06 14:22:05')];
  const entry = (tag: number, type: number, count: number, value: number): Buffer => {
    const e = Buffer.alloc(12);
    e.writeUInt16LE(tag, 0);
    e.writeUInt16LE(type, 2);
    e.writeUInt32LE(count, 4);
    e.writeUInt32LE(value, 8);
    return e;
  };
  const directory = (entries: Buffer[], next: number): Buffer => {
    const [n, end] = [Buffer.alloc(2), Buffer.alloc(4)];
    n.writeUInt16LE(entries.length);
    end.writeUInt32LE(next);
    return Buffer.concat([n, ...entries, end]);
  };
  const first = 8;
  const second = first + 2 + 12 * 5 + 4;
  const words = second + 2 + 12 * 3 + 4;
  const [make, model, date] = strings as [Buffer, Buffer, Buffer];
  const jpeg = words + Buffer.concat(strings).length;
  return Buffer.concat([
    Buffer.from('II*\0\x08\0\0\0', 'latin1'),
    directory(
      [
        entry(0x100, 4, 1, 6000),
        entry(0x101, 4, 1, 4000),
        entry(0x10f, 2, make.length, words),
        entry(0x110, 2, model.length, words + make.length),
        entry(0x9003, 2, date.length, words + make.length + model.length),
      ],
      second,
    ),
    directory([entry(0x103, 3, 1, 6), entry(0x201, 4, 1, jpeg), entry(0x202, 4, 1, preview.length)], 0),
    ...strings,
    preview,
  ]);
}

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const made = ['-f', 'lavfi', '-i', 'testsrc2=s=320x180', '-frames:v', '1', '-f', 'mjpeg', 'pipe:1'];
  const jpeg = execFileSync(FFMPEG(), ['-v', 'error', ...made]);
  put(at('QUAY0001.NEF'), rawStill(jpeg));
  put(at('QUAY0002.NEF'), 'nothing of the kind');
  put(at('QUAY0003.R3D'), Buffer.from('0000271052454431', 'hex'));
  put(at('QUAY0003.xml'), '<clip/>');
  put(at('QUAY0004.KRV'), 'a format of our own, in words');
  put(at('QUAY0005.R3D'), Buffer.alloc(5000));
  makeClip(at('QUAY0006.MP4'));
  const types = { ...DEFAULT_INTAKE.types, video: [...DEFAULT_INTAKE.types.video, 'krv'] };
  await saveSettings(s.runtime, { intake: { ...DEFAULT_INTAKE, types } });
});
afterAll(() => s.close());

test('it is a clip, read as far as it says, named and placed; what is damaged says so', async () => {
  const [card] = (await look(s.runtime, 'shelf', 'Card')).cards;
  expect(card!.clips).toHaveLength(6);
  expect(card!.aside.map((a) => [a.path, a.reason])).toEqual([
    ['QUAY0005.R3D', 'begins with nothing but zeros. It is taken in as it is, and marked.'],
  ]);
  await takeIn(s.runtime, {
    root: 'shelf',
    path: 'Card',
    cards: [{ folder: '', camera: 'A', cardId: 'A001', day: 1, date: null }],
  });
  await s.runtime.queue.drain();
  const views = new Map((await clipViews(s.runtime)).map((v) => [String(v.original), v]));
  const foreign = (name: string) => views.get(name)!.problems.some((p) => p.text === FOREIGN);
  expect([...views.values()].map((v) => [v.original, v.state, foreign(String(v.original))]).sort()).toEqual([
    ['QUAY0001', 'read', false],
    ['QUAY0002', 'unreadable', false],
    ['QUAY0003', 'read', true],
    ['QUAY0004', 'read', true],
    ['QUAY0005', 'unreadable', false],
    ['QUAY0006', 'read', false],
  ]);
  expect(views.get('QUAY0002')!.fault).toContain('QUAY0002.NEF');
  const still = views.get('QUAY0001')!;
  expect(still).toMatchObject({
    width: 6000,
    height: 4000,
    recordedAt: '2026-05-06T14:22:05',
    filmstrip: true,
  });
  const detail = await clipDetail(s.runtime, still.id);
  expect(detail.facts.find((f) => f.field === 'model')!.value).toBe('Whimbrel K2');
  // Its own preview is what is shown.
  expect(existsSync(cached(s.runtime, 'filmstrips', still.id))).toBe(true);
  const strip = await stripOf(s.runtime, { root: 'shelf', path: 'Card/QUAY0001.NEF' });
  expect([strip[0], strip[1]]).toEqual([0xff, 0xd8]);

  const pairs = (await proxiesView(s.runtime)).pairs;
  expect(pairs.find((p) => p.clip === views.get('QUAY0003')!.id)!.reason).toBe(
    'none can be made: this machine has no decoder for it',
  );
  const request = namingRequest({ cards: ['A001'] });
  const { preview } = await planNaming(s.runtime, request);
  await applyNaming(s.runtime, { ...request, fingerprint: preview.fingerprint });
  const named = (await clipViews(s.runtime)).filter((v) => v.named).map((v) => v.original);
  expect(named.sort()).toEqual(['QUAY0001', 'QUAY0003', 'QUAY0004', 'QUAY0006']);
});
