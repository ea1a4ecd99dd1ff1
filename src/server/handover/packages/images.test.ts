import { afterAll, afterEach, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, statSync, utimesSync } from 'node:fs';
import path from 'node:path';
import { exiftoolPath } from 'exiftool-vendored';
import { eq } from 'drizzle-orm';
import { type Form, NewPackage, READY_FORMS, readOtio } from '../../../core/handover';
import { clipViews } from '../../cards';
import { files } from '../../cards/tables';
import { changeChoice } from '../../choose';
import { beginJob } from '../../jobs';
import { addRoot } from '../../places';
import { makeClip, put, TEST_JOB, type TestShelf, testShelf } from '../../testing/media';
import { takeInCard } from '../../testing/takeInCard';
import { packageFiles } from '../tables';
import { clearLeftImages, imageLimits, runAt } from './makeRun';
import { planView } from './plan';
import { actOnPackage, sendPackage } from './send';
import { packageView } from './views';

// Used frames that go as numbered images: which frames they are, by FFmpeg's own decoding of the originals, and what they say of themselves.

let s: TestShelf;
let drive: string;
let root: string;
const ids = new Map<string, string>();
const effects: Form = {
  ...READY_FORMS.find((f) => f.name === 'Effects')!,
  ...{ usedAs: 'dpx10', handles: 2, lists: ['otio'] },
};
const wanted = (folder: string, of: Partial<Form> = {}): NewPackage =>
  NewPackage.parse({
    ...{ set: { kind: 'card', card: 'B001' }, form: { ...effects, ...of }, to: 'effects', root, folder },
  });
const sent = async (id: string) => {
  await s.runtime.queue.drainKind('handover');
  return packageView(s.runtime, id);
};
const send = async (folder: string, of: Partial<Form> = {}) =>
  sent((await sendPackage(s.runtime, wanted(folder, of))).id);
const select = (name: string, from: number, to: number) =>
  changeChoice(s.runtime, {
    ...{ do: 'addRange', clip: ids.get(name)!, kind: 'select', from, to, name: '', note: '' },
  });
const rowAt = (folder: string, clip: string) => path.join(drive, folder, 'Used frames', clip);
const original = (name: string) => path.join(s.shelf, 'In', 'B001', 'CLIP', name);
/** MD5 of each picture, as FFmpeg's framemd5 prints it. */
const md5s = (cwd: string, ...args: string[]): string[] =>
  execFileSync('ffmpeg', ['-v', 'error', ...args, '-fps_mode', 'passthrough', '-f', 'framemd5', '-'], {
    ...{ cwd, encoding: 'utf8', maxBuffer: 1 << 26 },
  })
    .split('\n')
    .filter((line) => line !== '' && !line.startsWith('#'))
    .map((line) => line.split(',').at(-1)!.trim());
/** What a row of images holds, and the frames of an original that it is said to hold, made RGB by FFmpeg in one command. */
const inImages = (row: string, clip: string, first: number, pixels: string) =>
  md5s(row, '-start_number', String(first), '-i', `${clip}.%07d.dpx`, '-pix_fmt', pixels);
const inOriginal = (name: string, from: number, to: number, matrix: string, pixels: string) =>
  md5s(
    s.dir,
    ...['-i', `file:${original(name)}`, '-map', '0:v:0', '-vf'],
    `select='between(n,${from},${to - 1})',scale=in_range=limited:in_color_matrix=${matrix}:out_range=full:flags=bicubic+accurate_rnd+full_chroma_int,format=${pixels}`,
  );
const timecodeOf = (image: string): string =>
  execFileSync(
    'ffprobe',
    ['-v', 'error', '-of', 'default=nw=1:nk=1', '-show_entries', 'frame_tags=timecode', image],
    { encoding: 'utf8' },
  ).trim();

const before = imageLimits.bytes;
afterEach(() => {
  imageLimits.bytes = before;
});
beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  makeClip(original('T0001.MP4'), { start: '14:22:05:00', frames: 30 });
  makeClip(original('T0002.MOV'), {
    ...{ start: '14:30:59;26', rate: '30000/1001', frames: 12, size: '1280x720' },
    codec: ['-c:v', 'prores_ks', '-profile:v', 'lt', '-pix_fmt', 'yuv422p10le', '-colorspace', 'bt709'],
  });
  makeClip(original('T0003.MP4'), { start: '14:40:00:00', frames: 12 });
  await takeInCard(s);
  for (const c of await clipViews(s.runtime)) ids.set(c.original, c.id);
  await select('T0001', 10, 14);
  await select('T0002', 3, 5);
  drive = path.join(s.dir, 'courier drive 100%d');
  mkdirSync(drive);
  ({ id: root } = await addRoot(s.runtime, { kind: 'handover', path: drive }));
});
afterAll(() => s.close());

test('each used frame goes as an image of that very frame, with its timecode; nothing has to be made first', async () => {
  const plan = await planView(s.runtime, wanted('SLW'));
  expect(plan).toMatchObject({
    ...{ toMake: 0, fault: null, counts: { fresh: 14 } },
    media: [{ what: 'used', files: 14, bytes: 8 * (2048 + 320 * 180 * 4) + 6 * (2048 + 1280 * 720 * 4) }],
  });
  expect(plan.remarks.map((r) => [r.name, r.why])).toEqual([
    ...['T0001', 'T0002'].map((name) => [
      name,
      'as RGB images, full range, 10 bit: converted from the recording, transfer curve unchanged',
    ]),
    ['T0003', 'nothing of it is selected'],
  ]);
  // In several runs.
  imageLimits.bytes = 3 * (2048 + 320 * 180 * 4);
  const view = await send('SLW');
  expect(view).toMatchObject({ state: 'done', failed: 0, fault: null });
  const [one, two] = [rowAt('SLW', 'T0001'), rowAt('SLW', 'T0002')];
  expect(readdirSync(one).sort()).toEqual(
    Array.from({ length: 8 }, (_, i) => `T0001.${String(9 + i).padStart(7, '0')}.dpx`),
  );
  expect(view.bytes).toBeGreaterThan(plan.bytes);
  expect(inImages(one, 'T0001', 9, 'gbrp10le')).toEqual(
    inOriginal('T0001.MP4', 8, 16, 'smpte170m', 'gbrp10le'),
  );
  expect(inImages(two, 'T0002', 2, 'gbrp10le')).toEqual(inOriginal('T0002.MOV', 1, 7, 'bt709', 'gbrp10le'));
  const timecodes = readdirSync(one).map((name) => timecodeOf(path.join(one, name)));
  expect(timecodes.slice(0, 2)).toEqual(['14:22:05:08', '14:22:05:09']);
  // Drop-frame: after :29 of the first minute's last second come :02 (SMPTE ST 12-1). The header has digits alone.
  expect(
    readdirSync(two)
      .sort()
      .map((name) => timecodeOf(path.join(two, name))),
  ).toEqual(['14:30:59:27', '14:30:59:28', '14:30:59:29', '14:31:00:02', '14:31:00:03', '14:31:00:04']);
  // A second reader of such headers.
  const said = ['ImageFileName', 'SourceFileName', 'FrameRate', 'BitDepth'];
  expect(
    execFileSync(
      await exiftoolPath(),
      ['-s3', ...said.map((t) => `-${t}`), path.join(two, 'T0002.0000002.dpx')],
      {
        encoding: 'utf8',
      },
    ).split('\n'),
  ).toEqual(['T0002.0000002.dpx', 'T0002.MOV', '29.9700298309326', '10', '']);
  // They are as old as what they are made of, and nothing is left of them here.
  const image = path.join(two, 'T0002.0000002.dpx');
  expect(Math.round(statSync(image).mtimeMs)).toBe(Math.round(statSync(original('T0002.MOV')).mtimeMs));
  expect(existsSync(runAt(s.runtime, view.id))).toBe(false);
});

test('the timeline refers to the rows of images, by the field’s own schema, and is read back', async () => {
  const text = readFileSync(path.join(drive, 'SLW', 'B001.otio'), 'utf8');
  const { tracks } = JSON.parse(text) as {
    tracks: { children: { children: { media_references: object }[] }[] };
  };
  const start = ((14 * 60 + 22) * 60 + 5) * 25;
  expect(tracks.children[0]!.children[0]).toMatchObject({
    source_range: { start_time: { value: start + 10 }, duration: { value: 4 } },
    media_references: {
      DEFAULT_MEDIA: {
        ...{ OTIO_SCHEMA: 'ImageSequenceReference.1', target_url_base: 'Used%20frames/T0001' },
        ...{ name_prefix: 'T0001.', name_suffix: '.dpx', start_frame: 9, frame_step: 1, rate: 25 },
        ...{ frame_zero_padding: 7, missing_frame_policy: 'error' },
        available_range: { start_time: { value: start + 8 }, duration: { value: 8 } },
      },
    },
  });
  const { tracks: read, faults } = readOtio(text);
  expect(faults).toEqual([]);
  expect(read[0]!.events.map((e) => [e.name, e.file, e.source.from])).toEqual([
    ['T0001', 'T0001.0000009.dpx', start + 10],
    ['T0002', 'T0002.0000002.dpx', expect.any(Number)],
  ]);
});

test('handed over again, only frames that are new go, to the row that is there; in another depth, or of another original, all of it', async () => {
  expect(await planView(s.runtime, wanted('SLW'))).toMatchObject({
    counts: { fresh: 0, changed: 0, same: 14 },
  });
  await select('T0001', 13, 18);
  expect(await send('SLW')).toMatchObject({ sendings: [{ counts: { fresh: 4, same: 14 } }, {}] });
  const row = rowAt('SLW', 'T0001');
  expect(readdirSync(row)).toHaveLength(12);
  expect(inImages(row, 'T0001', 9, 'gbrp10le')).toEqual(
    inOriginal('T0001.MP4', 8, 20, 'smpte170m', 'gbrp10le'),
  );
  expect(await planView(s.runtime, wanted('SLW', { usedAs: 'dpx16' }))).toMatchObject({
    counts: { fresh: 0, changed: 18, same: 0 },
  });
  await send('SLW', { usedAs: 'dpx16' });
  expect(inImages(row, 'T0001', 9, 'rgb48le')).toEqual(
    inOriginal('T0001.MP4', 8, 20, 'smpte170m', 'rgb48le'),
  );
  // As after a look for changes.
  utimesSync(original('T0002.MOV'), 1_700_000_000, 1_700_000_000);
  await s.runtime.db
    .update(files)
    .set({ modified: 1_700_000_000_000 })
    .where(eq(files.path, 'In/B001/CLIP/T0002.MOV'));
  s.runtime.events.changed('clips');
  expect(await planView(s.runtime, wanted('SLW', { usedAs: 'dpx16' }))).toMatchObject({
    counts: { fresh: 0, changed: 6, same: 12 },
  });
});

test('a clip that changed since it was planned fails alone, and goes when it is as it was; so does one that cannot be decoded', async () => {
  const away = path.join(s.dir, 'T0001.MP4');
  const { id } = await sendPackage(s.runtime, wanted('SLW late'));
  renameSync(original('T0001.MP4'), away);
  const view = await sent(id);
  expect(view).toMatchObject({ state: 'partly', failed: 12 });
  expect(view.list[0]!.fault).toBe(
    'No images can be made of T0001.MP4: In/B001/CLIP/T0001.MP4 is no longer there.',
  );
  expect(readdirSync(rowAt('SLW late', 'T0002'))).toHaveLength(6);
  // What is not here is said before it is begun.
  const plan = await planView(s.runtime, wanted('SLW later'));
  expect(plan.remarks[0]).toMatchObject({
    ...{ name: 'T0001', what: 'used', why: 'In/B001/CLIP/T0001.MP4 is no longer there' },
  });
  expect(plan.counts.fresh).toBe(6);
  renameSync(away, original('T0001.MP4'));
  await actOnPackage(s.runtime, id, { action: 'retry' });
  expect(await sent(id)).toMatchObject({ state: 'done', failed: 0 });
  expect(readdirSync(rowAt('SLW late', 'T0001'))).toHaveLength(12);
  // Of the right length and time, and no film.
  const { size, modified } = (
    await s.runtime.db.select().from(files).where(eq(files.path, 'In/B001/CLIP/T0003.MP4'))
  )[0]!;
  await select('T0003', 0, 2);
  renameSync(original('T0003.MP4'), path.join(s.dir, 'T0003.MP4'));
  put(original('T0003.MP4'), 'x'.repeat(size));
  execFileSync('touch', ['-d', new Date(modified).toISOString(), original('T0003.MP4')]);
  const again = await send('SLW late');
  expect(again).toMatchObject({ state: 'partly', failed: 4, verified: 18 + 2 });
  expect(again.list[0]!.fault).toMatch(/T0003\.MP4 .*whatever its name says/);
});

test('what a killed server left of images goes at the start, and a sending that was begun with other facts is refused', async () => {
  const left = path.join(runAt(s.runtime, 'killed'), 'a.dpx');
  put(left, 'half');
  await clearLeftImages(s.runtime);
  expect(existsSync(left)).toBe(false);
  const { id } = await sendPackage(
    s.runtime,
    wanted('SLW other', { folders: 'own', pattern: '{job}/{day} {camera}/{date}' }),
  );
  await s.runtime.db
    .update(packageFiles)
    .set({ image: { frame: 8, of: 'other' } })
    .where(eq(packageFiles.place, 'Used frames/SLW/1 B/no date/T0001/T0001.0000009.dpx'));
  const view = await sent(id);
  expect(view.list[0]!.fault).toBe('T0001.MP4 is not what it was when this was planned. Hand it over again.');
});
