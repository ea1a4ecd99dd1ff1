import { describe, expect, test } from '@jest/globals';
import { HEAD, kindOf, noKind } from './fileKind';

const latin = (s: string, length = 64): Buffer =>
  Buffer.concat([Buffer.from(s, 'latin1'), Buffer.alloc(length)]);
const packets = (first: number, step: number, n: number): Buffer => {
  const b = Buffer.alloc(first + step * (n - 1) + 20, 1);
  for (let i = 0; i < n; i++) b[first + i * step] = 0x47;
  return b;
};

describe('a file is what its first bytes say', () => {
  test.each<[string, Buffer]>([
    ['boxes', latin('\0\0\0\x18ftypisom')],
    ['boxes', latin('\0\0\0\x08wide')],
    ['mxf', latin('\x06\x0e\x2b\x34\x02\x05\x01\x01\x0d\x01\x02\x01')],
    ['avi', latin('RIFF\0\0\0\0AVI ')],
    ['wave', latin('RIFF\0\0\0\0WAVE')],
    ['wave', latin('RF64\xff\xff\xff\xffWAVEds64')],
    ['wave', latin('BW64\xff\xff\xff\xffWAVE')],
    ['wave64', latin('riff\x2e\x91\xcf\x11')],
    ['matroska', latin('\x1aE\xdf\xa3')],
    ['program', latin('\0\0\x01\xba')],
    ['jpeg', latin('\xff\xd8\xff\xe0')],
    ['png', latin('\x89PNG\r\n\x1a\n')],
    ['tiff', latin('II*\0')],
    ['tiff', latin('MM\0*')],
    ['dpx', latin('SDPX')],
    ['exr', latin('v/1\x01')],
    ['flac', latin('fLaC')],
    ['transport', packets(0, 188, 6)],
    ['transport', packets(4, 192, 5)],
    ['transport', packets(0, 188, 2)],
  ])('%s', (id, head) => expect(kindOf(head)?.id).toBe(id));

  // A playlist or script names further files; FFmpeg would open them.
  test.each<[string, Buffer | string]>([
    ['a playlist', '#EXTM3U\n#EXTINF:10,\nfile:///etc/passwd\n'],
    ['a playlist with 0x47 at byte 4', '#EXTG\n#EXTM3U\nfile:///etc/passwd\n'],
    ['a script', 'ffconcat version 1.0\nfile /etc/passwd\n'],
    ['text that begins with G', `G${'o on '.repeat(300)}`],
    ['a session description', 'v=0\no=- 0 0 IN IP4 127.0.0.1\n'],
    ['a manifest', '<?xml version="1.0"?><MPD/>'],
    ['vector graphics', '<svg xmlns="http://www.w3.org/2000/svg"/>'],
    ['zeros', Buffer.alloc(2000)],
    ['nothing', ''],
    ['one packet', packets(0, 188, 1)],
    ['an archive', latin('PK\x03\x04')],
    ['another form', latin('RIFF\0\0\0\0ACON')],
  ])('%s is of no kind', (_, head) => expect(kindOf(Buffer.from(head as Buffer))).toBeNull());

  test('no more than the head is looked at', () => {
    const long = Buffer.concat([packets(0, 188, 6).subarray(0, HEAD), Buffer.alloc(5000)]);
    expect(kindOf(long)?.id).toBe('transport');
  });

  test('each is read by readers of its own, none of which opens further files', () => {
    const readers = [latin('\0\0\0\x18ftypisom'), latin('II*\0'), latin('RIFF\0\0\0\0WAVE')].map(
      (h) => kindOf(h)!.demuxers,
    );
    expect(readers).toEqual(['mov', 'image2,tiff_pipe', 'wav']);
  });
});

test.each<[string, string | Buffer]>([
  ['is text', 'words'],
  ['begins with nothing but zeros', Buffer.alloc(10)],
  ['is empty', ''],
  ['is of no kind known here', Buffer.from([1, 2, 3, 200])],
])('what is of no kind %s', (why, head) => {
  expect(noKind(Buffer.from(head as Buffer))).toBe(why);
});
