import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { makeClip, put, sizeOf } from '../testing/media';
import { probe, readSidecar, sniff } from '../platform/media/probe';
import { parseXml } from '../platform/media/xml';

let dir: string;
beforeAll(() => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-sniff-'));
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));
const at = (name: string) => path.join(dir, name);
const look = (file: string) => sniff(file, sizeOf(file));

describe('sniff', () => {
  test.each(['whole.mp4', 'whole.mov', 'whole.mxf'])('%s is footage', async (name) => {
    const codec = name.endsWith('mxf')
      ? { codec: ['-c:v', 'mpeg2video', '-pix_fmt', 'yuv422p'], audio: [], size: '720x576' }
      : {};
    expect(await look(makeClip(at(name), codec))).toBeNull();
  });

  test.each<[string, string | Buffer, string]>([
    ['text.mp4', 'dear diary, today the wheel turned', 'is text'],
    ['zeros.mp4', Buffer.alloc(5000), 'nothing but zeros'],
    ['bytes.mp4', Buffer.from('89504e470d0a1a0a0000000d', 'hex'), 'is a picture'],
    ['odd.mp4', Buffer.from('01020304c8', 'hex'), 'no kind known'],
    ['one.mp4', 'x', 'is text'],
  ])('%s is not', async (name, content, why) => {
    expect(await look(put(at(name), content))).toMatchObject({
      footage: false,
      fault: expect.stringContaining(why) as unknown,
    });
  });

  test('a file cut at any place is told, or read by ffprobe as what is left of it', async () => {
    const whole = readFileSync(makeClip(at('cut.mp4'), { frames: 50 }));
    for (const share of [0.05, 0.3, 0.6, 0.9, 0.999]) {
      const cut = put(at(`cut-${share}.mp4`), whole.subarray(0, Math.floor(whole.length * share)));
      expect(await look(cut)).toMatchObject({
        footage: true,
        fault: expect.stringMatching(/cut short/) as unknown,
      });
    }
  });

  test('boxes that lie about their length do not hold it up', async () => {
    const lie = Buffer.alloc(64);
    lie.writeUInt32BE(24, 0);
    lie.write('ftypisom', 4, 'latin1');
    lie.writeUInt32BE(0xfffffff0, 24);
    lie.write('mdat', 28, 'latin1');
    expect(await look(put(at('lie.mp4'), lie))).toMatchObject({ footage: true });
    const tiny = Buffer.alloc(64);
    tiny.writeUInt32BE(8, 0);
    tiny.write('ftyp', 4, 'latin1');
    tiny.writeUInt32BE(2, 8);
    expect(await look(put(at('tiny.mp4'), tiny))).toMatchObject({ footage: true });
  });
});

test('ffprobe says why it cannot read, naming the file', async () => {
  const file = put(at('-odd name.mp4'), 'no video');
  await expect(probe(file)).rejects.toMatchObject({
    title: 'Unreadable',
    about: { file },
    message: expect.stringContaining('-odd name.mp4') as unknown,
  });
  await expect(probe(at('none.mp4'))).rejects.toMatchObject({
    title: 'Not found',
    message: 'none.mp4 is no longer there.',
  });
});

describe('XML', () => {
  test('elements, attributes, prefixes', () => {
    expect(
      parseXml('<?xml version="1.0"?><a:Clip xmlns:a="urn:x" n="1"><b v="2">text</b><b/></a:Clip>'),
    ).toEqual({
      name: 'Clip',
      attributes: { n: '1' },
      text: '',
      children: [
        { name: 'b', attributes: { v: '2' }, children: [], text: 'text' },
        { name: 'b', attributes: {}, children: [], text: '' },
      ],
    });
  });

  test.each([
    ['entities that grow', '<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><x>&b;</x>'],
    ['a file to fetch', '<!DOCTYPE x SYSTEM "file:///etc/passwd"><x/>'],
    ['not closed', '<x><y></x>'],
    ['no XML', 'hello'],
    ['nothing', ''],
  ])('%s says nothing', (_, text) => expect(parseXml(text)).toBeNull());

  test('a sidecar of many megabytes is none', async () => {
    const file = put(at('huge.xml'), Buffer.alloc((1 << 20) + 1, 0x20));
    await expect(readSidecar(file, sizeOf(file))).rejects.toMatchObject({ title: 'Unreadable' });
  });
});
