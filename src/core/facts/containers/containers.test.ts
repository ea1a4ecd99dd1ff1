import { describe, expect, test } from '@jest/globals';
import { boxesIn, readMovie } from './boxes';
import { statementsFromContainer } from '../container';
import { Bytes } from './bytes';
import { samplingOf } from './coding';
import { readMatroska } from './matroska';
import { readBext, readFormat } from './wave';

const bytes = (...parts: (number[] | string | Uint8Array)[]): Uint8Array =>
  Uint8Array.from(
    parts.flatMap((p) => (typeof p === 'string' ? [...p].map((c) => c.charCodeAt(0)) : [...p])),
  );
const u32 = (n: number): number[] => [(n >>> 24) & 255, (n >>> 16) & 255, (n >>> 8) & 255, n & 255];
const u16 = (n: number): number[] => [(n >> 8) & 255, n & 255];
const box = (type: string, ...body: (number[] | string | Uint8Array)[]): Uint8Array => {
  const b = bytes(...body);
  return bytes(u32(b.length + 8), type, b);
};
const zeros = (n: number): number[] => Array<number>(n).fill(0);

test('bytes: numbers of both orders, nothing past the end, text of any kind', () => {
  const b = new Bytes(bytes([0xff, 0xfe, 1, 2]));
  expect([b.u16(0), b.i16(0), b.u16(0, true), b.u32(2), b.u8(99)]).toEqual([0xfffe, -2, 0xfeff, 0, 0]);
  expect(new Bytes(bytes(u32(0x200000), u32(0))).u64(0)).toBe(Infinity);
  expect(new Bytes(bytes('Mühle\0rest')).text(0, 10)).toBe('Mühle');
  expect(new Bytes(new TextEncoder().encode('Mühle')).text(0, 99)).toBe('Mühle');
  expect(new Bytes(bytes([0xff, 0xfe, 0x41, 0, 0x42, 0])).text(0, 6)).toBe('AB');
});

describe('boxes (ISO/IEC 14496-12, from memory)', () => {
  test('a box that claims more than there is ends the row; 64-bit and open lengths', () => {
    const row = new Bytes(
      bytes(box('free', [1]), bytes(u32(1), 'wide', u32(0), u32(20), [1, 2, 3, 4]), u32(99), 'moov'),
    );
    expect([...boxesIn(row)].map((b) => [b.type, b.body.length])).toEqual([
      ['free', 1],
      ['wide', 4],
    ]);
    expect([...boxesIn(new Bytes(bytes(u32(0), 'mdat', [1, 2])))].map((b) => b.body.length)).toEqual([2]);
    expect([...boxesIn(new Bytes(bytes(u32(3), 'mdat')))]).toEqual([]);
  });

  const timecodeTrack = (flags: number, timescale: number, duration: number, frames: number) =>
    box(
      'trak',
      box(
        'mdia',
        box('mdhd', zeros(4), u32(0), u32(0), u32(timescale), u32(timescale)),
        box('hdlr', zeros(4), 'mhlr', 'tmcd', zeros(12)),
        box(
          'minf',
          box(
            'stbl',
            box(
              'stsd',
              zeros(4),
              u32(1),
              box('tmcd', zeros(8), zeros(4), u32(flags), u32(timescale), u32(duration), [frames, 0]),
            ),
            box('stco', zeros(4), u32(1), u32(4096)),
          ),
        ),
      ),
    );

  test('a timecode track: drop-frame flag, exact rate, where its number stands (QuickTime File Format)', () => {
    const m = readMovie(
      new Bytes(
        bytes(box('mvhd', zeros(4), u32(0), u32(0), u32(600), u32(6000)), timecodeTrack(1, 30000, 1001, 30)),
      ),
      'qt',
    );
    expect([m.timescale, m.duration]).toEqual([600, 6000]);
    expect(m.tracks[0]).toMatchObject({
      kind: 'timecode',
      timecode: { drop: true, timescale: 30000, frameDuration: 1001, framesPerSecond: 30, sampleAt: 4096 },
    });
    expect(readMovie(new Bytes(timecodeTrack(0, 0, 0, 0)), 'qt').tracks[0]!.timecode).toBeNull();
  });

  test('light levels and the mastering display (boxes clli and mdcv)', () => {
    const description = box(
      'hvc1',
      zeros(78),
      box('clli', u16(1000), u16(400)),
      box('mdcv', zeros(16), u32(10_000_000), u32(50)),
    );
    const track = box(
      'trak',
      box(
        'mdia',
        box('mdhd', zeros(4), u32(0), u32(0), u32(25), u32(25)),
        box('hdlr', zeros(4), 'mhlr', 'vide', zeros(12)),
        box('minf', box('stbl', box('stsd', zeros(4), u32(1), description))),
      ),
    );
    const movie = readMovie(new Bytes(track), 'isom');
    expect(movie.tracks[0]).toMatchObject({
      light: { brightest: 1000, average: 400 },
      mastering: { least: 50, most: 10_000_000 },
    });
    const { statements } = statementsFromContainer({ opened: null, movie, timecodeFrame: null }, 0);
    const said = Object.fromEntries(statements.map((s) => [s.field, s.value]));
    expect([said.maxCll, said.maxFall, said.masteringDisplay]).toEqual([
      { type: 'count', count: 1000 },
      { type: 'count', count: 400 },
      { type: 'text', text: '0.005 to 1000 cd/m²' },
    ]);
  });

  test('user data: text entries, metadata by key and by code, places; what is not known is said to be unread', () => {
    const data = (s: string) => box('data', u32(1), u32(0), s);
    const m = readMovie(
      new Bytes(
        bytes(
          box(
            'udta',
            box('\u00a9mod', u16(2), u16(0), 'C8'),
            box('\u00a9xyz', u16(18), u16(0), '+12.3400-032.1000/'),
            box('MAKR', [1, 2, 3]),
            box('loci', zeros(4), u16(0), [0, 0], u32(0xffdfe666), u32(0x000c5700), u32(0x000a0000), [0, 0]),
          ),
          box(
            'meta',
            box('hdlr', zeros(8), 'mdta', zeros(12)),
            box('keys', zeros(4), u32(1), u32(8 + 17), 'mdta', 'com.example.model'),
            box('ilst', bytes(u32(8 + data('T5').length), u32(1), data('T5'))),
          ),
        ),
      ),
      'qt',
    );
    expect(m.tags).toEqual([
      { key: '\u00a9mod', text: 'C8' },
      { key: '\u00a9xyz', text: '+12.3400-032.1000/' },
      { key: 'loci', text: '+12.3398-32.1000+10.0000/' },
      { key: 'com.example.model', text: 'T5' },
    ]);
    expect(m.unread).toEqual(['udta MAKR']);
  });

  test('a metadata track may say more than is read here', () => {
    const m = readMovie(
      new Bytes(
        box('trak', box('mdia', box('hdlr', zeros(4), 'mhlr', 'meta', zeros(12)), box('minf', box('stbl')))),
      ),
      'mp42',
    );
    expect(m.unread).toEqual(['track meta']);
  });
});

describe('decoder configurations (ISO/IEC 14496-15, from memory)', () => {
  test('H.264: Main is 4:2:0 with 8 bits, High 4:2:2 says its own in the parameter set', () => {
    // A parameter set as x264 writes it for 4:2:2 with 10 bits, progressive.
    const sps = Uint8Array.from([0x67, 0x7a, 0x00, 0x0c, 0xb6, 0xcd, 0x94, 0x14, 0x1f, 0xf0]);
    const high = samplingOf({ type: 'avcC', data: bytes([1, 122, 0, 31, 0xff, 0xe1], u16(sps.length), sps) });
    expect(high).toMatchObject({ profile: 'High 4:2:2', level: 3.1, chroma: '4:2:2', bitDepth: 10 });
    expect(samplingOf({ type: 'avcC', data: bytes([1, 66, 0x40, 31, 0xff, 0xe0], u16(0)) })).toMatchObject({
      profile: 'Constrained Baseline',
      chroma: null,
    });
  });

  test('HEVC says chroma and depth in the configuration itself; nonsense says nothing', () => {
    const hvcc = new Uint8Array(23);
    hvcc.set([1, 4], 0);
    hvcc[12] = 93;
    hvcc[16] = 0xfc | 2;
    hvcc[17] = 0xf8 | 2;
    expect(samplingOf({ type: 'hvcC', data: hvcc })).toMatchObject({
      chroma: '4:2:2',
      bitDepth: 10,
      profile: 'Rext',
      level: 3.1,
    });
    expect(samplingOf({ type: 'hvcC', data: new Uint8Array(3) })).toEqual({
      chroma: null,
      bitDepth: null,
      profile: null,
      level: null,
      progressive: null,
    });
  });
});

describe('sound', () => {
  test('a bext chunk (EBU Tech 3285): date, time, samples since midnight in 64 bits', () => {
    const b = new Uint8Array(602);
    const put = (at: number, s: string) => b.set(bytes(s), at);
    put(0, 'wheel, miller');
    put(256, 'Lintel R4');
    put(320, '2026-05-06');
    put(330, '14:22:05');
    // 14:22:05 at 48 kHz is 2 482 800 000 samples.
    new DataView(b.buffer).setBigUint64(338, 2_482_800_000n, true);
    expect(readBext(new Bytes(b))).toMatchObject({
      description: 'wheel, miller',
      originator: 'Lintel R4',
      date: '2026-05-06',
      time: '14:22:05',
      timeReference: 2_482_800_000,
      umid: '',
    });
  });

  test('the sub-format of an extensible header counts', () => {
    const b = new Uint8Array(40);
    const v = new DataView(b.buffer);
    [
      [0, 0xfffe],
      [2, 4],
      [12, 12],
      [14, 24],
      [24, 3],
    ].forEach(([at, n]) => v.setUint16(at!, n!, true));
    v.setUint32(4, 48000, true);
    expect(readFormat(new Bytes(b))).toMatchObject({ kind: 3, channels: 4, sampleRate: 48000, bits: 24 });
  });
});

test('Matroska (RFC 9559): frame duration, date, title; damage gives nothing', () => {
  const el = (id: number[], body: Uint8Array | number[]) =>
    bytes(id, [0x40 | (body.length >> 8), body.length & 255], body);
  const info = el(
    [0x15, 0x49, 0xa9, 0x66],
    bytes(el([0x7b, 0xa9], bytes('Wheel')), el([0x44, 0x61], bytes(u32(0), u32(1_000_000_000)))),
  );
  const tracks = el(
    [0x16, 0x54, 0xae, 0x6b],
    el([0xae], bytes(el([0x83], [1]), el([0x23, 0xe3, 0x83], u32(40_000_000)))),
  );
  const file = bytes(el([0x1a, 0x45, 0xdf, 0xa3], []), [0x18, 0x53, 0x80, 0x67, 0xff], info, tracks);
  expect(readMatroska(new Bytes(file))).toEqual({
    frameNanoseconds: 40_000_000,
    date: 1_000_000_000,
    title: 'Wheel',
    writer: '',
  });
  expect(readMatroska(new Bytes(file.subarray(0, 9)))).toEqual({
    frameNanoseconds: null,
    date: null,
    title: '',
    writer: '',
  });
});
