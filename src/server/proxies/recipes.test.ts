import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { eq } from 'drizzle-orm';
import { execFileSync } from 'node:child_process';
import { appendFileSync, existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { cdlCube } from '../../core/facts';
import { applyCdl } from '../../core/facts/looks';
import { namingRequest } from '../../core/naming/shapes';
import { rate } from '../../core/platform/timecode/rate';
import { parseTimecode } from '../../core/platform/timecode/timecode';
import { DEFAULT_PROXIES } from '../../core/proxies';
import { neededOf } from '../../core/proxies/arguments';
import {
  LIGHT,
  READY_RECIPES,
  type Recipe,
  RecipeFile,
  sizeFault,
  soundFault,
} from '../../core/proxies/recipe';
import { NO_TAGS, type ProxySource } from '../../core/proxies/source';
import { addWork, clipViews } from '../cards';
import { files } from '../cards/tables';
import { look } from '../intake/look';
import { scanClips } from '../intake/scanClips';
import { takeIn } from '../intake/takeIn';
import { saveSettings } from '../jobs/job';
import { beginJob } from '../jobs/jobs';
import { applyNaming, undoPlan } from '../naming';
import { planNaming } from '../naming/naming';
import { FFMPEG, FFPROBE } from '../platform/media/tools';
import { work } from '../platform/work/tables';
import { hashTree, makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { takeInCard } from '../testing/takeInCard';
import { actOnPair } from './actOnPair';
import { dropRecipe, importRecipes, keepRecipe, recipesView } from './library';
import { makeProxy } from './proxy';
import { provePairs } from './provePairs';
import { decodedHashes } from './run';
import { makeByItself, proxiesView } from './views';
import { watchPairs } from './watchPairs';

let dir: string;
beforeAll(() => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-recipes-'));
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));

const at = (name: string): string => path.join(dir, name);
const ready = (words: string): Recipe => READY_RECIPES.find((r) => r.name.startsWith(words))!;
const plain: ProxySource = {
  pixelAspect: 1,
  rotation: 0,
  scan: 'progressive',
  varies: false,
  rate: rate(25),
  frames: 10,
  start: parseTimecode('09:59:59:20', rate(25)),
  audio: [],
  colour: { range: 'limited', primaries: 'bt709', transfer: 'bt709', matrix: 'bt709' },
  tags: NO_TAGS,
};
const make = (from: string, to: string, recipe: Recipe, source: ProxySource, beside = {}) =>
  makeProxy([from], to, recipe, source, {
    signal: new AbortController().signal,
    onProgress: () => undefined,
    beside: { look: null, name: null, face: null, ...beside },
  });
const decoded = (file: string) => decodedHashes([file], new AbortController().signal);
const asked = (file: string, entry: string): string =>
  execFileSync(
    FFPROBE(),
    ['-v', 'error', '-select_streams', 'v:0', '-show_entries', entry, '-of', 'csv=p=0', file],
    {
      encoding: 'utf8',
    },
  )
    .trim()
    .replace(/,$/, '');
/** Red, green and blue of a picture's area, each from 0 to 1. */
const colour = (file: string, area = 'iw:ih:0:0', matrix = 'bt709'): number[] =>
  [
    ...execFileSync(FFMPEG(), [
      ...['-v', 'error', '-i', file, '-frames:v', '1', '-vf'],
      `crop=${area},scale=1:1:flags=area:in_color_matrix=${matrix},format=rgb24`,
      ...['-f', 'rawvideo', '-'],
    ]),
  ].map((b) => b / 255);

describe('a rewrap', () => {
  test('of H.264 4:2:2 10 bit from MP4 into MOV decodes to the identical frames', async () => {
    const codec = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv422p10le'];
    const from = makeClip(at('trap.mp4'), { codec, size: '1280x720' });
    await make(from, at('trap.mov'), ready('Rewrap in MOV'), { ...plain, audio: [[2]] });
    expect(await decoded(at('trap.mov'))).toEqual(await decoded(from));
    // What is told from one that does not: the same without FFmpeg's leave for it.
    execFileSync(FFMPEG(), ['-v', 'error', '-i', from, '-c', 'copy', at('trapped.mov')], { stdio: 'ignore' });
    await expect(decoded(at('trapped.mov'))).rejects.toThrow();
  });

  test('gets the timecode that stands only in a sidecar', async () => {
    const from = makeClip(at('none.mp4'), { start: null });
    await make(from, at('given.mov'), ready('Rewrap in MOV'), { ...plain, audio: [[2]] });
    expect(
      execFileSync(
        FFPROBE(),
        ['-v', 'error', '-show_entries', 'stream_tags=timecode', '-of', 'csv=p=0', at('given.mov')],
        {
          encoding: 'utf8',
        },
      ),
    ).toContain('09:59:59:20');
  });
});

test('fields are kept in ProRes, in their order', async () => {
  for (const [scan, order] of [
    ['top', 'tb'],
    ['bottom', 'bt'],
  ] as const) {
    const from = at(`${scan}.mov`);
    execFileSync(FFMPEG(), [
      ...['-v', 'error', '-y', '-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=50:d=0.4', '-vf'],
      `interlace=scan=${scan === 'top' ? 'tff' : 'bff'}`,
      ...['-c:v', 'prores_ks', '-flags', '+ildct', from],
    ]);
    const to = at(`${scan}-kept.mov`);
    await make(from, to, { ...ready('ProRes LT in MOV, same size'), interlaced: 'kept' }, { ...plain, scan });
    expect([order, order === 'tb' ? 'tt' : 'bb']).toContain(asked(to, 'stream=field_order'));
    const made = at(`${scan}-made.mov`);
    await make(from, made, ready('ProRes LT in MOV, same size'), { ...plain, scan });
    expect(asked(made, 'stream=field_order')).toBe('progressive');
  }
});

test('what cannot be made is said before the start', async () => {
  const s = await testShelf();
  try {
    expect((await recipesView(s.runtime)).map((r) => r.cannot)).toEqual(READY_RECIPES.map(() => null));
    expect(sizeFault(ready('VC-3 low'), 400, 225)).toContain('would make a picture of 200×112');
    expect(sizeFault(ready('VC-3 low'), 640, 360)).toBeNull();
    expect(soundFault(ready('Rewrap in MP4'), 'PCM 24 bit')).toContain('choose MOV');
    expect(soundFault(ready('Rewrap in MP4'), 'AAC')).toBeNull();
    expect(soundFault(ready('Rewrap in MOV'), 'PCM 24 bit')).toBeNull();
    expect(neededOf({ ...ready('VC-3 low'), look: true, burn: { name: true, timecode: false } })).toEqual({
      encoders: ['dnxhd', 'pcm_s24le'],
      filters: ['scale', 'bwdif', 'lut3d', 'lut1d', 'drawtext'],
    });
  } finally {
    await s.close();
  }
});

test('sixteen channels stay sixteen without compression', async () => {
  const from = at('sixteen.mov');
  execFileSync(FFMPEG(), [
    ...['-v', 'error', '-y', '-f', 'lavfi', '-i', 'testsrc2=s=640x360:r=25:d=0.4'],
    ...[
      '-f',
      'lavfi',
      '-i',
      "aevalsrc='0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1|0.1':d=0.4:s=48000",
    ],
    ...['-c:v', 'mjpeg', '-c:a', 'pcm_s24le', from],
  ]);
  for (const [recipe, name] of [
    [ready('ProRes proxy'), 'sixteen-p.mov'],
    [ready('VC-3 low'), 'sixteen-v.mxf'],
  ] as const) {
    await make(from, at(name), recipe, { ...plain, audio: [[16]] });
    expect(
      execFileSync(
        FFPROBE(),
        [
          '-v',
          'error',
          '-select_streams',
          'a',
          '-show_entries',
          'stream=channels',
          '-of',
          'csv=p=0',
          at(name),
        ],
        {
          encoding: 'utf8',
        },
      ).trim(),
    ).toBe('16');
  }
});

describe('a look', () => {
  const cdl = {
    id: '',
    slope: [1.2, 1, 0.8] as [number, number, number],
    offset: [0.02, 0, -0.02] as [number, number, number],
    power: [0.9, 1, 1.1] as [number, number, number],
    saturation: 0.7,
  };
  test('is what the CDL makes of a colour, by FFmpeg’s own table', async () => {
    const from = at('flat.mov');
    execFileSync(FFMPEG(), [
      ...['-v', 'error', '-y', '-f', 'lavfi', '-i', 'color=0x806030:s=320x180:r=25:d=0.4', '-vf'],
      'scale=out_color_matrix=bt709:out_range=limited,format=yuv422p10le',
      ...['-c:v', 'prores_ks', '-profile:v', '3', '-colorspace', 'bt709', from],
    ]);
    writeFileSync(at('graded.cube'), cdlCube(cdl));
    await make(from, at('graded.mov'), { ...ready('ProRes LT in MOV, same size'), look: true }, plain, {
      look: { file: 'graded.cube', kind: '3D', graded: true },
    });
    const wanted = applyCdl(cdl, colour(from) as [number, number, number]);
    colour(at('graded.mov')).forEach((c, i) => expect(Math.abs(c - wanted[i]!)).toBeLessThan(0.02));
    expect(Math.abs(wanted[0] - colour(from)[0]!)).toBeGreaterThan(0.05);
  });

  test('of one dimension is applied, too', async () => {
    const from = makeClip(at('one.mp4'), { audio: [] });
    writeFileSync(at('black.cube'), 'LUT_1D_SIZE 2\n0 0 0\n0 0 0\n');
    await make(from, at('black.mp4'), { ...LIGHT, look: true }, plain, {
      look: { file: 'black.cube', kind: '1D', graded: false },
    });
    expect(Math.max(...colour(at('black.mp4')))).toBeLessThan(0.02);
  });
});

test('name and timecode are written into the foot of the picture, whatever the name is', async () => {
  const from = at('grey.mp4');
  execFileSync(FFMPEG(), [
    ...[
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      'color=gray:s=640x360:r=25:d=0.4',
      '-pix_fmt',
      'yuv420p',
      from,
    ],
  ]);
  writeFileSync(at('name.txt'), "it's 100% %{pts} : \\ ' [x];");
  const face = path.resolve(
    'node_modules/@fontsource/jetbrains-mono/files/jetbrains-mono-latin-500-normal.woff2',
  );
  execFileSync('cp', [face, at('face.woff2')]);
  await make(from, at('written.mp4'), { ...LIGHT, burn: { name: true, timecode: true } }, plain, {
    name: 'name.txt',
    face: 'face.woff2',
  });
  const [foot, left, head] = [
    colour(at('written.mp4'), 'iw/4:ih/16:iw*5/8:ih*15/16-ih/24-4')[0]!,
    colour(at('written.mp4'), 'iw/6:ih/16:iw/30:ih*15/16-ih/24-4')[0]!,
    colour(at('written.mp4'), 'iw:ih/2:0:0')[0]!,
  ];
  expect(Math.abs(head - 0.5)).toBeLessThan(0.02);
  expect(foot).toBeLessThan(0.47);
  expect(left).toBeLessThan(0.47);
});

describe('several made files of a clip', () => {
  let s: TestShelf;
  let clip: string;
  const rewrap = ready('Rewrap in MOV');
  const view = ready('For viewing');
  const named = async () => {
    const { preview } = await planNaming(s.runtime, namingRequest());
    return applyNaming(s.runtime, { ...namingRequest(), fingerprint: preview.fingerprint });
  };
  const lines = async () => (await proxiesView(s.runtime)).pairs.filter((p) => p.clip === clip);
  const states = async () =>
    (await s.runtime.db.select().from(work).where(eq(work.kind, 'proxy')).orderBy(work.queuedAt)).map((w) => [
      w.state,
      w.fault,
    ]);

  beforeAll(async () => {
    s = await testShelf();
    await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
    makeClip(path.join(s.shelf, 'In', 'T0001.MP4'), { frames: 20 });
    await takeIn(s.runtime, {
      root: 'shelf',
      path: 'In',
      cards: [
        {
          folder: (await look(s.runtime, 'shelf', 'In')).cards[0]!.folder,
          camera: 'B',
          cardId: 'B001',
          day: 1,
          date: null,
        },
      ],
    });
    await s.runtime.queue.drain();
    clip = (await clipViews(s.runtime))[0]!.id;
  });
  afterAll(() => s.close());

  test('each has its recipe, its pair and its place; the same is not made twice', async () => {
    await addWork(s.runtime, 'proxy', [clip]);
    for (const recipe of [rewrap, view]) await addWork(s.runtime, 'proxy', [clip], { recipe });
    expect((await addWork(s.runtime, 'proxy', [clip], { recipe: rewrap })).added).toBe(0);
    // What is asked for is not offered again, and all else is.
    expect((await proxiesView(s.runtime)).clips[0]!.has.sort()).toEqual(
      [LIGHT.name, rewrap.name, view.name].sort(),
    );
    await s.runtime.queue.drain();
    expect(await states()).toEqual(Array(3).fill(['done', null]));
    expect((await lines()).map((l) => [l.what, l.state, l.first])).toEqual([
      [`proxy by “${LIGHT.name}”`, 'proven', true],
      [`transcode by “${view.name}”`, 'proven', false],
      [`rewrap by “${rewrap.name}”`, 'proven', false],
    ]);
    expect(Object.keys(hashTree(s.proxies)).sort()).toEqual([
      'For viewing/not-named/SLW/B001/T0001_view.mp4',
      'not-named/SLW/B001/T0001.mp4',
      'not-named/SLW/B001/T0001_rewrap.mov',
    ]);
    await addWork(s.runtime, 'proxy', [clip], { recipe: rewrap });
    await addWork(s.runtime, 'proxy', [clip], { recipe: { ...rewrap, name: 'Another of the same name' } });
    await s.runtime.queue.drain();
    expect((await states()).slice(3)).toEqual([
      ['failed', expect.stringContaining('has a rewrap by “Rewrap in MOV” already')],
      ['failed', expect.stringContaining('is there already')],
    ]);
    const { measured } = await proxiesView(s.runtime);
    expect(measured.map((m) => m.recipe).sort()).toEqual([view.name, LIGHT.name, rewrap.name].sort());
    expect(readdirSync(path.join(s.proxies, '.sort-shelf/making'))).toEqual([]);
  });

  test('naming takes them along, each in its place, and undo takes them back', async () => {
    const before = hashTree(s.proxies);
    const { planId } = await named();
    expect(Object.keys(hashTree(s.proxies)).sort()).toEqual([
      'For viewing/SLW_D1_B001_001_25p_view.mp4',
      'SLW/D1/B/B001/SLW_D1_B001_001_25p.mp4',
      'SLW/D1/B/B001/SLW_D1_B001_001_25p_rewrap.mov',
    ]);
    expect(Object.values(hashTree(s.proxies)).sort()).toEqual(Object.values(before).sort());
    await undoPlan(s.runtime, planId);
    expect(hashTree(s.proxies)).toEqual(before);
  });

  test('one that a person chose stands for the clip, until it is taken back', async () => {
    const [, , third] = await lines();
    await actOnPair(s.runtime, { action: 'stands', file: third!.file! });
    expect((await lines())[0]).toMatchObject({ file: third!.file, first: true, stands: true });
    expect((await clipViews(s.runtime))[0]!.pair.file).toBe(third!.file);
    await actOnPair(s.runtime, { action: 'standsNot', file: third!.file! });
    expect((await lines())[0]!.what).toBe(`proxy by “${LIGHT.name}”`);
  });

  test('beside the original, where that has its name and place', async () => {
    const beside: Recipe = { ...rewrap, name: 'Beside', words: '_beside', place: { at: 'beside' } };
    const { planId } = await named();
    await addWork(s.runtime, 'proxy', [clip], { recipe: beside });
    await s.runtime.queue.drain();
    expect(readdirSync(path.join(s.shelf, 'SLW/D1/B/B001')).sort()).toEqual([
      'SLW_D1_B001_001_25p.MP4',
      'SLW_D1_B001_001_25p_beside.mov',
    ]);
    await undoPlan(s.runtime, planId);
    expect(Object.keys(hashTree(s.shelf)).sort()).toEqual([
      'In/T0001.MP4',
      'not-named/SLW/B001/T0001_beside.mov',
    ]);
  });

  test('one is removed, and says what that frees; one that was altered is left, as is the original', async () => {
    const of = async (words: string) => (await lines()).find((l) => l.what.includes(words))!;
    const kept = hashTree(s.shelf);
    const viewing = await of('For viewing');
    const file = path.join(s.proxies, 'For viewing/not-named/SLW/B001/T0001_view.mp4');
    expect(await actOnPair(s.runtime, { action: 'remove', file: viewing.file! })).toEqual({
      freed: viewing.bytes,
    });
    expect(existsSync(file)).toBe(false);
    const other = await of('Rewrap');
    appendFileSync(path.join(s.proxies, 'not-named/SLW/B001/T0001_rewrap.mov'), 'more');
    // Neither a look for changes nor one at the pairs makes it what was made.
    await scanClips(s.runtime, null);
    expect((await watchPairs(s.runtime)).changed).toBe(1);
    await expect(actOnPair(s.runtime, { action: 'remove', file: other.file! })).rejects.toThrow(
      'has changed since',
    );
    expect(existsSync(path.join(s.proxies, 'not-named/SLW/B001/T0001_rewrap.mov'))).toBe(true);
    const [original] = await s.runtime.db.select().from(files).where(eq(files.role, 'original'));
    await expect(actOnPair(s.runtime, { action: 'remove', file: original!.id })).rejects.toThrow(
      'no longer beside',
    );
    expect(hashTree(s.shelf)).toEqual(kept);
  });

  test('one that is gone from the disk is forgotten, and made again', async () => {
    rmSync(path.join(s.proxies, 'not-named/SLW/B001/T0001.mp4'));
    const line = (await lines()).find((l) => l.what.includes(LIGHT.name))!;
    expect(await actOnPair(s.runtime, { action: 'remove', file: line.file! })).toEqual({ freed: 0 });
    await addWork(s.runtime, 'proxy', [clip]);
    await s.runtime.queue.drain();
    expect((await lines())[0]).toMatchObject({ what: `proxy by “${LIGHT.name}”`, state: 'proven' });
  });
});

test('the library keeps recipes, gives none that is always there away, and takes files', async () => {
  const s = await testShelf();
  try {
    const mine: Recipe = { ...LIGHT, name: 'Mine', words: '_m' };
    await keepRecipe(s.runtime, mine);
    await keepRecipe(s.runtime, { ...mine, words: '_n' });
    const own = async () => (await recipesView(s.runtime)).filter((r) => !r.ready);
    expect((await own()).map((r) => [r.recipe.name, r.recipe.words])).toEqual([['Mine', '_n']]);
    await expect(keepRecipe(s.runtime, { ...LIGHT, words: '_x' })).rejects.toThrow('always there');
    const file = RecipeFile.parse({
      format: 'sort-shelf-recipes',
      version: 1,
      recipes: [LIGHT, { ...mine, name: 'Theirs' }],
    });
    expect(await importRecipes(s.runtime, file)).toEqual({ added: 1 });
    await dropRecipe(s.runtime, (await own())[0]!.id);
    expect((await own()).map((r) => r.recipe.name)).toEqual(['Theirs']);
    await expect(dropRecipe(s.runtime, 'none')).rejects.toThrow('already been removed');
  } finally {
    await s.close();
  }
});

test('proxies of what needs one are begun by themselves once all is read, where the job says so; what a person cancelled is not begun again', async () => {
  const s = await testShelf();
  try {
    await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
    await saveSettings(s.runtime, { proxies: { ...DEFAULT_PROXIES, byItself: true } });
    makeClip(path.join(s.shelf, 'In', 'T0001.MP4'), { frames: 5 });
    makeClip(path.join(s.shelf, 'In', 'T0002.MOV'), {
      frames: 5,
      codec: ['-c:v', 'prores_ks', '-profile:v', 'proxy'],
    });
    const sound = ['-f', 'lavfi', '-i', 'sine=duration=1'];
    execFileSync(FFMPEG(), ['-v', 'error', ...sound, path.join(s.shelf, 'In', 'T0003.WAV')]);
    await takeInCard(s);
    const begun = async () => (await proxiesView(s.runtime)).work.map((w) => [w.clipName, w.state]);
    expect(await begun()).toEqual([['T0001', 'queued']]);
    const states = async () => (await proxiesView(s.runtime)).pairs.map((p) => [p.name, p.state]);
    // Light, and nothing to be seen: neither needs one.
    expect(await states()).toEqual([
      ['T0001', 'waiting'],
      ['T0002', 'none'],
      ['T0003', 'none'],
    ]);
    const [piece] = (await proxiesView(s.runtime)).work;
    await s.runtime.queue.cancel([piece!.id]);
    await makeByItself(s.runtime);
    expect(await begun()).toEqual([['T0001', 'cancelled']]);
    expect((await states())[0]).toEqual(['T0001', 'missing']);
    // A rewrap in the queue is no proxy to wait for.
    const { clip } = (await proxiesView(s.runtime)).clips[0]!;
    await addWork(s.runtime, 'proxy', [clip], { recipe: ready('Rewrap in MOV') });
    expect((await states())[0]).toEqual(['T0001', 'missing']);
    await saveSettings(s.runtime, { proxies: DEFAULT_PROXIES });
  } finally {
    await s.close();
  }
});

describe('a part of a clip that is not re-encoded', () => {
  let s: TestShelf;
  let ids: Map<string, string>;
  const made = async () =>
    (await s.runtime.db.select({ path: files.path, role: files.role, clip: files.clip }).from(files)).filter(
      (f) => f.role === 'rewrap',
    );
  const rewrap = async (name: string, part: { from: number; to: number }): Promise<string | null> => {
    const before = await made();
    await addWork(s.runtime, 'proxy', [ids.get(name)!], { recipe: ready('Rewrap in MOV'), part });
    await s.runtime.queue.drain();
    const [file] = (await made()).filter((f) => !before.some((b) => b.path === f.path));
    return file ? path.join(s.proxies, file.path) : null;
  };
  /** MD5 of each frame, by FFmpeg's framemd5. */
  const framesOf = (file: string, more: string[] = []) =>
    execFileSync(FFMPEG(), ['-v', 'error', '-i', file, '-map', '0:v:0', ...more, '-f', 'framemd5', '-'])
      .toString()
      .split('\n')
      .filter((l) => l !== '' && !l.startsWith('#'))
      .map((l) => l.split(',').at(-1)!.trim());
  const timecodeOf = (file: string) =>
    execFileSync(FFPROBE(), [
      ...['-v', 'error', '-select_streams', 'v:0', '-show_entries', 'stream_tags=timecode', '-of', 'csv=p=0'],
      file,
    ])
      .toString()
      .trim();
  const soundOf = (file: string, ...from: string[]) =>
    execFileSync(FFMPEG(), ['-v', 'error', ...from, '-i', file, '-map', '0:a:0', '-f', 's16le', '-'], {
      maxBuffer: 1 << 26,
    });
  const originalOf = (name: string) => path.join(s.shelf, 'In', name);
  const h264 = (...more: string[]) => [
    '-c:v',
    'libx264',
    '-pix_fmt',
    'yuv420p',
    '-sc_threshold',
    '0',
    ...more,
  ];
  beforeAll(async () => {
    s = await testShelf();
    await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
    const of = { frames: 90, rate: '30000/1001', start: '10:00:59;15', audio: [2] };
    makeClip(originalOf('T0001.MP4'), { ...of, codec: h264('-g', '15', '-keyint_min', '15', '-bf', '2') });
    makeClip(originalOf('T0002.MOV'), { ...of, codec: ['-c:v', 'prores_ks', '-profile:v', '0'] });
    makeClip(originalOf('T0003.MP4'), {
      ...of,
      codec: h264('-x264-params', 'open-gop=1:keyint=15:min-keyint=15:bframes=2:b-adapt=0'),
    });
    const mpeg2 = ['-c:v', 'mpeg2video', '-g', '12', '-bf', '0', '-sc_threshold', '1000000000', '-b:v', '8M'];
    makeClip(originalOf('T0004.MXF'), {
      ...of,
      rate: '25',
      start: '10:00:00:00',
      codec: [...mpeg2, '-ar', '48000'],
    });
    await takeInCard(s);
    await s.runtime.queue.drain();
    ids = new Map((await clipViews(s.runtime)).map((c) => [String(c.original), c.id]));
  });
  afterAll(() => s.close());

  test('is cut at the key frames around it; its frames decode to those of the original, and it is proven so', async () => {
    const at = (await rewrap('T0001', { from: 20, to: 40 }))!;
    expect(at).toContain('_rewrap_16-45.mov');
    expect(framesOf(at)).toEqual(framesOf(originalOf('T0001.MP4')).slice(15, 45));
    // Frame 15 from 10:00:59;15 is the first of the next minute, of which two numbers are dropped.
    expect(timecodeOf(at)).toBe('10:01:00;02');
    const [line] = (await proxiesView(s.runtime)).pairs.filter((p) => p.made);
    expect(line).toMatchObject({ state: 'proven', what: 'rewrap by “Rewrap in MOV, frames 16 to 45”' });
    expect(line!.checks.find((c) => c.what === 'decoded')).toMatchObject({
      result: 'same',
      proxy: expect.stringContaining('its picture'),
    });
    await provePairs(s.runtime, [ids.get('T0001')!]);
    expect((await proxiesView(s.runtime)).pairs.find((p) => p.made)).toMatchObject({ state: 'proven' });
  });

  test('to the end of the clip, and from its beginning', async () => {
    const last = (await rewrap('T0001', { from: 80, to: 90 }))!;
    expect(framesOf(last)).toEqual(framesOf(originalOf('T0001.MP4')).slice(75));
    const first = (await rewrap('T0001', { from: 0, to: 3 }))!;
    expect(framesOf(first)).toEqual(framesOf(originalOf('T0001.MP4')).slice(0, 15));
  });

  test('where each frame stands by itself it is cut at any; its sound begins with its picture, sample by sample', async () => {
    const at = (await rewrap('T0002', { from: 33, to: 53 }))!;
    expect(at).toContain('_34-53.mov');
    expect(framesOf(at)).toEqual(framesOf(originalOf('T0002.MOV')).slice(33, 53));
    const from = (33 * 1001) / 30_000;
    const [sound, original] = [soundOf(at), soundOf(originalOf('T0002.MOV'), '-ss', from.toFixed(6))];
    // Twenty frames, but for the packet it ends in.
    const bytes = (20 * 1001 * 44_100 * 4) / 30_000;
    expect(Math.abs(sound.length - bytes)).toBeLessThan(2048 * 4);
    expect(sound.equals(original.subarray(0, sound.length))).toBe(true);
  });

  test('of MXF of long groups this FFmpeg cuts the first frame short: what is made does not match, and is thrown away', async () => {
    expect(await rewrap('T0004', { from: 30, to: 40 })).toBeNull();
    const [fault] = (await proxiesView(s.runtime)).work.flatMap((w) => w.fault ?? []);
    expect(fault).toContain('does not match and was thrown away: frame rate');
    expect(readdirSync(path.join(s.proxies, '.sort-shelf/making'))).toEqual([]);
  });

  test('where frames need others across each key frame none can be cut: that is said, and what would do', async () => {
    expect(await rewrap('T0003', { from: 20, to: 40 })).toBeNull();
    const fault = (await proxiesView(s.runtime)).work.flatMap((w) => w.fault ?? []).at(-1);
    expect(fault).toContain('no frame around the part at which it can be cut');
    expect(fault).toContain('A transcode is cut at any frame');
  });
});

describe('a part of a clip', () => {
  let s: TestShelf;
  let clip: string;
  const part = { from: 20, to: 45 };
  const lines = async () => (await proxiesView(s.runtime)).pairs.filter((p) => p.made);
  beforeAll(async () => {
    s = await testShelf();
    await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
    makeClip(path.join(s.shelf, 'In', 'T0001.MP4'), {
      frames: 60,
      rate: '30000/1001',
      start: '10:00:59;15',
      codec: ['-c:v', 'libx264', '-g', '30', '-bf', '2', '-pix_fmt', 'yuv420p'],
    });
    await takeInCard(s);
    await s.runtime.queue.drain();
    clip = (await clipViews(s.runtime))[0]!.id;
  });
  afterAll(() => s.close());

  test('is made, frame by frame as the original has it, with its own timecode across a dropped minute; it is no proxy', async () => {
    const recipe = ready('ProRes LT in MOV, same size');
    await addWork(s.runtime, 'proxy', [clip], { recipe, part });
    await s.runtime.queue.drain();
    const [line] = await lines();
    expect(line).toMatchObject({
      state: 'proven',
      what: 'transcode by “ProRes LT in MOV, same size, frames 21 to 45”',
    });
    const [file] = (await s.runtime.db.select().from(files)).filter((f) => f.role === 'transcode');
    const at = path.join(s.proxies, file!.path);
    expect(at).toContain('_edit_21-45.mov');
    // Frame 20 from 10:00:59;15 is fifteen frames to the minute and five on, of which two numbers are dropped.
    const told = execFileSync(FFPROBE(), [
      ...[
        '-v',
        'error',
        '-count_frames',
        '-show_entries',
        'stream=nb_read_frames:stream_tags=timecode',
        '-of',
        'csv=p=0',
        at,
      ],
    ]).toString();
    expect(told).toContain('10:01:00;07');
    expect(told).toMatch(/^25\b/m);
    // Every frame against the same one of the original: SSIM of FFmpeg.
    const stats = execFileSync('sh', [
      '-c',
      '"$0" -v info -i "$1" -i "$2" -lavfi "[0:v]trim=start_frame=20:end_frame=45,setpts=N/TB/30,scale=320:180[a];[1:v]setpts=N/TB/30,scale=320:180[b];[a][b]ssim" -f null - 2>&1',
      FFMPEG(),
      path.join(s.shelf, 'In', 'T0001.MP4'),
      at,
    ]).toString();
    expect(Number(/All:([\d.]+)/.exec(stats)![1])).toBeGreaterThan(0.95);
    expect((await proxiesView(s.runtime)).clips[0]).toMatchObject({ needed: true });
  });

  test('is proven again as that part; another part stands beside it', async () => {
    await provePairs(s.runtime, [clip]);
    expect((await lines())[0]).toMatchObject({ state: 'proven' });
    const file = (await lines())[0]!.file!;
    await expect(actOnPair(s.runtime, { action: 'stands', file })).rejects.toThrow(
      'does not stand for all of it',
    );
    expect((await lines())[0]).toMatchObject({ stands: false });
    await addWork(s.runtime, 'proxy', [clip], {
      recipe: ready('ProRes LT in MOV, same size'),
      part: { from: 0, to: 10 },
    });
    await addWork(s.runtime, 'proxy', [clip], {
      recipe: ready('ProRes LT in MOV, same size'),
      part: { from: 50, to: 61 },
    });
    await s.runtime.queue.drain();
    expect((await lines()).map((l) => [l.state, l.what])).toEqual([
      ['proven', expect.stringContaining('frames 1 to 10')],
      ['proven', expect.stringContaining('frames 21 to 45')],
    ]);
    expect((await proxiesView(s.runtime)).work.flatMap((w) => w.fault ?? [])).toEqual([
      expect.stringContaining('has 60 frames; the part ends after 61'),
    ]);
  });
});
