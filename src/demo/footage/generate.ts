import { execa } from 'execa';
import {
  appendFile,
  cp,
  mkdir,
  readFile,
  rename,
  rm,
  stat,
  truncate,
  utimes,
  writeFile,
} from 'node:fs/promises';
import path from 'node:path';
import PQueue from 'p-queue';
import { fps, rate } from '../../core/platform/timecode/rate';
import { formatTimecode, fromTimeOfDay } from '../../core/platform/timecode/timecode';
import { DRAWN, painter } from './draw';
import {
  CARDS,
  type Coding,
  type DemoCard,
  type DemoClip,
  type DemoSound,
  type DemoStills,
  DRAWER,
  flightLog,
  ixmlOf,
  lookXml,
  sidecarXml,
  TWIN,
} from './scenario';

// Encoders give other bytes for another number of threads, so that number is fixed.
const X265 = 'pools=2:frame-threads=2:log-level=error';
const CODING: Record<Coding, string[]> = {
  'h264-420-8': [
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-crf',
    '24',
    '-threads',
    '2',
    '-pix_fmt',
    'yuv420p',
  ],
  // Without `-strict unofficial` FFmpeg tags this as an intra codec in MOV, and the file does not decode.
  'h264-422-10': [
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-crf',
    '22',
    '-threads',
    '2',
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
    '-crf',
    '22',
    '-x265-params',
    X265,
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
    '-crf',
    '20',
    '-x265-params',
    X265,
    '-pix_fmt',
    'yuv422p10le',
    '-tag:v',
    'hvc1',
  ],
  'vc3-422-10': ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_hqx', '-pix_fmt', 'yuv422p10le'],
};

const BIT_EXACT = ['-fflags', '+bitexact', '-flags:v', '+bitexact', '-flags:a', '+bitexact'];

/** Makes one clip with all that is beside it. Throws with FFmpeg's own words where it fails. */
export async function makeClip(
  ffmpeg: string,
  folder: string,
  card: DemoCard,
  clip: DemoClip,
  index: number,
): Promise<void> {
  const to = (p: string) => path.join(folder, ...p.split('/'));
  for (const p of [clip.path, clip.proxyPath, clip.lookPath])
    if (p) await mkdir(path.dirname(to(p)), { recursive: true });
  await encode(ffmpeg, to, card, clip, index);
  if (clip.sidecarPath) await writeFile(to(clip.sidecarPath), sidecarXml(clip));
  if (clip.lookPath) await writeFile(to(clip.lookPath), lookXml(clip, index));
  if (clip.flightLogPath) await writeFile(to(clip.flightLogPath), flightLog(clip));
  if (clip.fillTo !== null) await fill(to(clip.path), clip.fillTo);
  if (clip.whole < 1)
    await truncate(to(clip.path), Math.floor((await stat(to(clip.path))).size * clip.whole));
  const ended = new Date(Date.parse(`${clip.recordedAt}Z`) + secondsOf(clip) * 1000);
  for (const p of [
    clip.path,
    clip.proxyPath,
    clip.sidecarPath,
    clip.lookPath,
    clip.thumbnailPath,
    clip.flightLogPath,
  ])
    if (p) await utimes(to(p), ended, ended);
}

const secondsOf = (clip: DemoClip): number => clip.frames / fps(clip.rate);

/** Draws a clip's frames, and has FFmpeg encode the clip, the proxy of its camera and its thumbnail of them. */
async function encode(
  ffmpeg: string,
  to: (path: string) => string,
  card: DemoCard,
  clip: DemoClip,
  index: number,
): Promise<void> {
  const run = execa(
    ffmpeg,
    [
      ...['-hide_banner', '-loglevel', 'error', '-y'],
      ...['-f', 'rawvideo', '-pixel_format', 'rgba', '-video_size', `${DRAWN.width}x${DRAWN.height}`],
      ...['-framerate', `${clip.rate.num}/${clip.rate.den}`, '-i', 'pipe:0'],
      ...tonesOf(clip, index),
      ...originalOf(clip, card, to),
      ...proxyOf(clip, card, to),
      ...thumbnailOf(clip, to),
    ],
    { stdin: 'pipe', buffer: { stdout: false, stderr: true }, reject: true },
  );
  const paint = painter(clip, card.id);
  // A failed run closes the pipe; the failure itself is reported by the run below.
  run.stdin.on('error', () => undefined);
  for (let i = 0; i < clip.frames && run.exitCode === null; i++) {
    if (!run.stdin.write(Buffer.from(paint(i))))
      await Promise.race([new Promise((r) => run.stdin.once('drain', r)), run.catch(() => undefined)]);
  }
  run.stdin.end();
  await run;
}

/** A tone for each stream of sound, as inputs. */
const tonesOf = (clip: DemoClip, index: number): string[] =>
  clip.audio.flatMap((channels, i) => [
    '-f',
    'lavfi',
    '-i',
    `sine=frequency=${196 + 65 * i + 11 * index}:sample_rate=48000:duration=${secondsOf(clip)},volume=0.25,aformat=channel_layouts=${channels === 1 ? 'mono' : 'stereo'}`,
  ]);

const streamsOf = (clip: DemoClip): string[] => [
  '-map',
  '0:v',
  ...clip.audio.flatMap((_, i) => ['-map', `${i + 1}:a`]),
];

const pictureOf = (clip: DemoClip, width: number, height: number): string[] => [
  '-vf',
  `scale=${width}:${height}:flags=fast_bilinear:out_range=${clip.fullRange ? 'full' : 'limited'}:out_color_matrix=bt709`,
  ...['-color_range', clip.fullRange ? 'pc' : 'tv'],
  ...['-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709'],
];

const stampsOf = (clip: DemoClip, card: DemoCard, start: string): string[] => [
  '-timecode',
  start,
  '-metadata',
  `creation_time=${clip.recordedAt}.000000Z`,
  ...(clip.path.endsWith('.MOV')
    ? ['-metadata', `make=${card.model.split(' ')[0]}`, '-metadata', `model=${card.model}`]
    : []),
];

const originalOf = (clip: DemoClip, card: DemoCard, to: (path: string) => string): string[] => [
  ...streamsOf(clip),
  ...pictureOf(clip, clip.size.width, clip.size.height),
  ...CODING[clip.coding],
  ...(clip.path.endsWith('.MP4') ? ['-c:a', 'aac', '-b:a', '128k'] : ['-c:a', 'pcm_s24le']),
  ...stampsOf(clip, card, clip.timecodeLost ? '00:00:00:00' : formatTimecode(clip.start)),
  ...BIT_EXACT,
  to(clip.path),
];

const proxyOf = (clip: DemoClip, card: DemoCard, to: (path: string) => string): string[] =>
  clip.proxyPath === null
    ? []
    : [
        ...streamsOf(clip),
        ...pictureOf(clip, 640, 360),
        ...CODING['h264-420-8'],
        ...['-c:a', 'aac', '-b:a', '96k'],
        ...stampsOf(clip, card, formatTimecode(clip.start)),
        ...BIT_EXACT,
        ...['-f', 'mp4'],
        to(clip.proxyPath),
      ];

const thumbnailOf = (clip: DemoClip, to: (path: string) => string): string[] =>
  clip.thumbnailPath === null
    ? []
    : [
        ...['-map', '0:v', '-frames:v', '1', '-vf', 'scale=160:90', '-f', 'mjpeg'],
        ...BIT_EXACT,
        to(clip.thumbnailPath),
      ];

/** Fills an MP4 up to so many bytes with a `free` box (ISO/IEC 14496-12, 8.1.2). */
async function fill(file: string, to: number): Promise<void> {
  const { size } = await stat(file);
  if (to - size < 8) throw new Error(`${file} has ${size} bytes, too many to be filled up to ${to}`);
  const box = Buffer.alloc(to - size);
  box.writeUInt32BE(box.length, 0);
  box.write('free', 4, 'latin1');
  await appendFile(file, box);
}

const SAMPLE_RATE = 48_000;

/** Makes a Broadcast Wave file (EBU Tech 3285): timecode as the count of samples since midnight. */
async function makeSound(
  ffmpeg: string,
  folder: string,
  card: DemoCard,
  sound: DemoSound,
  index: number,
): Promise<void> {
  const file = path.join(folder, sound.path);
  await mkdir(path.dirname(file), { recursive: true });
  const [from, to] = sound.silence ?? [0, 0];
  const tones = Array.from({ length: sound.channels }, (_, i) => [
    '-f',
    'lavfi',
    '-i',
    `sine=frequency=${131 + 44 * i + 17 * index}:sample_rate=${SAMPLE_RATE}:duration=${sound.seconds},volume=0.2,volume=0:enable='between(t,${from},${to})'`,
  ]);
  await execa(ffmpeg, [
    '-hide_banner',
    '-loglevel',
    'error',
    '-y',
    ...tones.flat(),
    '-filter_complex',
    `amerge=inputs=${sound.channels}`,
    '-c:a',
    'pcm_s24le',
    '-write_bext',
    '1',
    '-metadata',
    `description=${sound.name}`,
    '-metadata',
    `originator=${card.model}`,
    '-metadata',
    `origination_date=${sound.recordedAt.slice(0, 10)}`,
    '-metadata',
    `origination_time=${sound.recordedAt.slice(11)}`,
    '-metadata',
    `time_reference=${sound.startSeconds * SAMPLE_RATE}`,
    ...BIT_EXACT,
    file,
  ]);
  await addChunk(file, 'iXML', ixmlOf(sound, index));
  const ended = new Date(Date.parse(`${sound.recordedAt}Z`) + sound.seconds * 1000);
  await utimes(file, ended, ended);
}

/** Adds a chunk at the end of a WAVE file. */
async function addChunk(file: string, id: string, text: string): Promise<void> {
  const bytes = await readFile(file);
  const body = Buffer.from(text + (Buffer.byteLength(text) % 2 === 1 ? ' ' : ''));
  const head = Buffer.alloc(8);
  head.write(id, 0, 'latin1');
  head.writeUInt32LE(body.length, 4);
  bytes.writeUInt32LE(bytes.length + head.length + body.length - 8, 4);
  await writeFile(file, Buffer.concat([bytes, head, body]));
}

/** Makes a row of stills from the frames of a picture that goes on all evening; one of them is missing. */
async function makeStills(ffmpeg: string, folder: string, card: DemoCard, row: DemoStills): Promise<void> {
  const time = row.recordedAt
    .slice(11)
    .split(':')
    .reduce((s, part) => s * 60 + Number(part), 0);
  const r = rate(25);
  const paint = painter({ name: 'time-lapse', rate: r, start: fromTimeOfDay(time, r) }, card.id);
  const at = (n: number) => path.join(folder, row.path(n));
  await mkdir(path.dirname(at(row.from)), { recursive: true });
  const frames = Array.from({ length: row.count }, (_, i) => Buffer.from(paint(i * row.every * 25)));
  const pattern = at(row.from).replace(/\d{4}(?=\.JPG$)/, '%04d');
  await execa(
    ffmpeg,
    [
      '-hide_banner',
      '-loglevel',
      'error',
      '-y',
      '-f',
      'rawvideo',
      '-pixel_format',
      'rgba',
      '-video_size',
      `${DRAWN.width}x${DRAWN.height}`,
      '-framerate',
      '25',
      '-i',
      'pipe:0',
      '-c:v',
      'mjpeg',
      '-q:v',
      '4',
      '-pix_fmt',
      'yuvj420p',
      '-start_number',
      String(row.from),
      ...BIT_EXACT,
      pattern,
    ],
    { input: Buffer.concat(frames) },
  );
  await rm(at(row.missing));
  for (let n = row.from; n < row.from + row.count; n++) {
    const taken = new Date(Date.parse(`${row.recordedAt}Z`) + (n - row.from) * row.every * 1000);
    if (n !== row.missing) await utimes(at(n), taken, taken);
  }
}

/** Everything of a card, as pieces of work. */
const piecesOf = (ffmpeg: string, folder: string, card: DemoCard): (() => Promise<void>)[] => [
  ...card.clips.map((clip, i) => () => makeClip(ffmpeg, folder, card, clip, i)),
  ...card.sounds.map((sound, i) => () => makeSound(ffmpeg, folder, card, sound, i)),
  ...(card.stills ? [() => makeStills(ffmpeg, folder, card, card.stills!)] : []),
];

/**
 * Makes the demo footage in `folder`, whole or not at all: it is made beside and named when finished. `offloaded` holds
 * what was copied before the demo begins, `drawer` the cards for the reader. Two pieces at a time, for drawing takes one
 * core and encoding the other.
 */
export async function makeFootage(
  ffmpeg: string,
  folder: string,
  say: (line: string) => void,
): Promise<void> {
  const making = `${folder}.making`;
  await rm(making, { recursive: true, force: true });
  const queue = new PQueue({ concurrency: 2 });
  const cards = [
    ...CARDS.map((card) => ({ card, at: path.join(making, 'offloaded', card.folder) })),
    ...DRAWER.map((card) => ({ card, at: path.join(making, 'drawer', card.folder) })),
  ];
  const pieces = cards.flatMap(({ card, at }) => piecesOf(ffmpeg, at, card));
  let done = 0;
  await queue.addAll(
    pieces.map((piece) => async () => {
      await piece();
      done++;
      if (done % 10 === 0 || done === pieces.length)
        say(`demo footage: ${done} of ${pieces.length} recordings`);
    }),
  );
  for (const { card, at } of cards.filter((c) => c.card.camera === 'B'))
    await writeFile(path.join(at, 'CARD.IDX'), `card ${card.id}\nclips ${card.clips.length}\n`);
  await cp(path.join(making, 'offloaded', TWIN.of), path.join(making, 'drawer', TWIN.folder), {
    recursive: true,
    preserveTimestamps: true,
  });
  await rename(making, folder);
}
