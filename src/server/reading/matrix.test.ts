import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { promisify } from 'node:util';
import { type FieldId, formatValue, type Statement } from '../../core/facts/catalogue';
import { chooseFacts, count, type Facts, rateOf, startOf, text } from '../../core/facts/facts';
import { statementsFromProbe } from '../../core/facts/probe';
import { sameValue } from '../../core/facts/values';
import { fps } from '../../core/platform/timecode/rate';
import { formatTimecode } from '../../core/platform/timecode/timecode';
import { type MatrixClip, makeMatrix, matrixOf } from '../testing/matrix';
import type { Reading } from './firstPass';
import { probe } from '../platform/media/probe';
import { readStatements } from './readFamily';
import { endReaders } from './readPool';
import { endTagReader, readTags } from './tagReader';

// A matrix of containers, codecs, rates, drop-frame, start timecodes, channels and colour tags, generated with FFmpeg and
// read three times over by programs that share no code with our readers: ffprobe, MediaInfo (Debian) and ExifTool.

const run = promisify(execFile);
const clips = matrixOf(5);
let dir: string;
interface Track {
  '@type': string;
  [key: string]: string | undefined;
}
const read = new Map<
  string,
  { reading: Reading; facts: Facts; probed: Statement[]; media: Track[]; tags: Record<string, unknown> }
>();

beforeAll(async () => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-matrix-'));
  await makeMatrix(dir, clips);
  for (const c of clips) {
    const file = path.join(dir, c.name);
    const s = statSync(file);
    const [reading, output, media, tags] = await Promise.all([
      readStatements(
        { kind: 'video', files: [{ role: 'original', file, size: s.size, modified: s.mtimeMs }] },
        { zoneMinutes: 0, stillsRate: 25 },
      ),
      probe(file),
      run('mediainfo', ['--Output=JSON', file]),
      readTags(file),
    ]);
    read.set(c.name, {
      reading,
      facts: chooseFacts(reading.statements.filter((x) => x.source !== 'clock' && x.source !== 'fileTime')),
      probed: statementsFromProbe(output, { zoneMinutes: 0 }).filter((x) => x.source !== 'clock'),
      media: (JSON.parse(media.stdout) as { media: { track: Track[] } }).media.track,
      tags,
    });
  }
}, 180_000);

afterAll(async () => {
  await Promise.all([endReaders(), endTagReader()]);
  rmSync(dir, { recursive: true, force: true });
});

const CODEC: Record<string, string> = {
  h264: 'H.264',
  hevc: 'HEVC',
  prores: 'ProRes',
  vc3: 'VC-3',
  mpeg2: 'MPEG-2',
  mjpeg: 'Motion JPEG',
};

test('the matrix holds every container, codec and rate', () => {
  expect(clips.length).toBeGreaterThan(40);
  expect(new Set(clips.map((c) => c.container)).size).toBe(6);
  expect(new Set(clips.map((c) => `${c.rate.num}/${c.rate.den}`)).size).toBe(13);
  expect(new Set(clips.map((c) => c.codec)).size).toBe(9);
  expect(clips.some((c) => c.drop)).toBe(true);
});

describe.each(clips.map((c) => [c.name, c] as const))('%s', (_, c: MatrixClip) => {
  const of = () => read.get(c.name)!;

  test('says what FFmpeg was told', () => {
    const { reading, facts } = of();
    expect(reading.fault).toBeNull();
    expect(text(facts, 'codec')).toBe(CODEC[c.codec.split('-')[0]!]);
    expect([count(facts, 'width'), count(facts, 'height')]).toEqual(c.size);
    expect(rateOf(facts)).toEqual(c.rate);
    expect(reading.audio.reduce((n, x) => n + x, 0)).toBe(c.channels);
    // A transport stream has no index, and its length is that of its clock; the frames it holds are not counted.
    if (c.container !== 'mts') expect(count(facts, 'frames')).toBe(c.frames);
    const start = startOf(facts);
    // MXF keeps its timecode at a whole rate: drop-frame is told by a flag that FFmpeg shows as ";".
    expect(start && formatTimecode(start)).toBe(c.start);
    // FFmpeg gives ProRes in Matroska and VC-3 no colour, and neither does MediaInfo find any.
    const carried =
      !['mxf', 'mts'].includes(c.container) &&
      c.codec !== 'vc3-422-10' &&
      !(c.container === 'mkv' && c.codec.startsWith('prores'));
    if (c.colour && carried) {
      expect([text(facts, 'primaries'), text(facts, 'transfer'), text(facts, 'matrix')]).toEqual([
        c.colour.primaries,
        c.colour.transfer,
        c.colour.matrix,
      ]);
      if (c.colour.full && /^h264/.test(c.codec)) expect(text(facts, 'range')).toBe('full');
    }
  });

  test('every fact that ffprobe states, as ffprobe states it', () => {
    const { reading, probed } = of();
    const differ = probed.filter(
      (p) =>
        !reading.statements.some(
          (s) => s.field === p.field && s.source === p.source && sameValue(s.value, p.value),
        ),
    );
    expect(
      differ.map(
        (p) =>
          `${p.field}: ffprobe says ${formatValue(p.value, p.field)}, read ${
            reading.statements
              .filter((s) => s.field === p.field)
              .map((s) => formatValue(s.value, s.field))
              .join(', ') || 'nothing'
          }`,
      ),
    ).toEqual([]);
  });

  test('and MediaInfo agrees', () => {
    const { facts, media } = of();
    const video = media.find((t) => t['@type'] === 'Video')!;
    const audio = media.filter((t) => t['@type'] === 'Audio');
    expect([video.Width, video.Height].map(Number)).toEqual([count(facts, 'width'), count(facts, 'height')]);
    if (video.FrameRate)
      expect(Math.abs(Number(video.FrameRate) - fps(rateOf(facts)!))).toBeLessThan(
        fps(rateOf(facts)!) * 0.001 + 0.001,
      );
    if (video.ChromaSubsampling) expect(video.ChromaSubsampling).toBe(text(facts, 'chroma'));
    // RDD 36 codes no depth: MediaInfo gives none for ProRes, FFmpeg the depth it decodes to.
    if (video.BitDepth && !c.codec.startsWith('prores'))
      expect(Number(video.BitDepth)).toBe(count(facts, 'bitDepth'));
    if (video.FrameCount && c.container !== 'mts')
      expect(Number(video.FrameCount)).toBe(count(facts, 'frames'));
    expect(audio.reduce((n, t) => n + Number(t.Channels), 0)).toBe(c.channels);
    if (audio[0]?.SamplingRate) expect(Number(audio[0].SamplingRate)).toBe(count(facts, 'sampleRate'));
    const address = media.map((t) => t.TimeCode_FirstFrame).find((t) => t !== undefined);
    // Above 100 frames a second three digits are needed; MediaInfo writes as many as there are.
    if (address && c.start)
      expect(address.replace(/(\d+)$/, (n) => n.padStart(3, '0'))).toBe(
        c.start.replace(/(\d+)$/, (n) => n.padStart(3, '0')),
      );
  });

  test('and ExifTool, as far as it reads such files', () => {
    const { facts, tags } = of();
    const differ: string[] = [];
    const check = (id: FieldId, mine: unknown, theirs: unknown) => {
      if (theirs !== undefined && String(mine) !== theirs)
        differ.push(`${id}: ExifTool says ${JSON.stringify(theirs)}, read ${JSON.stringify(mine)}`);
    };
    check('width', count(facts, 'width'), tags.ImageWidth);
    check('height', count(facts, 'height'), tags.ImageHeight);
    check('title', text(facts, 'title'), tags.Title);
    check('maker', text(facts, 'maker'), tags.Make);
    check('model', text(facts, 'model'), tags.Model);
    check('codecTag', text(facts, 'codecTag'), tags.CompressorID);
    check(
      'brand',
      text(facts, 'brand'),
      typeof tags.MajorBrand === 'string' ? tags.MajorBrand.trim() : undefined,
    );
    if (c.container === 'mp4' || c.container === 'mov') {
      if (tags.VideoFrameRate !== undefined)
        expect(Math.abs(Number(tags.VideoFrameRate) - fps(c.rate))).toBeLessThan(0.01);
      check('sampleRate', count(facts, 'sampleRate'), tags.AudioSampleRate);
      const recorded = facts.get('recordedAt')!.chosen.value;
      check(
        'recordedAt',
        recorded.type === 'moment' ? recorded.moment.local : '',
        String(tags.CreateDate).replace(/^(\d+):(\d+):(\d+) /, '$1-$2-$3T'),
      );
    }
    expect(differ).toEqual([]);
  });
});
