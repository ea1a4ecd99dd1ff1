import { describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { recognise } from '../core/cards/recognise';
import { chooseFacts, count, rateOf, startOf, text } from '../core/facts/facts';
import { formatTimecode } from '../core/timecode/timecode';
import { fps } from '../core/timecode/rate';
import { walk } from '../server/files/walk';
import { readStatements } from '../server/usecases/readClip';
import { makeClip } from './generate';
import { CARDS } from './scenario';

const footage = process.env.SORT_SHELF_FOOTAGE;
if (!footage) throw new Error('run the unit tests by npm run unit: it makes the demo footage first');

interface MediaInfoTrack { '@type': string; Format?: string; Width?: string; Height?: string; FrameRate?: string; FrameCount?: string; BitDepth?: string; ChromaSubsampling?: string; Channels?: string; TimeCode_FirstFrame?: string; colour_range?: string }

/** What MediaInfo (Debian's package), a reader that shares no code with ffprobe, says of a file. */
function mediaInfo(file: string): MediaInfoTrack[] {
  const out = JSON.parse(execFileSync('mediainfo', ['--Output=JSON', file], { encoding: 'utf8', maxBuffer: 1 << 26 })) as { media: { track: MediaInfoTrack[] } };
  return out.media.track;
}

const FORMATS: Record<string, string> = { AVC: 'H.264', HEVC: 'HEVC', 'VC-3': 'VC-3' };

describe.each(CARDS.map((c) => [c.id, c] as const))('card %s', (_, card) => {
  test.each(card.clips.map((c) => [c.name, c] as const))('%s: every fact is what MediaInfo says too, and what was recorded', async (__, clip) => {
    const file = path.join(footage, card.folder, clip.path);
    const s = statSync(file);
    const family = [{ role: 'original' as const, file, size: s.size, modified: s.mtimeMs }, ...(clip.sidecarPath
      ? [{ role: 'sidecar' as const, file: path.join(footage, card.folder, clip.sidecarPath), size: 500, modified: 0 }] : [])];
    const { statements, fault } = await readStatements(family, 0);
    expect(fault).toBeNull();
    const facts = chooseFacts(statements);
    const tracks = mediaInfo(file);
    const video = tracks.find((t) => t['@type'] === 'Video')!;
    expect(FORMATS[video.Format!]).toBe(text(facts, 'codec'));
    expect([video.Width, video.Height, video.BitDepth, video.ChromaSubsampling].map(String)).toEqual([count(facts, 'width'), count(facts, 'height'), count(facts, 'bitDepth'), text(facts, 'chroma')].map(String));
    expect(Number(video.FrameRate)).toBeCloseTo(fps(rateOf(facts)!), 2);
    expect(Number(video.FrameCount)).toBe(count(facts, 'frames'));
    expect(count(facts, 'frames')).toBe(clip.frames);
    expect(tracks.filter((t) => t['@type'] === 'Audio').reduce((n, t) => n + Number(t.Channels), 0)).toBe(count(facts, 'channels'));
    const theirs = tracks.map((t) => t.TimeCode_FirstFrame).find((t) => t !== undefined);
    expect(theirs).toBe(clip.timecodeLost ? '00:00:00:00' : formatTimecode(clip.start));
    // Where the rewrap lost the timecode, MediaInfo reads the zero that stands in the file; the sidecar knows better.
    expect(formatTimecode(startOf(facts)!)).toBe(formatTimecode(clip.start));
    expect(facts.get('recordedAt')!.chosen.value).toMatchObject({ moment: { local: clip.recordedAt } });
  });
});

test('the cards are recognised for what they are, gap and doubled extension included', async () => {
  const { entries } = await walk(footage);
  const { cards } = recognise(entries);
  expect(cards.map((c) => [c.folder, c.shape.id, c.families.length, c.proxySuffix])).toEqual([
    ['Day 1/A001', 'folder-per-clip', 4, null], ['Day 1/B001', 'clip-and-sub', 11, '_px'], ['Day 2/B002', 'clip-and-sub', 10, '_px'],
  ]);
  const doubled = cards[2]!.families.find((f) => f.stem === 'T0003')!.files.find((f) => f.role === 'cameraProxy')!;
  expect(doubled).toMatchObject({ path: 'SUB/T0003_px.MP4.MP4', suffix: '_px' });
});

test('a clip is the same every time it is made', async () => {
  const dir = mkdtempSync(path.join(tmpdir(), 'shelf-demo-'));
  try {
    const card = CARDS[1]!;
    const clip = card.clips.find((c) => c.name === 'T0008')!;
    const hash = async (folder: string) => {
      await makeClip(process.env.FFMPEG_PATH ?? 'ffmpeg', folder, card, clip, card.clips.indexOf(clip));
      return createHash('sha256').update(readFileSync(path.join(folder, clip.path))).digest('hex');
    };
    const made = createHash('sha256').update(readFileSync(path.join(footage, card.folder, clip.path))).digest('hex');
    expect(await hash(path.join(dir, 'again'))).toBe(made);
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
});
