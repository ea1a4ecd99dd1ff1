import { describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, realpathSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { recognise } from '../../core/intake/recognise';
import { chooseFacts, count, rateOf, startOf, text } from '../../core/facts/facts';
import { formatTimecode } from '../../core/platform/timecode/timecode';
import { fps } from '../../core/platform/timecode/rate';
import { walk } from '../../server/platform/files/walk';
import { testShelf, TEST_JOB } from '../../server/testing/media';
import { beginJob } from '../../server/jobs/jobs';
import { look } from '../../server/intake/look';
import { addRoot } from '../../server/places/roots';
import { takeIn } from '../../server/intake/takeIn';
import { readStatements } from '../../server/reading/readFamily';
import { makeClip } from './generate';
import { CARDS, DRAWER } from './scenario';

const home = process.env.SORT_SHELF_FOOTAGE;
if (!home) throw new Error('run the unit tests by npm run unit: it makes the demo footage first');

interface MediaInfoTrack {
  '@type': string;
  Format?: string;
  Width?: string;
  Height?: string;
  FrameRate?: string;
  FrameCount?: string;
  BitDepth?: string;
  ChromaSubsampling?: string;
  Channels?: string;
  TimeCode_FirstFrame?: string;
  colour_range?: string;
  Delay?: string;
  Encoded_Date?: string;
}

/** What MediaInfo (Debian's package), a reader that shares no code with ffprobe, says of a file. */
function mediaInfo(file: string): MediaInfoTrack[] {
  const out = JSON.parse(
    execFileSync('mediainfo', ['--Output=JSON', file], { encoding: 'utf8', maxBuffer: 1 << 26 }),
  ) as { media: { track: MediaInfoTrack[] } };
  return out.media.track;
}

const FORMATS: Record<string, string> = { AVC: 'H.264', HEVC: 'HEVC', 'VC-3': 'VC-3' };

const footage = path.join(home, 'offloaded');
const drawer = path.join(home, 'drawer');

describe.each([
  ...CARDS.map((c) => [c.id, c, footage] as const),
  ...DRAWER.filter((c) => c.clips.length > 0).map((c) => [c.id, c, drawer] as const),
])('card %s', (_, card, at) => {
  test.each(card.clips.filter((c) => c.whole === 1).map((c) => [c.name, c] as const))(
    '%s: every fact is what MediaInfo says too, and what was recorded',
    async (__, clip) => {
      const file = path.join(at, card.folder, clip.path);
      const s = statSync(file);
      const family = [
        { role: 'original' as const, file, size: s.size, modified: s.mtimeMs },
        ...(clip.sidecarPath
          ? [
              {
                role: 'sidecar' as const,
                file: path.join(at, card.folder, clip.sidecarPath),
                size: 500,
                modified: 0,
              },
            ]
          : []),
      ];
      const { statements, fault } = await readStatements(
        { kind: 'video', files: family },
        { zoneMinutes: 0, stillsRate: 25 },
      );
      expect(fault).toBeNull();
      const facts = chooseFacts(statements);
      const tracks = mediaInfo(file);
      const video = tracks.find((t) => t['@type'] === 'Video')!;
      expect(FORMATS[video.Format!]).toBe(text(facts, 'codec'));
      expect([video.Width, video.Height, video.BitDepth, video.ChromaSubsampling].map(String)).toEqual(
        [count(facts, 'width'), count(facts, 'height'), count(facts, 'bitDepth'), text(facts, 'chroma')].map(
          String,
        ),
      );
      expect(Number(video.FrameRate)).toBeCloseTo(fps(rateOf(facts)!), 2);
      expect(Number(video.FrameCount)).toBe(count(facts, 'frames'));
      expect(count(facts, 'frames')).toBe(clip.frames);
      expect(tracks.filter((t) => t['@type'] === 'Audio').reduce((n, t) => n + Number(t.Channels), 0)).toBe(
        count(facts, 'channels'),
      );
      const theirs = tracks.map((t) => t.TimeCode_FirstFrame).find((t) => t !== undefined);
      expect(theirs).toBe(clip.timecodeLost ? '00:00:00:00' : formatTimecode(clip.start));
      // Where the rewrap lost the timecode, MediaInfo reads the zero that is in the file; the sidecar knows better.
      expect(formatTimecode(startOf(facts)!)).toBe(formatTimecode(clip.start));
      expect(facts.get('recordedAt')!.chosen.value).toMatchObject({ moment: { local: clip.recordedAt } });
    },
  );
});

test('the cards are recognised for what they are, gap and doubled extension included', async () => {
  const { entries } = await walk(footage);
  const { cards } = recognise(entries);
  expect(cards.map((c) => [c.folder, c.shape.id, c.families.length, c.proxySuffix])).toEqual([
    ['Day 1/A001', 'folder-per-clip', 4, null],
    ['Day 1/B001', 'clip-and-sub', 11, '_px'],
    ['Day 2/B002', 'clip-and-sub', 10, '_px'],
  ]);
  const doubled = cards[2]!.families
    .find((f) => f.stem === 'T0003')!
    .files.find((f) => f.role === 'cameraProxy')!;
  expect(doubled).toMatchObject({ path: 'SUB/T0003_px.MP4.MP4', suffix: '_px' });
});

test.each(DRAWER.flatMap((c) => c.sounds.map((r) => [r.name, c, r] as const)))(
  '%s: a Broadcast Wave file whose time reference MediaInfo reads too',
  async (_, card, sound) => {
    const file = path.join(drawer, card.folder, sound.path);
    const { statements, fault, audio } = await readStatements(
      { kind: 'sound', files: [{ role: 'original', file, size: statSync(file).size, modified: 0 }] },
      { zoneMinutes: 0, stillsRate: 25 },
    );
    expect(fault).toBeNull();
    const facts = chooseFacts(statements);
    expect(audio).toEqual([sound.channels]);
    expect(facts.get('recordedAt')!.chosen.value).toMatchObject({ moment: { local: sound.recordedAt } });
    const general = mediaInfo(file).find((t) => t['@type'] === 'General')!;
    const theirs = mediaInfo(file).find((t) => t['@type'] === 'Audio')!;
    expect(theirs.Channels).toBe(String(sound.channels));
    expect([Number(theirs.Delay), general.Encoded_Date]).toEqual([
      sound.startSeconds,
      sound.recordedAt.replace('T', ' '),
    ]);
  },
);

test('the cards of the drawer are recognised: segments, chapters, a time-lapse with one missing, the twin', async () => {
  const s = await testShelf();
  try {
    await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
    const root = await addRoot(s.runtime, { kind: 'source', path: realpathSync(drawer) });
    const offloaded = await addRoot(s.runtime, {
      kind: 'source',
      path: realpathSync(path.join(footage, 'Day 1')),
    });
    await takeIn(s.runtime, {
      root: offloaded.id,
      path: 'B001',
      cards: [{ folder: '', camera: 'B', cardId: 'B001', day: 1, date: '2026-05-05' }],
    });
    const looked = await look(s.runtime, root.id, '');
    expect(looked.cards.map((c) => [c.folder, c.shape.id, c.clips.length])).toEqual([
      ['A002', 'folder-per-clip', 3],
      ['B003', 'clip-and-sub', 5],
      ['C001', 'dcf', 2],
      ['D001', 'dcf', 4],
      ['S001', 'sound-folder', 2],
      ['S002', 'sound-folder', 2],
      ['S003', 'sound-folder', 1],
      ['UNTITLED', 'clip-and-sub', 11],
    ]);
    const clip = (card: string, stem: string) =>
      looked.cards.find((c) => c.folder === card)!.clips.find((c) => c.stem === stem)!;
    expect(clip('A002', 'A002_C001').files.map((f) => f.role)).toEqual([
      'original',
      'segment',
      'segment',
      'look',
    ]);
    expect(looked.cards[0]!.aside).toMatchObject([
      { path: 'A002_C003/A002_C003.MOV', reason: expect.stringContaining('cut short') },
    ]);
    expect(looked.cards[1]!.gaps).toMatchObject([{ from: 'T0004', to: 'T0004' }]);
    expect(clip('C001', 'SKRY0001').files.map((f) => f.path.slice(-12))).toEqual([
      'SKRY0001.MP4',
      'SKRY0002.MP4',
      'SKRY0003.MP4',
      'SKRY0001.THM',
      'SKRY0002.THM',
      'SKRY0003.THM',
    ]);
    expect(looked.cards[2]!.gaps).toEqual([]);
    expect(clip('D001', 'WHIM0101')).toMatchObject({ kind: 'stills', missing: ['WHIM0112'] });
    expect(clip('D001', 'WHIM0101').files).toHaveLength(23);
    expect(clip('D001', 'WHIM0031').files.map((f) => f.role)).toEqual(['original', 'sidecar']);
    expect(looked.cards.at(-1)!.same).toEqual({ card: 'B001', clips: 11, of: 11 });
    const single = await look(s.runtime, root.id, 'D001', ['DCIM/101WHIMB/WHIM0101.JPG']);
    expect(single.cards[0]!.clips.filter((c) => c.kind === 'still')).toHaveLength(23);
  } finally {
    await s.close();
  }
});

test('a clip is the same every time it is made', async () => {
  const dir = mkdtempSync(path.join(tmpdir(), 'shelf-demo-'));
  try {
    const card = CARDS[1]!;
    const clip = card.clips.find((c) => c.name === 'T0008')!;
    const hash = async (folder: string) => {
      await makeClip(process.env.FFMPEG_PATH ?? 'ffmpeg', folder, card, clip, card.clips.indexOf(clip));
      return createHash('sha256')
        .update(readFileSync(path.join(folder, clip.path)))
        .digest('hex');
    };
    const made = createHash('sha256')
      .update(readFileSync(path.join(footage, card.folder, clip.path)))
      .digest('hex');
    expect(await hash(path.join(dir, 'again'))).toBe(made);
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
});
