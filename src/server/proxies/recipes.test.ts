import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { eq } from 'drizzle-orm';
import { execFileSync } from 'node:child_process';
import {
  appendFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { namingRequest } from '../../core/naming/shapes';
import { DEFAULT_PROXIES } from '../../core/proxies';
import { LIGHT, READY_RECIPES, type Recipe, RecipeFile } from '../../core/proxies/recipe';
import { addWork, clipViews } from '../cards';
import { files } from '../cards/tables';
import { look } from '../intake/look';
import { scanClips } from '../intake/scanClips';
import { takeIn } from '../intake/takeIn';
import { saveSettings } from '../jobs/job';
import { beginJob } from '../jobs/jobs';
import { applyNaming, undoPlan } from '../naming';
import { planNaming } from '../naming/naming';
import { addRoot } from '../places';
import { FFMPEG, FFPROBE } from '../platform/media/tools';
import { alone } from '../platform/work/context';
import { work } from '../platform/work/tables';
import { hashTree, makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { plainSource } from '../testing/plainSource';
import { takeInCard } from '../testing/takeInCard';
import { actOnPair } from './actOnPair';
import { dropRecipe, importRecipes, keepRecipe, recipesView } from './library';
import { makeOneProxy, makingStills } from './makeProxies';
import { provePairs } from './provePairs';
import { pairs } from './tables';
import { makeProxy } from './proxy';
import { trialLimits, tryRecipe } from './tryRecipe';
import { makeByItself } from './byItself';
import { proxiesNext } from './proxiesNext';
import { proxiesView } from './views';
import { watchPairs } from './watchPairs';

let dir: string;
beforeAll(() => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-recipes-'));
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));

const ready = (words: string): Recipe => READY_RECIPES.find((r) => r.name.startsWith(words))!;

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

  describe('FFmpeg is another’s', () => {
    const was = process.env.FFMPEG_PATH;
    /** A program in FFmpeg's place: a shell script that calls the true one `real`. */
    const stub = (lines: string) => {
      const at = path.join(dir, 'ffmpeg-stub');
      writeFileSync(at, `#!/bin/sh\nreal() { '${was ?? 'ffmpeg'}' "$@"; }\n${lines}\n`, { mode: 0o755 });
      process.env.FFMPEG_PATH = at;
    };
    const limit = trialLimits.milliseconds;
    const niceWas = process.env.SORT_SHELF_NICE;
    afterAll(() => {
      if (niceWas === undefined) delete process.env.SORT_SHELF_NICE;
      else process.env.SORT_SHELF_NICE = niceWas;
      trialLimits.milliseconds = limit;
      if (was === undefined) delete process.env.FFMPEG_PATH;
      else process.env.FFMPEG_PATH = was;
    });

    test('a recipe that is tried is waited for: it does not go behind other work, as a proxy does', async () => {
      const log = path.join(dir, 'niceness');
      // Also where it looks for the first frame of the part.
      stub(`case "$*" in *progress*) nice >> '${log}';; esac\nreal "$@"`);
      const { made, frame } = await tryRecipe(s.runtime, { clip, recipe: LIGHT });
      expect([made.length > 1000, frame]).toEqual([true, 10]);
      const behind = async (nice: string) => {
        process.env.SORT_SHELF_NICE = nice;
        await makeProxy(
          [path.join(s.shelf, 'In', 'T0001.MP4')],
          path.join(dir, `behind ${nice}.mp4`),
          LIGHT,
          { ...plainSource, frames: 20 },
          {
            signal: new AbortController().signal,
            onProgress: () => undefined,
          },
        );
      };
      for (const nice of ['', '3', 'most']) await behind(nice);
      const [trial, ...others] = readFileSync(log, 'utf8').trim().split('\n').map(Number);
      expect(others.map((n) => n - trial!)).toEqual([0, 10, 3, 10]);
    });

    test('one that takes too long is ended: how far it came is said, and nothing of it stays', async () => {
      stub(
        'case "$*" in *framehash*) real "$@";; *progress*) echo frame=7; exec sleep 60;; *) real "$@";; esac',
      );
      trialLimits.milliseconds = 1500;
      await expect(tryRecipe(s.runtime, { clip, recipe: LIGHT })).rejects.toMatchObject({
        title: 'Interrupted',
        message: 'Trying the recipe took too long: in 1.5 s only 7 of 20 frames were made.',
        about: { next: expect.stringContaining('less to do') as unknown },
      });
      expect(hashTree(makingStills(s.runtime))).toEqual({});
    });
  });

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
    // A server that is killed when a file has its name, and its piece of work is not ended yet, finds both at the next start.
    const kept = hashTree(s.proxies);
    const [first] = await s.runtime.db
      .select()
      .from(work)
      .where(eq(work.kind, 'proxy'))
      .orderBy(work.queuedAt);
    const again = (attempt: number) =>
      makeOneProxy(s.runtime, {
        ...{ ...alone(), id: first!.id, subject: clip, wanted: null, attempt },
        signal: new AbortController().signal,
      });
    expect(await again(2)).toEqual({ result: first!.result });
    await expect(again(1)).rejects.toThrow('already');
    // What is lost, or was made by another recipe of that name, is not what was asked for.
    const pair = (await s.runtime.db.select().from(pairs).where(eq(pairs.clip, clip))).find(
      (p) => p.recipe?.name === LIGHT.name,
    );
    const isFirst = eq(pairs.file, pair!.file);
    const finer = { ...LIGHT, video: { codec: 'h264' as const, quality: 18, bitRate: null } };
    for (const other of [{ state: 'lost' as const }, { recipe: finer }]) {
      await s.runtime.db.update(pairs).set(other).where(isFirst);
      await expect(again(2)).rejects.toThrow('already');
      await s.runtime.db.update(pairs).set(pair!).where(isFirst);
    }
    expect(hashTree(s.proxies)).toEqual(kept);
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

  test('one is not taken for gone while only the folder that its drive was mounted at is there', async () => {
    const line = (await lines()).find((l) => l.what.includes(LIGHT.name))!;
    const mine = eq(files.id, line.file!);
    const [before] = await s.runtime.db.select().from(files).where(mine);
    const drive = mkdtempSync(path.join(tmpdir(), 'shelf-drive-'));
    try {
      const { id } = await addRoot(s.runtime, { kind: 'shelf', path: drive });
      await s.runtime.db.update(files).set({ root: id, path: 'T0001.mp4' }).where(mine);
      rmSync(drive, { recursive: true });
      mkdirSync(drive);
      await expect(actOnPair(s.runtime, { action: 'remove', file: line.file! })).rejects.toThrow(
        'is not here',
      );
      expect(await s.runtime.db.select({ root: files.root }).from(files).where(mine)).toEqual([{ root: id }]);
    } finally {
      await s.runtime.db.update(files).set(before!).where(mine);
      rmSync(drive, { recursive: true });
    }
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

test('a clip of which a rewrap was made gets its proxy all the same', async () => {
  const s = await testShelf();
  try {
    await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
    makeClip(path.join(s.shelf, 'In', 'T0001.MP4'), { frames: 5 });
    await takeInCard(s);
    const [clip] = await clipViews(s.runtime);
    await addWork(s.runtime, 'proxy', [clip!.id], { recipe: ready('Rewrap in MOV') });
    await s.runtime.queue.drainKind('proxy');
    await saveSettings(s.runtime, { proxies: { ...DEFAULT_PROXIES, byItself: true } });
    const begun = async () => (await proxiesView(s.runtime)).work.map((w) => w.state).sort();
    for (const begin of [() => proxiesNext(s.runtime, [clip!.id]), () => makeByItself(s.runtime)]) {
      await begin();
      expect(await begun()).toEqual(['done', 'queued']);
      await s.runtime.db.delete(work).where(eq(work.state, 'queued'));
    }
  } finally {
    await s.close();
  }
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
