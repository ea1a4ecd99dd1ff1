import { execa } from 'execa';
import { mkdir, rename, rm, utimes, writeFile } from 'node:fs/promises';
import path from 'node:path';
import PQueue from 'p-queue';
import { fps } from '../core/timecode/rate';
import { formatTimecode } from '../core/timecode/timecode';
import { DRAWN, painter } from './draw';
import { CARDS, type Coding, type DemoCard, type DemoClip, lookXml, sidecarXml } from './scenario';

// Encoders give other bytes for another number of threads, so that number is fixed.
const X265 = 'pools=2:frame-threads=2:log-level=error';
const CODING: Record<Coding, string[]> = {
  'h264-420-8': ['-c:v', 'libx264', '-preset', 'superfast', '-crf', '21', '-threads', '2', '-pix_fmt', 'yuv420p'],
  // Without `-strict unofficial` FFmpeg tags this as an intra codec in MOV, and the file does not decode.
  'h264-422-10': ['-c:v', 'libx264', '-preset', 'superfast', '-crf', '19', '-threads', '2', '-pix_fmt', 'yuv422p10le', '-strict', 'unofficial'],
  'hevc-420-8': ['-c:v', 'libx265', '-preset', 'ultrafast', '-crf', '22', '-x265-params', X265, '-pix_fmt', 'yuv420p', '-tag:v', 'hvc1'],
  'hevc-422-10': ['-c:v', 'libx265', '-preset', 'ultrafast', '-crf', '20', '-x265-params', X265, '-pix_fmt', 'yuv422p10le', '-tag:v', 'hvc1'],
  'vc3-422-10': ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_hqx', '-pix_fmt', 'yuv422p10le'],
};

const BIT_EXACT = ['-fflags', '+bitexact', '-flags:v', '+bitexact', '-flags:a', '+bitexact'];

/** Makes one clip with all that stands beside it. Throws with FFmpeg's own words where it fails. */
export async function makeClip(ffmpeg: string, folder: string, card: DemoCard, clip: DemoClip, index: number): Promise<void> {
  const to = (p: string) => path.join(folder, ...p.split('/'));
  for (const p of [clip.path, clip.proxyPath]) if (p) await mkdir(path.dirname(to(p)), { recursive: true });
  const seconds = clip.frames / fps(clip.rate);
  const tones = clip.audio.flatMap((channels, i) => ['-f', 'lavfi', '-i',
    `sine=frequency=${196 + 65 * i + 11 * index}:sample_rate=48000:duration=${seconds},volume=0.25,aformat=channel_layouts=${channels === 1 ? 'mono' : 'stereo'}`]);
  const range = clip.fullRange ? 'full' : 'limited';
  const picture = (w: number, h: number) => ['-vf', `scale=${w}:${h}:out_range=${range}:out_color_matrix=bt709`, '-color_range', clip.fullRange ? 'pc' : 'tv',
    '-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709'];
  const streams = ['-map', '0:v', ...clip.audio.flatMap((_, i) => ['-map', `${i + 1}:a`])];
  const stamps = (start: string) => ['-timecode', start, '-metadata', `creation_time=${clip.recordedAt}.000000Z`];
  const start = formatTimecode(clip.start);
  const output = [
    ...streams, ...picture(clip.size.width, clip.size.height), ...CODING[clip.coding], ...(clip.path.endsWith('.MP4') ? ['-c:a', 'aac', '-b:a', '128k'] : ['-c:a', 'pcm_s24le']),
    ...stamps(clip.timecodeLost ? '00:00:00:00' : start), ...BIT_EXACT, to(clip.path),
  ];
  const proxy = clip.proxyPath === null ? [] : [
    ...streams, ...picture(640, 360), ...CODING['h264-420-8'], '-c:a', 'aac', '-b:a', '96k', ...stamps(start), ...BIT_EXACT, '-f', 'mp4', to(clip.proxyPath),
  ];
  const run = execa(ffmpeg, [
    '-hide_banner', '-loglevel', 'error', '-y', '-f', 'rawvideo', '-pixel_format', 'rgba', '-video_size', `${DRAWN.width}x${DRAWN.height}`,
    '-framerate', `${clip.rate.num}/${clip.rate.den}`, '-i', 'pipe:0', ...tones, ...output, ...proxy,
  ], { stdin: 'pipe', buffer: { stdout: false, stderr: true }, reject: true });
  const paint = painter(clip, card.id);
  // A failed run closes the pipe; the failure itself is reported by the run below.
  run.stdin.on('error', () => undefined);
  for (let i = 0; i < clip.frames && run.exitCode === null; i++) {
    if (!run.stdin.write(Buffer.from(paint(i)))) await Promise.race([new Promise((r) => run.stdin.once('drain', r)), run.catch(() => undefined)]);
  }
  run.stdin.end();
  await run;
  if (clip.sidecarPath) await writeFile(to(clip.sidecarPath), sidecarXml(clip));
  if (clip.lookPath) await writeFile(to(clip.lookPath), lookXml(clip, index));
  const ended = new Date(Date.parse(`${clip.recordedAt}Z`) + seconds * 1000);
  for (const p of [clip.path, clip.proxyPath, clip.sidecarPath, clip.lookPath]) if (p) await utimes(to(p), ended, ended);
}

/**
 * Makes the demo footage in `folder`, whole or not at all: it is made beside and named when finished. Two clips at a
 * time, for drawing takes one core and encoding the other.
 */
export async function makeFootage(ffmpeg: string, folder: string, say: (line: string) => void): Promise<void> {
  const making = `${folder}.making`;
  await rm(making, { recursive: true, force: true });
  const queue = new PQueue({ concurrency: 2 });
  const clips = CARDS.flatMap((card) => card.clips.map((clip, i) => ({ card, clip, i })));
  let done = 0;
  await queue.addAll(clips.map(({ card, clip, i }) => async () => {
    await makeClip(ffmpeg, path.join(making, card.folder), card, clip, i);
    done++;
    if (done % 5 === 0 || done === clips.length) say(`demo footage: ${done} of ${clips.length} clips`);
  }));
  for (const card of CARDS.filter((c) => c.camera === 'B')) {
    await writeFile(path.join(making, card.folder, 'CARD.IDX'), `card ${card.id}\nclips ${card.clips.length}\n`);
  }
  await rename(making, folder);
}
