import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  realpathSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { crc32, deflateSync } from 'node:zlib';
import { FILMSTRIP } from '../../../core/analysis';
import { rate } from '../../../core/platform/timecode/rate';
import { openPlain, readPlain } from '../files/plainFile';
import { makeClip, put, sizeOf } from '../../testing/media';
import { clearLeftInputs, withInput } from './input';
import { writeFilmstrip } from '../../analysis';
import { frameAsJpeg } from '../../viewing/frames';
import { probe } from './probe';
import { endTagReader, readTags } from '../../reading/tagReader';
import { FFMPEG, limited, toolLimits } from './tools';

// Files that name further files, names that are patterns, and links that come between a look and the opening.

let dir: string;
const LOOKED = { rate: rate(25) };
const at = (name: string): string => path.join(dir, name);
/** A picture of one colour, so that it is told which file was read. */
const picture = (name: string, colour: string, size = '64x48'): string => {
  mkdirSync(path.dirname(at(name)), { recursive: true });
  const extension = path.extname(name);
  const made = at(`made${extension}`);
  execFileSync(FFMPEG(), [
    '-v',
    'error',
    '-y',
    '-f',
    'lavfi',
    '-i',
    `color=${colour}:size=${size}`,
    '-frames:v',
    '1',
    '-f',
    'image2',
    '-update',
    '1',
    `file:${made}`,
  ]);
  renameSync(made, at(name));
  return at(name);
};
/** The colour in the middle of a JPEG: red, green or blue. */
const colourOf = (jpeg: Uint8Array): string => {
  const [r, g, b] = execFileSync(
    FFMPEG(),
    [
      '-v',
      'error',
      '-f',
      'mjpeg',
      '-i',
      'pipe:0',
      '-vf',
      'scale=1:1,format=rgb24',
      '-frames:v',
      '1',
      '-f',
      'rawvideo',
      'pipe:1',
    ],
    { input: jpeg },
  );
  return r! > 128 ? 'red' : g! > 100 ? 'green' : b! > 100 ? 'blue' : 'black';
};

/** Folders of this process that files are given in. */
const given = (): string[] =>
  readdirSync(tmpdir()).filter((n) => n.startsWith(`shelf-input-${process.pid}-`));
/** Those that test files before this one, in the same process, are not done with. */
let earlier: string[] = [];
beforeAll(() => {
  dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-given-')));
  earlier = given();
});
afterAll(async () => {
  await endTagReader();
  rmSync(dir, { recursive: true, force: true });
});

describe('a file that names further files', () => {
  const secret = () => picture('outside/secret.jpg', 'red');
  test.each<[string, string, (target: string) => string]>([
    [
      'a playlist',
      'list.jpg',
      (t) => `#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\nfile://${t}\n#EXT-X-ENDLIST\n`,
    ],
    ['a playlist with 0x47 at byte 4', 'list.mp4', (t) => `#EXTG\n#EXTM3U\n#EXTINF:5,\nfile:${t}\n`],
    ['a script', 'script.mov', (t) => `ffconcat version 1.0\nfile 'file:${t}'\n`],
    ['a session description', 's.mp4', () => 'v=0\nc=IN IP4 127.0.0.1\nm=video 9 RTP/AVP 96\n'],
    ['a manifest', 'm.png', (t) => `<?xml version="1.0"?><MPD><BaseURL>file:${t}</BaseURL></MPD>`],
  ])('%s is refused by every reader, whatever it is called', async (_, name, text) => {
    const file = put(at(name), text(secret()));
    for (const work of [
      () => probe(file),
      () => frameAsJpeg(file, 0, LOOKED, 64),
      () => writeFilmstrip(file, { frames: 1, rate: rate(25) }, at('strip.jpg')),
    ])
      await expect(work()).rejects.toThrow(`${name} is text, whatever its name says.`);
  });

  test('as a segment of a take it is refused, too, beside one that is footage', async () => {
    const files = [
      makeClip(at('take_1.mov')),
      put(at('take_2.mov'), `ffconcat version 1.0\nfile 'file:${secret()}'\n`),
    ];
    await expect(frameAsJpeg({ kind: 'video', files, rate: null }, 1000, LOOKED, 64)).rejects.toThrow(
      'take_2.mov is text',
    );
  });

  test('FFmpeg itself opens no kind but the one that was seen', async () => {
    await withInput(makeClip(at('plain.mov')), async ({ args }) => {
      expect(args.join(' ')).toMatch(
        /^-protocol_whitelist file,pipe -format_whitelist mov -max_pixels \d+ -i file:\S+0000000\.mov$/,
      );
    });
  });
});

describe('names that are patterns, options, lines or protocols', () => {
  test.each([
    '%d.jpg',
    '100%done.jpg',
    '%03d.jpg',
    '*.jpg',
    '-i.jpg',
    'file:x.jpg',
    'pipe:0.jpg',
    'a\nfile x.jpg',
    "it's.jpg",
    'concat:a|b.jpg',
  ])('%j is read itself, not the file it could mean', async (name) => {
    picture('0.jpg', 'red');
    picture('001.jpg', 'red');
    picture('x.jpg', 'red');
    const file = picture(name, 'blue');
    expect(colourOf(await frameAsJpeg(file, 0, LOOKED, 64))).toBe('blue');
    expect((await probe(file)).streams[0]).toMatchObject({ width: 64, height: 48 });
    expect(await readTags(file)).toMatchObject({ ImageWidth: '64' });
  });

  test('segments below a folder whose name has a line in it', async () => {
    const folder = "odd\nfile 'outside/secret.mov'\n";
    const files = ['1', '2'].map((n) => makeClip(path.join(dir, folder, `t_${n}.mov`), { audio: [] }));
    expect((await frameAsJpeg({ kind: 'video', files, rate: null }, 12, LOOKED, 64)).length).toBeGreaterThan(
      100,
    );
  });

  test('of a row of stills the one that is wanted is shown', async () => {
    const files = ['red', 'green', 'blue'].map((c, i) => picture(`row/%d-${i}.png`, c));
    const footage = { kind: 'stills' as const, files, rate: rate(25) };
    expect(
      await Promise.all([0, 1, 2].map(async (n) => colourOf(await frameAsJpeg(footage, n, LOOKED, 64)))),
    ).toEqual(['red', 'green', 'blue']);
    await expect(frameAsJpeg(footage, 3, LOOKED, 64)).rejects.toThrow('has no frame 3');
    await writeFilmstrip(footage, { frames: 3, rate: rate(25) }, at('row.jpg'));
    expect((await probe(at('row.jpg'))).streams[0]).toMatchObject({ width: 3 * FILMSTRIP.width });
  });

  test('nothing is left of the folders files are given in', async () => {
    const left = () => given().filter((n) => !earlier.includes(n));
    // Work that a test file before this one began, in the same process, may be under way: it ends.
    for (let looks = 0; left().length > 0 && looks < 100; looks++)
      await new Promise((r) => setTimeout(r, 100));
    expect(left()).toEqual([]);
  });

  test('what a killed server left is cleared away at the next start, and nobody else’s', async () => {
    const mine = mkdtempSync(path.join(tmpdir(), `shelf-input-${process.pid}-`));
    const left = mkdtempSync(path.join(tmpdir(), 'shelf-input-999999999-'));
    symlinkSync(put(at('kept.txt'), 'kept'), path.join(left, '0.mov'));
    await clearLeftInputs();
    expect([existsSync(mine), existsSync(left), existsSync(at('kept.txt'))]).toEqual([true, false, true]);
    rmSync(mine, { recursive: true });
  });
});

describe('links', () => {
  test('neither a file that is one, nor one below a folder that is one, is opened', async () => {
    put(at('away/secret.txt'), 'secret');
    symlinkSync(at('away/secret.txt'), at('link.txt'));
    symlinkSync(at('away'), at('linked'));
    await expect(openPlain(at('link.txt'))).rejects.toMatchObject({
      code: 'ELOOP',
      message: 'link.txt is a link.',
    });
    await expect(openPlain(at('linked/secret.txt'))).rejects.toMatchObject({
      code: 'ELOOP',
      message: 'secret.txt has moved, or its path leads through a link.',
    });
  });

  test('one that is swapped in again and again between look and opening shows nothing of what it leads to', async () => {
    put(at('card/clip/a.txt'), 'inside');
    put(at('else/a.txt'), 'outside');
    symlinkSync(at('else'), at('to-else'));
    const script = `const fs = require('node:fs'); const end = Date.now() + 3000;
      while (Date.now() < end) { fs.renameSync('card/clip', 'card/kept'); fs.renameSync('to-else', 'card/clip'); fs.renameSync('card/clip', 'to-else'); fs.renameSync('card/kept', 'card/clip'); }`;
    writeFileSync(at('swap.cjs'), script);
    let swapping = true;
    const swaps = import('execa')
      .then(({ execa }) => execa('node', ['swap.cjs'], { cwd: dir }))
      .finally(() => {
        swapping = false;
      });
    const said: string[] = [];
    while (swapping)
      said.push(await readPlain(at('card/clip/a.txt'), 100).then(String, (e: { code: string }) => e.code));
    await swaps;
    expect(said.length).toBeGreaterThan(200);
    expect(said.filter((s) => s === 'inside').length).toBeGreaterThan(10);
    // What it met at other moments: the link, or nothing.
    expect(said.some((s) => s === 'ELOOP')).toBe(true);
    expect(said.filter((s) => !['inside', 'ELOOP', 'ENOENT'].includes(s))).toEqual([]);
  });
});

describe('limits of what reads a card', () => {
  test('a picture that would take gigabytes is not decoded', async () => {
    // 420 million pixels of one bit each, in 50 kB.
    const [width, height] = [21_000, 20_000];
    const chunk = (type: string, data: Buffer): Buffer => {
      const body = Buffer.concat([Buffer.from(type), data]);
      const [length, crc] = [Buffer.alloc(4), Buffer.alloc(4)];
      length.writeUInt32BE(data.length);
      crc.writeUInt32BE(crc32(body) >>> 0);
      return Buffer.concat([length, body, crc]);
    };
    const head = Buffer.alloc(13);
    head.writeUInt32BE(width, 0);
    head.writeUInt32BE(height, 4);
    head[8] = 1;
    const png = (h: Buffer) =>
      Buffer.concat([
        Buffer.from('89504e470d0a1a0a', 'hex'),
        chunk('IHDR', h),
        chunk('IDAT', deflateSync(Buffer.alloc((width / 8 + 1) * height))),
        chunk('IEND', Buffer.alloc(0)),
      ]);
    const bomb = put(at('bomb.png'), png(head));
    expect(sizeOf(bomb)).toBeLessThan(100_000);
    await expect(frameAsJpeg(bomb, 0, LOOKED, 64)).rejects.toMatchObject({ title: 'Unreadable' });
    head.writeUInt32BE(1000, 4);
    await expect(frameAsJpeg(put(at('fine.png'), png(head)), 0, LOOKED, 64)).resolves.toBeDefined();
  });

  test('a program that takes more memory than it may is refused it', () => {
    const before = toolLimits.memory;
    toolLimits.memory = 2 ** 30;
    const [command, args] = limited('perl', ['-e', '$x = "a" x (2 * 2**30)']);
    toolLimits.memory = before;
    expect(() => execFileSync(command, args, { stdio: 'pipe' })).toThrow(/Out of memory/);
  });

  test('a program ends with the server, however that ends', async () => {
    const script = `import { execa } from 'execa'; import { limited } from ${JSON.stringify(path.resolve('src/server/platform/media/tools.ts'))};
      const run = execa(...limited('sleep', ['1000'])); run.catch(() => 0); console.log(run.pid); setInterval(() => 0, 1000);`;
    writeFileSync(path.resolve('.cache/ends.test.mts'), script);
    const { execa } = await import('execa');
    const server = execa('node', ['--import', 'tsx', '.cache/ends.test.mts']);
    const pid = await new Promise<number>((r) => server.stdout.once('data', (d) => r(Number(d))));
    const runs = () => {
      try {
        return process.kill(pid, 0);
      } catch {
        return false;
      }
    };
    expect(runs()).toBe(true);
    server.kill('SIGKILL');
    await server.catch(() => null);
    for (let n = 0; n < 100 && runs(); n++) await new Promise((r) => setTimeout(r, 20));
    expect(runs()).toBe(false);
    rmSync(path.resolve('.cache/ends.test.mts'));
  });
});
