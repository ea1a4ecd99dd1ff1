import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { type InJob, openRuntime } from '../runtime';
import { databaseInMemory, testDatabase } from './database';
import { FFMPEG } from '../platform/media/tools';

export interface ClipSpec {
  frames?: number;
  rate?: string;
  start?: string | null;
  created?: string;
  codec?: string[];
  audio?: number[];
  size?: string;
  /** What the picture is made into, "160:90": the same picture, smaller. */
  scaledTo?: string;
}

/** Clips that were made, by which FFmpeg was told what: many tests ask for the same bytes. */
const MADE = path.resolve('.cache/test-clips');
let version: string | null = null;

/** A clip like no other: the same pictures, and words behind them in a box that readers pass over (ISO/IEC 14496-12, `free`). */
export function withWords(clip: Buffer, words: Buffer): Buffer {
  const head = Buffer.alloc(8);
  head.writeUInt32BE(words.length + 8);
  head.write('free', 4, 'latin1');
  return Buffer.concat([clip, head, words]);
}

/** Makes a small clip with FFmpeg's test picture; one that was made before is copied. */
export function makeClip(file: string, spec: ClipSpec = {}): string {
  mkdirSync(path.dirname(file), { recursive: true });
  const told = ffmpegArguments(path.extname(file).toLowerCase(), spec);
  version ??= execFileSync(FFMPEG(), ['-version'], { encoding: 'utf8' });
  const key = createHash('sha256')
    .update([version, ...told].join('\0'))
    .digest('hex');
  const made = path.join(MADE, key.slice(0, 24));
  if (!existsSync(made)) {
    mkdirSync(MADE, { recursive: true });
    const part = `${made}.${process.pid}`;
    execFileSync(FFMPEG(), [...told, `file:${part}`], { maxBuffer: 1 << 26 });
    renameSync(part, made);
  }
  copyFileSync(made, file);
  return file;
}

function ffmpegArguments(extension: string, spec: ClipSpec): string[] {
  const {
    frames = 10,
    rate = '25',
    start = '14:22:05:00',
    created = '2026-05-06T14:22:05Z',
    codec = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p'],
    audio = [2],
    size = '320x180',
    scaledTo,
  } = spec;
  const [num, den = '1'] = rate.split('/');
  const length = (frames * Number(den)) / Number(num);
  return [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    `testsrc2=size=${size}:rate=${rate}:duration=${length + 1}`,
    ...audio.flatMap((n) => [
      '-f',
      'lavfi',
      '-i',
      `sine=duration=${length},aformat=channel_layouts=${{ 1: 'mono', 2: 'stereo', 4: '4.0' }[n]}`,
    ]),
    '-map',
    '0:v',
    ...audio.flatMap((_, i) => ['-map', `${i + 1}:a`]),
    '-frames:v',
    String(frames),
    '-r',
    rate,
    ...(scaledTo === undefined ? [] : ['-vf', `scale=${scaledTo}`]),
    ...codec,
    '-c:a',
    extension === '.mp4' ? 'aac' : 'pcm_s16le',
    ...(start ? ['-timecode', start] : []),
    '-metadata',
    `creation_time=${created}`,
    '-f',
    { '.mxf': 'mxf', '.mov': 'mov' }[extension] ?? 'mp4',
  ];
}

/**
 * A folder above everything that a test shelf has: quotes, an option, a placeholder, a command, a line's end, a picture, both Unicode
 * forms. Every test of copying, reading, naming and proxies works below it. Names that are no UTF-8 have tests of their own.
 */
const HOSTILE = '-rf %03d "it\'s" $(x) `y`;\n\u{1f30a} \u00e9e\u0301 |file:';

/** The id of the job of tests that have one. */
export const TEST_JOB = 'job';

export interface TestShelf {
  dir: string;
  /** As its only job works with it, once that was begun as `TEST_JOB`. */
  runtime: InJob;
  shelf: string;
  proxies: string;
  close(): Promise<void>;
}

/**
 * A runtime on an empty folder with its database in memory, or `kept` in its folder, or on the tests' server where there is one; its queue is worked off by hand, but for `byItself`.
 * `standIns` makes readers and drives stand-ins below `dir`.
 */
export async function testShelf({
  standIns = false,
  kept = false,
  byItself = false,
} = {}): Promise<TestShelf> {
  // In memory where there is some: tests wait for flushes all the time.
  const outer = realpathSync(
    mkdtempSync(path.join(existsSync('/dev/shm') ? '/dev/shm' : tmpdir(), 'shelf-')),
  );
  const dir = path.join(outer, HOSTILE);
  mkdirSync(dir);
  if (standIns) process.env.SORT_SHELF_STAND_INS = path.join(dir, 'stand-ins');
  const home = path.join(dir, 'home');
  const database = await testDatabase();
  const runtime = await openRuntime({
    home,
    ...(database ??
      (kept ? { databaseFolder: path.join(home, 'database') } : { database: await databaseInMemory() })),
    ...(byItself ? {} : { work: ['copy'] }),
  });
  return {
    dir,
    runtime: runtime.inJob(TEST_JOB),
    shelf: path.join(dir, 'home', 'shelf'),
    proxies: path.join(dir, 'home', 'proxies'),
    async close() {
      await runtime.close();
      await database?.drop();
      rmSync(outer, { recursive: true, force: true });
    },
  };
}

/** SHA-256 of every file below a folder by its path, dot folders of Sort Shelf's own left out. */
export function hashTree(folder: string, at = ''): Record<string, string> {
  const out: Record<string, string> = {};
  for (const e of readdirSync(path.join(folder, at), { withFileTypes: true })) {
    const p = at === '' ? e.name : `${at}/${e.name}`;
    if (e.isDirectory() && e.name !== '.sort-shelf') Object.assign(out, hashTree(folder, p));
    else if (e.isFile())
      out[p] = createHash('sha256')
        .update(readFileSync(path.join(folder, p)))
        .digest('hex');
  }
  return out;
}

export function put(file: string, content: string | Buffer): string {
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(file, content);
  return file;
}

export const sizeOf = (file: string): number => statSync(file).size;
