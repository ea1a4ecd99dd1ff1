import { execFileSync, spawnSync } from 'node:child_process';
import {
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { bundled } from '../workers/fork';
import { Tally } from './house';

// Files that name further files or addresses, under every extension, and files that are too much: read by every reader and program,
// with their system calls traced. Nothing outside the file is opened, nobody is called, and each is answered in time.

/** The longest all readers together may take for one file, seconds. */
const LIMIT = 240;

const TRAPS: Record<string, (secret: string) => string | Buffer> = {
  'playlist.jpg': (s) => `#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\nfile://${s}\n#EXT-X-ENDLIST\n`,
  'playlist.MP4': (s) => `#EXTM3U\n#EXTINF:5,\n${s}\n`,
  'playlist.WAV': (s) => `#EXTM3U\n#EXTINF:5,\n${s}\n`,
  'byte4.MP4': (s) => `#EXTG\n#EXTM3U\n#EXTINF:5,\nfile:${s}\n`,
  'many-g.MTS': (s) => `G${'\n'.repeat(187)}G${'\n'.repeat(187)}#EXTM3U\n#EXTINF:5,\nfile:${s}\n`,
  'script.MOV': (s) => `ffconcat version 1.0\nfile 'file:${s}'\n`,
  'script.png': (s) => `ffconcat version 1.0\nfile '${s}'\n`,
  'address.MP4': () => '#EXTM3U\n#EXTINF:5,\nhttp://127.0.0.1:9/x.ts\n',
  'session.MOV': () =>
    'v=0\no=- 0 0 IN IP4 127.0.0.1\nc=IN IP4 127.0.0.1\nm=video 9 RTP/AVP 96\na=rtpmap:96 H264/90000\n',
  'manifest.MP4': (s) => `<?xml version="1.0"?><MPD><Period><BaseURL>file:${s}</BaseURL></Period></MPD>`,
  'vector.png': (s) => `<svg xmlns="http://www.w3.org/2000/svg"><image href="file://${s}"/></svg>`,
  'vector.jpg': (s) => `<?xml version="1.0"?><!DOCTYPE x [<!ENTITY y SYSTEM "file://${s}">]><svg>&y;</svg>`,
  'metadata.MP4': (s) => `;FFMETADATA1\nx=file:${s}\n`,
  'words.JPG': (s) => `-@\n${s}\n`,
  'archive.MP4': () => gzipSync('x'.repeat(1000)),
  'executable.MP4': () => Buffer.from('7f454c460201010000', 'hex'),
  'image-list.jpg': (s) => `${s}\n${s}\n`,
  'vobsub.AVI': (s) => `# VobSub index file, v7 \nid: en, index: 0\n${s}\n`,
};

/** A movie whose sound is, by its data reference, in a file elsewhere (QTFF `alis` and `url `, from memory). */
function referring(film: Buffer, secret: string): Buffer {
  const out = Buffer.from(film);
  const at = out.indexOf('url \0\0\0\x01', 0, 'latin1');
  if (at > 0) out.writeUInt32BE(0, at + 4);
  return Buffer.concat([out, Buffer.from(`\0\0\0\0free file://${secret}`)]);
}

export async function programs(film: string, footage: string, short: boolean): Promise<Tally> {
  const tally = new Tally('media_programs');
  const dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-doors-')));
  const card = path.join(dir, 'card');
  mkdirSync(card);
  const secret = path.join(dir, 'outside-secret.mp4');
  writeFileSync(secret, readFileSync(film));
  const whole = readFileSync(film);
  for (const [name, text] of Object.entries(TRAPS)) writeFileSync(path.join(card, name), text(secret));
  writeFileSync(path.join(card, 'referring.MOV'), referring(whole, secret));
  // Names that mean something to a program, and the file they would mean beside them.
  for (const name of [
    '%d.MP4',
    '%03d.MP4',
    '100%done.MP4',
    '-version.MP4',
    'file:x.MP4',
    'pipe:0.MP4',
    'concat:a|b.MP4',
    '-execute\n-stay_open.MP4',
    '@list.MP4',
    'a\n-o\nx.MP4',
    '*.MP4',
  ])
    writeFileSync(path.join(card, name), whole);
  for (const name of ['0.MP4', '001.MP4', 'x.MP4']) writeFileSync(path.join(dir, `outside-${name}`), whole);
  // Damaged, huge by what they say, nested.
  const still = path.join(footage, 'drawer', 'D001', 'DCIM', '101WHIMB');
  const jpeg = readFileSync(
    path.join(
      still,
      readdirSync(still).find((n) => n.endsWith('.JPG'))!,
    ),
  );
  const lying = Buffer.from(jpeg);
  const sof = lying.indexOf(Buffer.from([0xff, 0xc0]));
  if (sof > 0) lying.writeUInt32BE(0xffffffff, sof + 5);
  writeFileSync(path.join(card, 'lying.JPG'), lying);
  writeFileSync(path.join(card, 'half.JPG'), jpeg.subarray(0, jpeg.length / 2));
  const head = Buffer.alloc(33);
  head.write('\x89PNG\r\n\x1a\n', 'latin1');
  head.writeUInt32BE(13, 8);
  head.write('IHDR', 12, 'latin1');
  head.writeUInt32BE(60_000, 16);
  head.writeUInt32BE(60_000, 20);
  head[24] = 8;
  writeFileSync(path.join(card, 'enormous.png'), head);
  const nested = Buffer.alloc(80_000);
  for (let at = 0; at + 8 < nested.length; at += 8) {
    nested.writeUInt32BE(nested.length - at, at);
    nested.write(at === 0 ? 'ftyp' : 'moov', at + 4, 'latin1');
  }
  writeFileSync(path.join(card, 'nested.MP4'), nested);
  const boxes = Buffer.alloc(8_000_000);
  for (let at = 0; at < boxes.length; at += 8) {
    boxes.writeUInt32BE(8, at);
    boxes.write('free', at + 4, 'latin1');
  }
  writeFileSync(path.join(card, 'a-million-boxes.MP4'), boxes);
  execFileSync('mkfifo', [
    path.join(card, 'pipe.MP4'),
    path.join(card, 'pipe.JPG'),
    path.join(card, 'pipe.WAV'),
  ]);
  const files = readdirSync(card)
    .filter((n) => !short || /^(?:playlist|script|byte4|address|words|%d|-execute|pipe)/.test(n))
    .map((n) => path.join(card, n));
  const log = path.join(dir, 'trace');
  const run = spawnSync(
    'strace',
    [
      '-f',
      '-qq',
      '-e',
      'trace=open,openat,openat2,execve,connect',
      '-e',
      'signal=none',
      '-o',
      log,
      process.execPath,
      await bundled('programs'),
      ...(short ? ['short'] : []),
      ...files,
    ],
    { encoding: 'utf8', maxBuffer: 1 << 26, timeout: 20 * 60_000 },
  );
  const lines = run.stdout
    .split('\n')
    .filter((l) => l.startsWith('{'))
    .map((l) => JSON.parse(l) as { file: string; seconds: number; said: string[] });
  tally.tried(
    run.status === 0 ? null : `the readers ended with ${run.status ?? run.signal}: ${run.stderr.slice(-500)}`,
  );
  for (const file of files) {
    const line = lines.find((l) => l.file === file);
    const name = path.basename(file);
    if (!line) tally.tried(`${name} was never answered`);
    else if (line.said.some((s) => s.startsWith('crash:') || s.trim() === ''))
      tally.tried(`${name}: ${line.said.join(' | ')}`);
    else tally.tried(line.seconds <= LIMIT ? null : `${name} took ${Math.round(line.seconds)} s`);
    if (line && TRAPS[name])
      tally.tried(
        line.said.slice(0, 3).some((s) => s === 'done' || s === 'read')
          ? `${name} was read: ${line.said.join(' | ')}`
          : null,
      );
  }
  // What the tracer saw: every path that was opened or run, and everybody who was called.
  const trace = readFileSync(log, 'utf8').split('\n');
  const opened = trace.filter((l) => /open(?:at2?)?\(/.test(l));
  tally.tried(opened.length > 1000 ? null : 'nothing was traced');
  tally.tried(
    opened.some((l) => l.includes('outside-'))
      ? `a file outside was opened: ${opened.find((l) => l.includes('outside-'))}`
      : null,
  );
  tally.tried(
    trace.some((l) => /connect\(\d+, \{sa_family=AF_INET6?/.test(l))
      ? `somebody was called: ${trace.find((l) => /connect\(\d+, \{sa_family=AF_INET/.test(l))}`
      : null,
  );
  const started = new Set(
    trace.flatMap((l) => /execve\("([^"]+)".*= 0/.exec(l)?.[1] ?? []).map((p) => path.basename(p)),
  );
  // esbuild makes the sources loadable for the threads; setpriv, prlimit and nice start FFmpeg within bounds; the rest read.
  const known = new Set([
    'ffmpeg',
    'ffprobe',
    'setpriv',
    'prlimit',
    'nice',
    'exiftool',
    'perl',
    'env',
    'node',
    'esbuild',
    path.basename(process.execPath),
  ]);
  for (const program of started) tally.tried(known.has(program) ? null : `${program} was started`);
  console.log(
    `  ${files.length} files, ${opened.length} openings traced, programs started: ${[...started].sort().join(', ')}`,
  );
  rmSync(dir, { recursive: true, force: true });
  return tally;
}
