import { expect, test } from '@jest/globals';
import { addFrames, parseTimecode } from '../platform/timecode/timecode';
import { type ImageAbout, imageArguments, imageBytes, imageTail, NotAnImage, stampedImage } from './images';
import { NO_TAGS, type ProxySource } from './source';

const source = (of: Partial<ProxySource> = {}): ProxySource => ({
  ...{
    matrix: 'bt709',
    pixelAspect: null,
    rotation: 0,
    scan: 'progressive',
    rate: { num: 25, den: 1 },
    varies: false,
  },
  ...{ frames: 100, start: null, audio: [], tags: NO_TAGS },
  colour: { range: 'limited', primaries: 'bt709', transfer: 'bt709', matrix: 'bt709' },
  ...of,
});
const filter = (of: Partial<ProxySource>, kind: 'dpx10' | 'dpx16' = 'dpx10') => {
  const args = imageArguments(kind, source(of), { only: 'trim=start=4', frames: 5 }, []);
  expect(args).toEqual(expect.arrayContaining(['-frames:v', '5']));
  const [select, ...rest] = args[args.indexOf('-vf') + 1]!.split(/(?<!\\),/);
  expect(select).toBe('trim=start=4');
  return rest.join(',');
};
const FLAGS = 'flags=bicubic+accurate_rnd+full_chroma_int';
const unsaid = { range: null, primaries: null, transfer: null, matrix: null };

test('images are RGB in full range, by the matrix that its picture is made by', () => {
  expect(filter({})).toBe(
    `scale=in_range=limited:in_color_matrix=bt709:out_range=full:${FLAGS},format=gbrp10be`,
  );
  expect(filter({ colour: unsaid })).toContain('in_range=limited:in_color_matrix=bt709:');
  expect(filter({ colour: unsaid, matrix: 'smpte170m' })).toContain('in_color_matrix=smpte170m');
  expect(filter({ colour: { ...unsaid, range: 'full' }, matrix: 'bt2020' }, 'dpx16')).toBe(
    `scale=in_range=full:in_color_matrix=bt2020:out_range=full:${FLAGS},format=rgb48be`,
  );
  expect(filter({ colour: { ...unsaid, matrix: 'gbr' } })).toBe(
    `scale=out_range=full:${FLAGS},format=gbrp10be`,
  );
  // Fields stay in their frames, and pixels as wide as they are, of a turned picture as high.
  expect(filter({ scan: 'top', pixelAspect: 2 })).toMatch(/^setsar=2,.*:interl=1,format=/);
  expect(filter({ rotation: 90, pixelAspect: 2 })).toMatch(/^setsar=0\.5,/);
});

test('an image has its headers, and lines of whole words; its number is that of its frame from 1', () => {
  expect(imageBytes('dpx10', 1920, 1080)).toBe(2048 + 1920 * 1080 * 4);
  expect(imageBytes('dpx16', 1920, 1080)).toBe(2048 + 1920 * 1080 * 6);
  expect(imageBytes('dpx16', 193, 108)).toBe(2048 + 1160 * 108);
  expect([imageTail(0), imageTail(123_455)]).toEqual(['.0000001.dpx', '.0123456.dpx']);
});

/** An image of 8 bytes, with the generic header alone. */
const image = (): Uint8Array => {
  const bytes = new Uint8Array(1672);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, 0x53445058);
  for (const at of [4, 808]) view.setUint32(at, 1664);
  bytes.set([1, 2, 3, 4, 5, 6, 7, 8], 1664);
  return bytes;
};
const about = (of: Partial<ImageAbout> = {}): ImageAbout => ({
  ...{ name: 'T1.0000001.dpx', source: 'T1.MP4', timecode: null, rate: { num: 25, den: 1 } },
  ...{ interlaced: false, transfer: 'bt709', primaries: 'bt709', ...of },
});
const words = (bytes: Uint8Array, at: number): string => {
  const end = bytes.indexOf(0, at);
  return String.fromCharCode(...bytes.subarray(at, end));
};

test('an image says its timecode, rate and names where ST 268-1 has them (offsets from memory), and its picture is untouched', () => {
  const timecode = addFrames(parseTimecode('14:22:59:23', { num: 25, den: 1 })!, 2);
  const out = stampedImage(image(), about({ timecode, name: 'Mühle\n1.dpx' }));
  const view = new DataView(out.buffer);
  expect(out.length).toBe(2056);
  expect([...out.subarray(2048)]).toEqual([1, 2, 3, 4, 5, 6, 7, 8]);
  // Where the picture is, how long the file and its headers are.
  expect([4, 808, 16, 24, 28].map((at) => view.getUint32(at))).toEqual([2048, 2048, 2056, 1664, 384]);
  expect([...out.subarray(1920, 1924)]).toEqual([0x14, 0x23, 0x00, 0x00]);
  expect(view.getFloat32(1940)).toBe(25);
  expect([out[801], out[802], out[1928]]).toEqual([6, 6, 0]);
  // Letters of ASCII only, each ended by a zero.
  expect([words(out, 36), words(out, 1432)]).toEqual(['M?hle?1.dpx', 'T1.MP4']);
  const long = stampedImage(image(), about({ source: 'x'.repeat(300) }));
  expect(words(long, 1432)).toHaveLength(99);
  // Numbers that nobody knows have all their bits set.
  expect(new DataView(long.buffer).getUint32(1920)).toBe(0xff_ff_ff_ff);
});

test('drop-frame and fast timecodes are written as they are counted; a curve without a code is user-defined', () => {
  const rate = { num: 30_000, den: 1001 };
  const drop = stampedImage(image(), about({ timecode: parseTimecode('01:00:00;28', rate)!, rate }));
  expect([...drop.subarray(1920, 1924)]).toEqual([0x01, 0x00, 0x00, 0x28]);
  expect(new DataView(drop.buffer).getFloat32(1940)).toBeCloseTo(29.97, 4);
  const other = stampedImage(image(), about({ transfer: 'arib-std-b67', primaries: null, interlaced: true }));
  expect([other[801], other[802], other[1928]]).toEqual([0, 4, 1]);
});

test('bytes that are no such image are refused', () => {
  for (const bytes of [new Uint8Array(0), new Uint8Array(1664), image().fill(0, 0, 4), image().fill(9, 4, 8)])
    expect(() => stampedImage(bytes, about())).toThrow(NotAnImage);
});
