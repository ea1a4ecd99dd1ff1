import { execFile } from 'node:child_process';
import { mkdir } from 'node:fs/promises';
import path from 'node:path';
import { promisify } from 'node:util';
import PQueue from 'p-queue';
import { canDrop, formatTimecode, fromTimeOfDay } from '../../core/platform/timecode/timecode';
import { fps, type Rate, STANDARD_RATES } from '../../core/platform/timecode/rate';
import { FFMPEG } from '../platform/media/tools';

/** One generated clip: what FFmpeg was told, which is what every reader should find. */
export interface MatrixClip {
  name: string;
  container: string;
  codec: string;
  rate: Rate;
  drop: boolean;
  /** Start timecode; `null` where the container is given none. */
  start: string | null;
  frames: number;
  channels: number;
  colour: Colour | null;
  size: readonly [number, number];
}
export interface Colour {
  primaries: string;
  transfer: string;
  matrix: string;
  full: boolean;
}

const CODECS: Record<string, readonly string[]> = {
  'h264-420-8': ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p'],
  'h264-422-10': [
    '-c:v',
    'libx264',
    '-preset',
    'superfast',
    '-pix_fmt',
    'yuv422p10le',
    '-strict',
    'unofficial',
  ],
  'hevc-420-8': [
    '-c:v',
    'libx265',
    '-preset',
    'ultrafast',
    '-x265-params',
    'log-level=error:pools=1',
    '-pix_fmt',
    'yuv420p',
    '-tag:v',
    'hvc1',
  ],
  'hevc-422-10': [
    '-c:v',
    'libx265',
    '-preset',
    'ultrafast',
    '-x265-params',
    'log-level=error:pools=1',
    '-pix_fmt',
    'yuv422p10le',
    '-tag:v',
    'hvc1',
  ],
  'prores-hq': ['-c:v', 'prores_ks', '-profile:v', 'hq', '-pix_fmt', 'yuv422p10le'],
  'prores-4444': ['-c:v', 'prores_ks', '-profile:v', '4444', '-pix_fmt', 'yuv444p10le'],
  'vc3-422-10': ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_hqx', '-pix_fmt', 'yuv422p10le'],
  mpeg2: ['-c:v', 'mpeg2video', '-g', '1', '-bf', '0', '-pix_fmt', 'yuv420p'],
  mjpeg: ['-c:v', 'mjpeg', '-pix_fmt', 'yuvj420p', '-q:v', '5'],
};
const HOLDS: Record<string, readonly string[]> = {
  mp4: ['h264-420-8', 'h264-422-10', 'hevc-420-8', 'hevc-422-10'],
  mov: ['h264-420-8', 'h264-422-10', 'hevc-422-10', 'prores-hq', 'prores-4444', 'vc3-422-10'],
  mkv: ['h264-420-8', 'hevc-422-10', 'prores-hq'],
  mxf: ['vc3-422-10', 'mpeg2'],
  mts: ['h264-420-8'],
  avi: ['mjpeg'],
};
const COLOURS: readonly (Colour | null)[] = [
  { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', full: false },
  { primaries: 'bt2020', transfer: 'arib-std-b67', matrix: 'bt2020nc', full: false },
  { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', full: true },
  null,
  { primaries: 'smpte432', transfer: 'bt709', matrix: 'bt709', full: false },
];
const STARTS = [36_000, 51_725, 86_399, 3661];
const AUDIO: Record<string, (channels: number) => string[]> = {
  mp4: () => ['-c:a', 'aac', '-b:a', '64k'],
  mov: (n) => ['-c:a', n > 2 ? 'pcm_s16le' : 'pcm_s24le'],
  mkv: () => ['-c:a', 'pcm_s16le'],
  mxf: () => ['-c:a', 'pcm_s16le', '-ar', '48000'],
  mts: () => ['-c:a', 'ac3'],
  avi: () => ['-c:a', 'pcm_s16le'],
};
/** MXF and MPEG-2 know the rates of television only. */
const BROADCAST = new Set(['24000/1001', '24/1', '25/1', '30000/1001', '30/1', '50/1', '60000/1001', '60/1']);

/** Every container with every codec it holds, at every rate it knows; other choices take turns, so that each meets each. */
export function matrixOf(every = 1): MatrixClip[] {
  const out: MatrixClip[] = [];
  let turn = 0;
  for (const [container, codecs] of Object.entries(HOLDS)) {
    for (const codec of codecs) {
      for (const rate of STANDARD_RATES) {
        if ((container === 'mxf' || codec === 'mpeg2') && !BROADCAST.has(`${rate.num}/${rate.den}`)) continue;
        for (const drop of canDrop(rate) ? [false, true] : [false]) {
          const n = turn++;
          if (n % every !== 0) continue;
          const channels = [2, 1, 0, 6][n % 4]!;
          const start =
            container === 'mts' || container === 'avi' || container === 'mkv'
              ? null
              : formatTimecode(fromTimeOfDay(STARTS[n % STARTS.length]!, rate, drop));
          // Drop-frame above 60 is known to no muxer here.
          if (drop && (fps(rate) > 60 || start === null)) continue;
          out.push({
            name: `${String(n).padStart(3, '0')}-${codec}.${container}`,
            container,
            codec,
            rate,
            drop,
            start,
            frames: 3 + (n % 4), // FFmpeg's MXF muxer holds back pictures until it has sound for them, and loses the last ones of a clip this short.
            channels: container === 'mxf' ? 0 : channels,
            colour: codec === 'mjpeg' || codec === 'mpeg2' ? null : COLOURS[n % COLOURS.length]!,
            size: codec === 'mpeg2' ? [720, 576] : codec === 'vc3-422-10' ? [256, 144] : [160, 90],
          });
        }
      }
    }
  }
  return out;
}

const run = promisify(execFile);

/** Makes the clips of a matrix in a folder, two at a time. */
export async function makeMatrix(folder: string, clips: readonly MatrixClip[]): Promise<void> {
  await mkdir(folder, { recursive: true });
  const queue = new PQueue({ concurrency: 2 });
  await queue.addAll(clips.map((c) => () => makeMatrixClip(folder, c)));
}

async function makeMatrixClip(folder: string, c: MatrixClip): Promise<void> {
  const seconds = c.frames / fps(c.rate);
  const colour = c.colour
    ? [
        '-color_primaries',
        c.colour.primaries,
        '-color_trc',
        c.colour.transfer,
        '-colorspace',
        c.colour.matrix,
        '-color_range',
        c.colour.full ? 'pc' : 'tv',
      ]
    : [];
  await run(
    FFMPEG(),
    [
      '-v',
      'error',
      '-y',
      '-f',
      'lavfi',
      '-i',
      `testsrc2=size=${c.size[0]}x${c.size[1]}:rate=${c.rate.num}/${c.rate.den}:duration=${seconds + 1}`,
      ...(c.channels > 0
        ? [
            '-f',
            'lavfi',
            '-i',
            `sine=duration=${seconds},aformat=channel_layouts=${{ 1: 'mono', 2: 'stereo', 6: '5.1' }[c.channels]}`,
          ]
        : []),
      '-map',
      '0:v',
      ...(c.channels > 0 ? ['-map', '1:a', ...AUDIO[c.container]!(c.channels)] : []),
      '-frames:v',
      String(c.frames),
      '-r',
      `${c.rate.num}/${c.rate.den}`,
      ...CODECS[c.codec]!,
      '-threads',
      '1',
      ...colour,
      ...(c.start ? ['-timecode', c.start] : []),
      '-metadata',
      'creation_time=2026-05-06T14:22:05Z',
      '-metadata',
      'title=Wheel',
      ...(c.container === 'mov' ? ['-metadata', 'make=Corvane', '-metadata', 'model=C8'] : []),
      ...(c.container === 'mts' ? ['-f', 'mpegts'] : []),
      path.join(folder, c.name),
    ],
    { maxBuffer: 1 << 26 },
  );
}
