import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { eq } from 'drizzle-orm';
import { execFileSync } from 'node:child_process';
import { realpathSync } from 'node:fs';
import path from 'node:path';
import { READY_RECIPES, type Recipe } from '../../core/proxies/recipe';
import type { PairLine } from '../../core/proxies/shapes';
import { addWork, clipViews } from '../../server/cards';
import { files } from '../../server/cards/tables';
import { look } from '../../server/intake/look';
import { takeIn } from '../../server/intake/takeIn';
import { beginJob } from '../../server/jobs/jobs';
import { addRoot } from '../../server/places/roots';
import { FFMPEG, FFPROBE } from '../../server/platform/media/tools';
import { proxiesView } from '../../server/proxies';
import { TEST_JOB, type TestShelf, testShelf } from '../../server/testing/media';

// Every recipe that is always there, of a clip of every camera of the demonstration, through the application. What came of each is asked
// of ffprobe, FFmpeg and MediaInfo, not of our own readers.

const footage = process.env.SORT_SHELF_FOOTAGE;
if (!footage) throw new Error('run the unit tests by npm run unit: it makes the demo footage first');

/** Clips of every camera, by their card: name and path below the footage. */
const CARDS = {
  A001: { camera: 'A', at: 'offloaded/Day 1/A001' },
  B001: { camera: 'B', at: 'offloaded/Day 1/B001' },
  C001: { camera: 'C', at: 'drawer/C001' },
  D001: { camera: 'D', at: 'drawer/D001' },
} as const;
const CLIPS: readonly [name: string, card: keyof typeof CARDS, path: string][] = [
  ['HEVC 4:2:2 10 bit in MOV, four channels, a CDL', 'A001', 'A001_C001/A001_C001.MOV'],
  ['VC-3 10 bit in MXF', 'A001', 'A001_C003/A001_C003.MXF'],
  ['H.264 in MP4 at 25', 'B001', 'CLIP/T0001.MP4'],
  ['HEVC in MP4 at 100', 'B001', 'CLIP/T0008.MP4'],
  ['H.264 at 50', 'C001', 'DCIM/100SKRRY/SKRY0004.MP4'],
  ['29.97 drop-frame, no sound', 'D001', 'DCIM/101WHIMB/WHIM0031.MP4'],
];

interface Stream {
  codec_type: string;
  codec_name: string;
  profile?: string;
  pix_fmt?: string;
  width: number;
  height: number;
  channels: number;
  sample_aspect_ratio?: string;
  avg_frame_rate: string;
  nb_read_packets: string;
  color_range?: string;
  color_primaries?: string;
  color_transfer?: string;
  color_space?: string;
  tags?: Record<string, string>;
}

/** What ffprobe says of a file. */
function probed(file: string) {
  const { streams, format } = JSON.parse(
    execFileSync(
      FFPROBE(),
      ['-v', 'error', '-count_packets', '-show_streams', '-show_format', '-of', 'json', file],
      { encoding: 'utf8' },
    ),
  ) as { streams: Stream[]; format: { tags?: Record<string, string> } };
  const tag = (name: string) =>
    streams.map((x) => x.tags?.[name]).find((t) => t !== undefined) ?? format.tags?.[name];
  const video = streams.find((x) => x.codec_type === 'video')!;
  const sound = streams.filter((x) => x.codec_type === 'audio');
  return {
    video,
    sound: sound.map((x) => x.codec_name),
    channels: sound.reduce((n, x) => n + x.channels, 0),
    format: format.tags ?? {},
    timecode: tag('timecode'),
    reel: tag('reel_name'),
  };
}

const ffmpeg = (...args: string[]): string =>
  execFileSync(FFMPEG(), ['-v', 'error', ...args, '-'], { encoding: 'utf8', maxBuffer: 1 << 26 });
/** A hash of each frame as FFmpeg decodes it (FFmpeg's framemd5), and of each stream of sound, which containers cut otherwise. */
const decoded = (file: string): string[] => [
  ...ffmpeg('-i', file, '-map', '0:v:0', '-f', 'framemd5')
    .split('\n')
    .filter((l) => l !== '' && !l.startsWith('#'))
    .map((l) => l.split(',').at(-1)!.trim()),
  ...(probed(file).channels === 0
    ? []
    : ffmpeg('-i', file, '-map', '0:a', '-c:a', 'pcm_s32le', '-f', 'streamhash').split('\n')),
];

/** The mean of the first picture's luma in limited range, by FFmpeg's signalstats. */
const luma = (file: string): number =>
  Number(
    /YAVG=([\d.]+)/.exec(
      ffmpeg(
        ...['-i', file, '-frames:v', '1', '-vf'],
        'scale=320:180:out_range=limited,format=yuv420p,signalstats,metadata=print:file=-',
        ...['-f', 'null'],
      ),
    )![1],
  );

/** One that would have the name of another gets words of its own. */
const asMade = (recipe: Recipe): Recipe =>
  recipe.video.codec === 'mjpeg' ? { ...recipe, words: '_quarter' } : recipe;

/**
 * All of every clip in the long run (`npm run soak proxies`); in the short one the first recipe of every clip, and every other recipe of
 * one clip.
 */
const isAsked = (clip: number, recipe: Recipe): boolean => {
  const at = READY_RECIPES.indexOf(recipe);
  return process.env.SORT_SHELF_RECIPES === 'all' || at === 0 || clip === (at * 5) % CLIPS.length;
};
const asked = (recipe: Recipe) => CLIPS.filter((_, i) => isAsked(i, recipe));

let s: TestShelf;
/** By clip and recipe. */
const made = new Map<string, { line: PairLine; file: string }>();
const madeOf = (clip: string, recipe: Recipe) => made.get(`${clip}\0${recipe.name}`);
const originalOf = (card: keyof typeof CARDS, at: string): string => path.join(footage, CARDS[card].at, at);

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  for (const [card, { camera, at }] of Object.entries(CARDS)) {
    const { id: root } = await addRoot(s.runtime, {
      kind: 'source',
      path: realpathSync(path.join(footage, at)),
    });
    const found = await look(s.runtime, root, '');
    await takeIn(s.runtime, {
      root,
      path: '',
      cards: [{ folder: found.cards[0]!.folder, camera, cardId: card, day: 1, date: null }],
    });
  }
  await s.runtime.queue.drainKind('read');
  await s.runtime.queue.drainKind('rest');
  const views = await clipViews(s.runtime);
  const ids = CLIPS.map(
    ([, card, at]) =>
      views.find((v) => v.card === card && v.original === path.basename(at, path.extname(at)))!.id,
  );
  for (const [i, id] of ids.entries())
    for (const recipe of READY_RECIPES.filter((r) => isAsked(i, r)))
      await addWork(s.runtime, 'proxy', [id], { recipe: asMade(recipe) });
  await s.runtime.queue.drainKind('proxy');
  const { pairs } = await proxiesView(s.runtime);
  for (const [i, [name]] of CLIPS.entries())
    for (const recipe of READY_RECIPES) {
      const line = pairs.find((p) => p.clip === ids[i] && p.what.includes(`“${recipe.name}”`));
      if (!line) continue;
      const [row] = await s.runtime.db.select().from(files).where(eq(files.id, line.file!));
      made.set(`${name}\0${recipe.name}`, { line, file: path.join(s.proxies, row!.path) });
    }
}, 1_200_000);
afterAll(() => s.close());

/** Picture, profile, form of pixels and sound of what each recipe makes, as ffprobe names them. */
const MAKES: Record<
  string,
  [codec: string, profile: string | null, pixels: string | null, sound: string | null]
> = {
  'H.264 in MP4, fits in 960×540': ['h264', 'High', 'yuv420p', 'aac'],
  'ProRes proxy in MOV, half size': ['prores', 'Proxy', 'yuv422p10le', 'pcm_s24le'],
  'VC-3 low bandwidth in MXF, half size': ['dnxhd', 'DNXHR LB', 'yuv422p', 'pcm_s24le'],
  'Motion JPEG in MOV, quarter size': ['mjpeg', 'Baseline', 'yuv422p', 'pcm_s24le'],
  'For viewing, with name and timecode': ['h264', 'High', 'yuv420p', 'aac'],
  'ProRes LT in MOV, same size': ['prores', 'LT', 'yuv422p10le', 'pcm_s24le'],
  'VC-3 high quality, 10 bit, in MXF, same size': ['dnxhd', 'DNXHR HQX', 'yuv422p10le', 'pcm_s24le'],
};
const SIDES: Record<string, (side: number) => number> = {
  half: (n) => n / 2,
  quarter: (n) => n / 4,
  same: (n) => n,
};

describe.each(READY_RECIPES.filter((r) => r.purpose !== 'rewrap').map((r) => [r.name, r] as const))(
  '%s',
  (_, recipe) => {
    test.each(asked(recipe))('%s', (name, card, at) => {
      const { line, file } = madeOf(name, recipe)!;
      const [from, to] = [probed(originalOf(card, at)), probed(file)];
      expect([line.state, line.reason]).toEqual(
        from.timecode === undefined ? ['unproven', expect.anything()] : ['proven', ''],
      );
      const [codec, profile, pixels, sound] = MAKES[recipe.name]!;
      // FFmpeg's name for full range in the form of its pixels is an old one.
      expect([to.video.codec_name, to.video.profile, to.video.pix_fmt?.replace(/^yuvj/, 'yuv')]).toEqual([
        codec,
        profile,
        pixels,
      ]);
      expect(new Set(to.sound)).toEqual(new Set(from.channels === 0 ? [] : [sound]));
      expect(to.channels).toBe(Math.min(from.channels, recipe.audio.channels?.length ?? from.channels));
      expect([to.video.nb_read_packets, to.video.avg_frame_rate]).toEqual([
        from.video.nb_read_packets,
        from.video.avg_frame_rate,
      ]);
      expect(to.timecode).toBe(from.timecode);
      const { size } = recipe;
      const k = SIDES[size.fit];
      expect([to.video.width, to.video.height]).toEqual(
        k ? [k(from.video.width), k(from.video.height)] : size.fit === 'box' ? [size.width, size.height] : [],
      );
      // Range and colour tags as the original has them; Motion JPEG is full and ProRes limited, whatever they are made of.
      const range =
        { mjpeg: 'pc', prores: 'tv' }[recipe.video.codec as string] ?? from.video.color_range ?? 'tv';
      expect(to.video.color_range ?? 'tv').toBe(range);
      for (const tag of ['color_primaries', 'color_transfer', 'color_space'] as const)
        if (from.video[tag] !== undefined && recipe.container !== 'mxf' && recipe.video.codec !== 'mjpeg')
          expect([tag, to.video[tag]]).toEqual([tag, from.video[tag]]);
    });
  },
);

describe.each(READY_RECIPES.filter((r) => r.purpose === 'rewrap').map((r) => [r.name, r] as const))(
  '%s',
  (_, recipe) => {
    test.each(asked(recipe))('%s', (name, card, at) => {
      const from = originalOf(card, at);
      const rewrapped = madeOf(name, recipe);
      // MP4 takes no sound without compression: that is said, and nothing is left behind.
      if (recipe.container === 'mp4' && probed(from).sound.some((codec) => codec.startsWith('pcm'))) {
        expect(rewrapped).toBeUndefined();
        return;
      }
      const { line, file } = rewrapped!;
      expect([line.state, line.reason]).toEqual(['proven', '']);
      expect(line.checks.at(-1)).toMatchObject({ what: 'decoded', result: 'same' });
      expect(decoded(file)).toEqual(decoded(from));
      expect(decoded(file).length).toBeGreaterThan(40);
      expect(probed(file).timecode).toBe(probed(from).timecode);
    });
  },
);

describe('beside picture and sound', () => {
  const [clip] = CLIPS[0]!;

  test('reel, the camera’s name, maker, model and recorded date are carried across', () => {
    const { file } = madeOf(clip, READY_RECIPES[0]!)!;
    const { format, reel } = probed(file);
    expect(format).toMatchObject({ title: 'A001_C001', make: 'Corvane', model: 'Corvane C8' });
    expect(format.creation_time).toContain('2026-05-05T');
    expect(reel).toBe('A001');
    for (const recipe of READY_RECIPES.filter((r) => isAsked(0, r)))
      if (recipe.video.codec !== 'copy' || recipe.container === 'mov')
        expect(probed(madeOf(clip, recipe)!.file).reel).toBe('A001');
  });

  test('MediaInfo, which shares no code with ffprobe, finds frames, rate, timecode and channels too', () => {
    const { file } = madeOf(clip, READY_RECIPES[0]!)!;
    const { media } = JSON.parse(
      execFileSync('mediainfo', ['--Output=JSON', file], { encoding: 'utf8' }),
    ) as { media: { track: Record<string, string>[] } };
    const of = (type: string) => media.track.filter((t) => t['@type'] === type);
    expect(of('Video')).toMatchObject([
      { Format: 'AVC', FrameCount: '75', FrameRate: '25.000', BitDepth: '8' },
    ]);
    expect(of('Audio').map((t) => [t.Format, t.Channels])).toEqual(Array(4).fill(['AAC', '1']));
    expect(of('Other').map((t) => t.TimeCode_FirstFrame)).toEqual(['07:48:10:00']);
  });
});

describe('levels', () => {
  test.each(CLIPS.map(([name, card, at]) => [name, card, at] as const))(
    'a proxy is as bright as its original: %s',
    (name, card, at) => {
      const before = luma(originalOf(card, at));
      expect(before).toBeGreaterThan(20);
      expect(Math.abs(luma(madeOf(name, READY_RECIPES[0]!)!.file) - before)).toBeLessThan(1.5);
    },
  );
});
