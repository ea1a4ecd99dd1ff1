import { describe, expect, test } from '@jest/globals';
import { createHash } from 'node:crypto';
import { c4FromSha512 } from './c4';
import { folderHashes, type Hasher } from './folderHashes';
import { hashValue } from './hashes';
import { generationName, writeChain, xmlText } from './mhl';
import { readSums } from './sums';

const c4 = (text: string): string => c4FromSha512(createHash('sha512').update(text).digest('hex'));

test('C4 IDs of SMPTE ST 2114: of no bytes and of “foo” (docs/checks.md)', () => {
  expect(c4('')).toBe(
    'c459dsjfscH38cYeXXYogktxf4Cd9ibshE3BHUo6a58hBXmRQdZrAkZzsWcbWtDg5oQstpDuni4Hirj75GEmTc1sFT',
  );
  expect(c4('foo')).toBe(
    'c45xZeXwMSpqXjpDumcHMA6mhoAmGHkUo7r9WmN2UgSEQzj9KjgseaQdkEJ11fGb5S1WEENcV3q8RFWwEeVpC7Fjk2',
  );
  expect(c4FromSha512('0'.repeat(128))).toBe(`c4${'1'.repeat(88)}`);
});

test('a hash value is checked for its kind', () => {
  expect(hashValue('xxh64', 'EF46DB3751D8E999')).toBe('ef46db3751d8e999');
  expect(hashValue('md5', 'ef46db3751d8e999')).toBeNull();
  expect(hashValue('c4', c4('foo'))).toBe(c4('foo'));
  expect(hashValue('c4', `c4${'0'.repeat(88)}`)).toBeNull();
});

describe('checksum lists', () => {
  const md5 = 'd41d8cd98f00b204e9800998ecf8427e';
  test('as md5sum, sha1sum and xxhsum print them, escaped names included', () => {
    const { files, unread } = readSums(
      `${md5}  CLIP/T0001.MP4\n${md5} *b.MP4\nef46db3751d8e999  ./c d.MP4\n\\${md5}  two\\nlines\\\\x.MP4\nMD5 (e.MP4) = ${md5}\nnonsense\n\n`,
    );
    expect(files.map((f) => [f.path, f.hashes[0]!.kind])).toEqual([
      ['CLIP/T0001.MP4', 'md5'],
      ['b.MP4', 'md5'],
      ['c d.MP4', 'xxh64'],
      ['two\nlines\\x.MP4', 'md5'],
      ['e.MP4', 'md5'],
    ]);
    expect(unread).toBe(1);
  });
  test('32 digits are XXH3-128 where the list is called so', () =>
    expect(readSums(`${md5}  a`, 'card.xxh128').files[0]!.hashes[0]!.kind).toBe('xxh128'));
});

test('folder hashes: contents do not follow names, structure does not follow contents', () => {
  const hasher: Hasher = {
    ofText: (t) => createHash('md5').update(t).digest('hex'),
    ofDigits: (v) => v.reduce((h, d) => h.update(Buffer.from(d, 'hex')), createHash('md5')).digest('hex'),
  };
  const of = (files: Record<string, string>, empty: string[] = []) =>
    folderHashes(
      Object.entries(files).map(([path, text]) => ({ path, value: hasher.ofText(text) })),
      empty,
      hasher,
    );
  const base = of({ 'a.MP4': '1', 'CLIP/b.MP4': '2', 'CLIP/in/c.MP4': '3' });
  expect(base.folders.map((f) => f.path)).toEqual(['CLIP', 'CLIP/in']);
  const renamed = of({ 'x.MP4': '1', 'CLIP/b.MP4': '2', 'CLIP/in/c.MP4': '3' });
  expect(renamed.root.content).toBe(base.root.content);
  expect(renamed.root.structure).not.toBe(base.root.structure);
  const changed = of({ 'a.MP4': '1', 'CLIP/b.MP4': '2', 'CLIP/in/c.MP4': '4' });
  expect(changed.root.structure).toBe(base.root.structure);
  expect(changed.root.content).not.toBe(base.root.content);
  expect(of({ 'a.MP4': '1' }, ['empty']).root.structure).not.toBe(of({ 'a.MP4': '1' }).root.structure);
});

test('XML text, chain and names of generations', () => {
  expect(xmlText('a & b < "c"\n\u0001')).toBe('a &amp; b &lt; &quot;c&quot;&#10;\ufffd');
  expect(xmlText('wheel 🌊')).toBe('wheel 🌊');
  expect(writeChain([{ number: 1, file: 'x.mhl', c4: c4('') }])).toContain('<hashlist sequencenr="1">');
  expect(generationName(2, 'B002', new Date('2026-05-06T20:01:02.345Z'))).toBe(
    '0002_B002_2026-05-06_200102Z.mhl',
  );
  expect(generationName(1, 'a/b:c', new Date(0))).toBe('0001_a_b_c_1970-01-01_000000Z.mhl');
});
