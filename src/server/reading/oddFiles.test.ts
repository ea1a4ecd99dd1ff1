import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { exiftoolPath } from 'exiftool-vendored';
import { chooseFacts, type FieldId, formatValue } from '../../core/facts';
import { FFMPEG, FFPROBE } from '../platform/media/tools';
import { readStatements } from './readFamily';
import { endReaders } from './readPool';
import { endTagReader } from './tagReader';

// What real files state in other places than the demonstration's do. Made by FFmpeg; what is expected is what it was told.

let dir: string;
beforeAll(() => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-odd-'));
});
afterAll(async () => {
  await Promise.all([endReaders(), endTagReader()]);
  rmSync(dir, { recursive: true, force: true });
});

const made = (name: string, ...args: string[]): string => {
  const file = path.join(dir, name);
  execFileSync(FFMPEG(), ['-v', 'error', '-y', '-f', 'lavfi', '-i', ...args, file]);
  return file;
};
const facts = async (file: string, kind: 'video' | 'sound' | 'still', ...fields: FieldId[]) => {
  const { size, mtimeMs } = statSync(file);
  const { statements, fault } = await readStatements(
    { kind, files: [{ role: 'original', file, size, modified: mtimeMs }] },
    { zoneMinutes: 0, stillsRate: 25 },
  );
  expect(fault).toBeNull();
  const chosen = chooseFacts(statements);
  return fields.map((f) => {
    const v = chosen.get(f)?.chosen.value;
    return v ? formatValue(v, f) : null;
  });
};
const picture = (size = '320x180', rate = 25) => `testsrc2=s=${size}:r=${rate}:d=1`;

test('a timecode that a track of Matroska has among its tags', async () => {
  const file = made('track.mkv', picture(), '-c:v', 'libx264', '-metadata:s:v', 'timecode=10:00:00:00');
  expect(await facts(file, 'video', 'start', 'rate')).toEqual(['10:00:00:00', '25 fps']);
});

test('the reel in a timecode track', async () => {
  const file = made('reel.mov', picture(), '-timecode', '10:00:00:00', '-metadata:s:v', 'reel_name=A001R1');
  expect(await facts(file, 'video', 'start', 'reel')).toEqual(['10:00:00:00', 'A001R1']);
});

test.each([
  ['tff', 'interlaced, top field first'],
  ['bff', 'interlaced, bottom field first'],
])('interlaced H.264, %s', async (order, scan) => {
  const file = made(
    `${order}.mp4`,
    picture('720x576', 50),
    ...[
      '-vf',
      `interlace=scan=${order}`,
      '-c:v',
      'libx264',
      '-flags',
      '+ilme+ildct',
      '-x264opts',
      `${order}=1`,
    ],
  );
  expect(await facts(file, 'video', 'scan', 'rate', 'frames')).toEqual([scan, '25 fps', '25 frames']);
});

test.each([
  ['pal.dv', '720x576', 25, 'yuv420p', 'interlaced, bottom field first'],
  ['pal.avi', '720x576', 25, 'yuv420p', 'interlaced, bottom field first'],
  ['ntsc.dv', '720x480', 30000 / 1001, 'yuv411p', 'interlaced, bottom field first'],
  ['wide.mov', '960x720', 50, 'yuv422p', 'progressive'],
])('the fields of DV, as FFmpeg finds them in its frames: %s', async (name, size, rate, format, scan) => {
  const file = made(name, picture(size, rate), '-c:v', 'dvvideo', '-pix_fmt', format);
  expect(await facts(file, 'video', 'scan')).toEqual([scan]);
  const shown = ['-show_entries', 'frame=interlaced_frame,top_field_first', '-of', 'csv=p=0'];
  const frames = execFileSync(FFPROBE(), ['-v', 'error', '-select_streams', 'v:0', ...shown, file], {
    encoding: 'utf8',
  });
  expect(new Set(frames.trim().split('\n'))).toEqual(new Set([scan === 'progressive' ? '0,0' : '1,0']));
});

test('timecode of a wave file of 64 bits', async () => {
  const file = made(
    'long.wav',
    'sine=d=1:r=48000',
    ...['-c:a', 'pcm_s24le', '-rf64', 'always', '-write_bext', '1'],
    ...['-metadata', 'time_reference=1728000000', '-metadata', 'origination_date=2026-05-06'],
  );
  expect(await facts(file, 'sound', 'start', 'samples')).toEqual(['10:00:00:00', '48000 samples']);
});

test.each([
  ['deep.png', 'rgb48be', '16 bit', null],
  ['float.exr', 'gbrpf32le', '32 bit', 'float'],
  ['grey.tif', 'gray16le', '16 bit', null],
  ['film.dpx', 'gbrp10be', '10 bit', null],
])('samples of a still: %s', async (name, format, depth, kind) => {
  const file = made(name, picture(), '-frames:v', '1', '-pix_fmt', format);
  expect(await facts(file, 'still', 'bitDepth', 'sampleFormat')).toEqual([depth, kind]);
});

const fault = async (file: string, kind: 'video' | 'sound' | 'still') => {
  const { size, mtimeMs } = statSync(file);
  return (
    await readStatements(
      { kind, files: [{ role: 'original', file, size, modified: mtimeMs }] },
      { zoneMinutes: 0, stillsRate: 25 },
    )
  ).fault;
};

test('a sound recording that was cut short says so; one that states no length is read to its end', async () => {
  const whole = made('whole.wav', 'sine=d=2:r=48000', '-c:a', 'pcm_s16le');
  const bytes = readFileSync(whole);
  const data = bytes.indexOf('data') + 4;
  const write = (name: string, change: (b: Buffer) => Buffer) => {
    const file = path.join(dir, name);
    writeFileSync(file, change(Buffer.from(bytes)));
    return file;
  };
  expect(
    await fault(
      write('cut.wav', (b) => b.subarray(0, 100_000)),
      'sound',
    ),
  ).toBe(
    `cut.wav cannot be read: it is cut short: of 192000 bytes of sound that it states ${100_000 - data - 4} are there, the copy or the recording was not finished`,
  );
  const streamed = write('streamed.wav', (b) => (b.writeUInt32LE(0xffffffff, data), b));
  expect(await facts(streamed, 'sound', 'samples')).toEqual(['96000 samples']);
  expect(
    await fault(
      write('none.wav', (b) => (b.writeUInt32LE(0, data), b)),
      'sound',
    ),
  ).toBe('none.wav cannot be read: it states no sound: the recording was not finished');
});

test('an AVI that was cut short says so', async () => {
  const whole = made('whole.avi', picture(), '-c:v', 'mjpeg');
  expect(await fault(whole, 'video')).toBeNull();
  const cut = path.join(dir, 'cut.avi');
  writeFileSync(cut, readFileSync(whole).subarray(0, 50_000));
  expect(await fault(cut, 'video')).toBe(
    'cut.avi is cut short: it ends inside its data, the copy was not finished',
  );
});

test.each<[string, 'video' | 'sound', Buffer, string]>([
  [
    'broken.mkv',
    'video',
    Buffer.concat([Buffer.from('1a45dfa3', 'hex'), Buffer.alloc(200, 7)]),
    'it is damaged, or not what its name says',
  ],
  [
    'broken.mp3',
    'sound',
    Buffer.from('ID3\x04\0\0\0\0\0\x0a', 'latin1'),
    'its header makes no sense, it is damaged',
  ],
])('what is damaged says so in plain words: %s', async (name, kind, bytes, why) => {
  const file = path.join(dir, name);
  writeFileSync(file, bytes);
  expect(await fault(file, kind)).toContain(`${name} cannot be read: ${why}`);
});

test('a still in JPEG XL is read, its depth and size stated', async () => {
  const file = made('still.jxl', picture(), '-frames:v', '1', '-c:v', 'libjxl');
  expect(await facts(file, 'still', 'width', 'height', 'bitDepth')).toEqual(['320 px', '180 px', '8 bit']);
});

test('bits of sound that was coded without loss', async () => {
  const file = made(
    'deep.flac',
    'sine=d=1:r=48000',
    '-c:a',
    'flac',
    '-sample_fmt',
    's32',
    '-bits_per_raw_sample',
    '24',
  );
  expect(await facts(file, 'sound', 'audioBits', 'sampleRate')).toEqual(['24 bit', '48000 Hz']);
});

test('what a sidecar of XMP says of its still; a damaged one is named, and the still is read', async () => {
  const file = made('beside.jpg', picture(), '-frames:v', '1');
  const xmp = path.join(dir, 'beside.xmp');
  const read = async () => {
    const of = (f: string) => ({ file: f, size: statSync(f).size, modified: 0 });
    const { statements, notes, fault } = await readStatements(
      {
        kind: 'still',
        files: [
          { role: 'original', ...of(file) },
          { role: 'sidecar', ...of(xmp) },
        ],
      },
      { zoneMinutes: 0, stillsRate: 25 },
    );
    expect(fault).toBeNull();
    const chosen = chooseFacts(statements);
    const shown = (f: FieldId) => {
      const v = chosen.get(f)?.chosen;
      return v ? `${formatValue(v.value, f)} by ${v.source}` : null;
    };
    return { shown, notes };
  };
  const told = [
    ...[
      'tiff:Make=Whimbrel',
      'tiff:Model=K2',
      'tiff:Orientation#=6',
      'exif:FNumber=2.8',
      'exif:ExposureTime=1/50',
    ],
    ...[
      'exif:ISO=800',
      'exif:DateTimeOriginal=2026:05:06 14:22:05+02:00',
      'dc:Description=The slip at low water',
    ],
  ];
  execFileSync(await exiftoolPath(), [...told.map((t) => `-XMP-${t}`), '-q', '-o', xmp]);
  const { shown, notes } = await read();
  expect(notes).toEqual([]);
  expect(
    (['maker', 'model', 'aperture', 'shutter', 'iso', 'recordedAt', 'description', 'rotation'] as const).map(
      shown,
    ),
  ).toEqual([
    'Whimbrel by sidecar',
    'K2 by sidecar',
    'f/2.8 by sidecar',
    '1/50 s by sidecar',
    '800 by sidecar',
    '2026-05-06 14:22:05 by sidecar',
    'The slip at low water by sidecar',
    '90° by sidecar',
  ]);
  writeFileSync(xmp, 'no XMP at all');
  const broken = await read();
  expect(broken.shown('maker')).toBeNull();
  expect(broken.notes.join()).toContain('beside.xmp');
});

test('subjects of XMP as the standard has them (ISO 16684-1, dc:subject: an unordered array), as ExifTool reads them', async () => {
  const file = made('worded.jpg', picture(), '-frames:v', '1');
  const xmp = path.join(dir, 'worded.xmp');
  const words = ['low water', 'Müllerrad & gate', 'WHEEL'];
  const items = words.map((w) => `<rdf:li>${w.replace('&', '&amp;')}</rdf:li>`).join('');
  writeFileSync(
    xmp,
    `<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:subject><rdf:Bag>${items}</rdf:Bag></dc:subject></rdf:Description></rdf:RDF>`,
  );
  const of = (f: string) => ({ file: f, size: statSync(f).size, modified: 0 });
  const { statements, notes } = await readStatements(
    {
      kind: 'still',
      files: [
        { role: 'original', ...of(file) },
        { role: 'sidecar', ...of(xmp) },
      ],
    },
    { zoneMinutes: 0, stillsRate: 25 },
  );
  expect(notes).toEqual([]);
  const stated = chooseFacts(statements).get('subject')!.chosen;
  expect(stated.source).toBe('sidecar');
  const says = formatValue(stated.value, 'subject');
  const outside = execFileSync(await exiftoolPath(), ['-s3', '-sep', '; ', '-XMP-dc:Subject', xmp], {
    encoding: 'utf8',
  });
  expect(says).toBe(outside.trim());
  expect(says.split('; ')).toEqual(words);
});
