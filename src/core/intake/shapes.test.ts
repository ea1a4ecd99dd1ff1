import { describe, expect, test } from '@jest/globals';
import { DEFAULT_INTAKE, type FolderRule, type IntakeRules } from './rules';
import { type FoundEntry, recognise, type RecogniseOptions } from './recognise';
import { followsOn, mayFollow, type TakeEvidence } from './segments';
import { CardShape, SHAPES } from './shape';
import { stillRows } from './stills';

const file = (path: string, size = 100, modified = 1): FoundEntry => ({ path, size, modified, kind: 'file' });
const cardOf = (paths: readonly (string | FoundEntry)[], options?: RecogniseOptions) => {
  const r = recognise(
    paths.map((p) => (typeof p === 'string' ? file(p) : p)),
    options,
  );
  expect(r.cards).toHaveLength(1);
  return r.cards[0]!;
};
const families = (c: ReturnType<typeof cardOf>) =>
  Object.fromEntries(c.families.map((f) => [f.stem, f.files.map((m) => `${m.role} ${m.path}`)]));

describe('each shape, by its structure alone', () => {
  test('DCF: folders of three digits and five characters, names of four characters and four digits (JEITA CP-3461, from memory)', () => {
    const c = cardOf([
      'DCIM/100SKRRY/SKRY0001.MP4',
      'DCIM/100SKRRY/SKRY0001.THM',
      'DCIM/101SKRRY/_KRY0002.JPG',
      'DCIM/101SKRRY/SKRY0003.DNG',
      'DCIM/101SKRRY/SKRY0003.JPG',
      'DCIM/100SKRRY/SKRY0001.SRT',
    ]);
    expect(c.shape.id).toBe('dcf');
    expect(families(c)).toEqual({
      SKRY0001: [
        'original DCIM/100SKRRY/SKRY0001.MP4',
        'sidecar DCIM/100SKRRY/SKRY0001.SRT',
        'thumbnail DCIM/100SKRRY/SKRY0001.THM',
      ],
      _KRY0002: ['original DCIM/101SKRRY/_KRY0002.JPG'],
      // One number, one thing: the picture beside a raw picture belongs to it.
      SKRY0003: ['original DCIM/101SKRRY/SKRY0003.DNG', 'thumbnail DCIM/101SKRRY/SKRY0003.JPG'],
    });
    expect(c.families.map((f) => f.kind)).toEqual(['video', 'still', 'still']);
  });
  test.each([
    ['a folder number below 100', 'DCIM/099SKRRY/SKRY0001.MP4'],
    ['a folder of four characters', 'DCIM/100SKRR/SKRY0001.MP4'],
    ['number 0000', 'DCIM/100SKRRY/SKRY0000.MP4'],
    ['a name of five characters', 'DCIM/100SKRRY/SKRRY0001.MP4'],
    ['a character outside A–Z, 0–9 and _', 'DCIM/100SKRRY/SK-Y0001.MP4'],
  ])('no DCF: %s', (_, p) => expect(cardOf([p]).shape.id).not.toBe('dcf'));

  test('AVCHD stream folders, wherever they begin', () => {
    for (const at of ['PRIVATE/AVCHD/BDMV/', 'AVCHD/BDMV/', 'BDMV/', '']) {
      const c = cardOf([
        `${at}STREAM/00000.MTS`,
        `${at}STREAM/00001.MTS`,
        `${at}CLIPINF/00000.CPI`,
        `${at}INDEX.BDM`,
      ]);
      expect([c.shape.id, c.families.map((f) => f.stem), c.families[0]!.files.map((f) => f.role)]).toEqual([
        'stream',
        ['00000', '00001'],
        ['original', 'sidecar'],
      ]);
      expect(c.aside[0]!.reason).toContain('index file');
    }
  });
  test('op-atom: picture and sound apart, joined by name with the number of the track', () => {
    const c = cardOf([
      'CONTENTS/VIDEO/0001AB.MXF',
      'CONTENTS/AUDIO/0001AB00.MXF',
      'CONTENTS/AUDIO/0001AB01.MXF',
      'CONTENTS/CLIP/0001AB.XML',
      'CONTENTS/ICON/0001AB.BMP',
      'CONTENTS/PROXY/0001AB.MP4',
      'LASTCLIP.TXT',
    ]);
    expect(families(c)).toEqual({
      '0001AB': [
        'original CONTENTS/VIDEO/0001AB.MXF',
        'sound CONTENTS/AUDIO/0001AB00.MXF',
        'sound CONTENTS/AUDIO/0001AB01.MXF',
        'sidecar CONTENTS/CLIP/0001AB.XML',
        'thumbnail CONTENTS/ICON/0001AB.BMP',
        'cameraProxy CONTENTS/PROXY/0001AB.MP4',
      ],
    });
  });
  test('a folder per clip, with segments in order and a missing one said', () => {
    const c = cardOf([
      'A2_C1/A2_C1_001.MOV',
      'A2_C1/A2_C1_003.MOV',
      'A2_C1/A2_C1_010.MOV',
      'A2_C1/A2_C1_001.cdl',
      'A2_C2/A2_C2.MOV',
    ]);
    expect(c.shape.id).toBe('folder-per-clip');
    expect(c.families[0]).toMatchObject({
      stem: 'A2_C1',
      missing: ['A2_C1_002', 'A2_C1_004', 'A2_C1_005', 'A2_C1_006', 'A2_C1_007', 'A2_C1_008', 'A2_C1_009'],
    });
    expect(c.families[0]!.files.map((f) => [f.role, f.suffix])).toEqual([
      ['original', '_001'],
      ['segment', '_003'],
      ['segment', '_010'],
      ['look', '_001'],
    ]);
  });
  test('sound recorder folders, numbered stills, plain folders', () => {
    expect(cardOf(['260505-T01.WAV', '260505-T02.WAV', '260505-T01.xml', 'report.csv'])).toMatchObject({
      shape: { id: 'sound-folder' },
    });
    const stills = Array.from({ length: 12 }, (_, i) =>
      file(`lapse_${String(i + 1).padStart(4, '0')}.DNG`, 100, i * 5000),
    );
    expect(cardOf(stills)).toMatchObject({
      shape: { id: 'numbered-stills' },
      families: [{ kind: 'stills', stem: 'lapse_0001' }],
    });
    expect(cardOf(['some/where/a.mov', 'some/b.wav', 'c.jpg']).families.map((f) => f.kind)).toEqual([
      'still',
      'sound',
      'video',
    ]);
  });
});

describe('rules of the person', () => {
  const rules = (change: Partial<IntakeRules>) => ({ rules: { ...DEFAULT_INTAKE, ...change } });
  test('a folder name to leave out, whatever its case', () => {
    const c = cardOf(['CLIP/T0001.MP4', 'CLIP/mine/T0001.MP4'], rules({ leaveOut: ['MINE'] }));
    expect(c.families).toHaveLength(1);
    expect(c.aside[0]).toMatchObject({
      path: 'CLIP/mine/T0001.MP4',
      reason: 'is in a folder that is left out (mine)',
    });
  });
  test('a shape switched off in a folder, and card folders not looked through', () => {
    const read = (folder: FolderRule) =>
      recognise(
        ['CLIP/T0001.MP4', 'SUB/T0001_px.MP4'].map((p) => file(p)),
        { folder },
      ).cards.map((c) => [c.folder, c.shape.id, c.families.length]);
    expect(read({ skipCardFolders: true, off: ['clip-and-sub'] })).toEqual([['', 'plain', 1]]);
    expect(read({ skipCardFolders: false, off: [] })).toEqual([
      ['CLIP', 'plain', 1],
      ['SUB', 'plain', 1],
    ]);
  });
  test('file types: what is not listed is no clip, what is added is one', () => {
    const types = { ...DEFAULT_INTAKE.types, video: ['xyz'] };
    const c = cardOf(['a.xyz', 'b.mp4'], rules({ types }));
    expect(c.families.map((f) => f.stem)).toEqual(['a']);
    expect(c.aside[0]!.reason).toBe('not part of a clip (mp4)');
  });
  test('a shape of their own comes first; patterns that are none are refused', () => {
    const shape = CardShape.parse({
      id: 'mine',
      name: 'my recorder',
      because: 'takes stand in REC',
      marks: ['^rec/'],
      rules: [{ pattern: '^rec/(?<stem>[^/]+)\\.%video%$', role: 'original' }],
    });
    expect(cardOf(['REC/a.mp4', 'REC/a.txt'], rules({ shapes: [shape] }))).toMatchObject({
      shape: { id: 'mine', because: 'takes stand in REC' },
      families: [{ stem: 'a' }],
    });
    expect(CardShape.safeParse({ ...shape, marks: ['('] }).success).toBe(false);
    expect(CardShape.safeParse({ ...shape, id: 'Mine!' }).success).toBe(false);
  });
  test('the shapes shipped are data: they go through JSON unchanged', () =>
    expect(CardShape.array().parse(JSON.parse(JSON.stringify(SHAPES)))).toEqual(SHAPES));
});

describe('takes that go on in the next file', () => {
  const rate = { num: 50, den: 1 };
  const take = (start: number | null, began: number | null, frames = 500): TakeEvidence => ({
    rate,
    frames,
    start,
    began,
  });
  test('by timecode to the frame, by the clock to two seconds; neither may say no', () => {
    expect(followsOn(take(0, 100), take(500, 110))).toBe(true);
    expect(followsOn(take(0, 100), take(502, 110))).toBe(false);
    expect(followsOn(take(0, null), take(501, null))).toBe(true);
    expect(followsOn(take(null, 100), take(null, 112))).toBe(true);
    expect(followsOn(take(null, 100), take(null, 113))).toBe(false);
    // Timecode that runs only while the camera records goes on over any pause; the clock knows of it.
    expect(followsOn(take(0, 100), take(500, 500))).toBe(false);
    expect(followsOn(take(null, null), take(null, null))).toBe(false);
    // Takes of a second, begun one right after the other: the clock cannot tell them from one that goes on.
    const short = (start: number | null, began: number) => take(start, began, 50);
    expect(followsOn(short(null, 100), short(null, 101))).toBe(false);
    expect(followsOn(short(0, 100), short(50, 101))).toBe(true);
    expect(followsOn(short(0, 100), short(50, 104))).toBe(false);
    expect(followsOn(take(0, 100), { ...take(500, 110), rate: { num: 25, den: 1 } })).toBe(false);
  });
  const numbered = (n: number, size: number) => ({
    path: `DCIM/100SKRRY/SKRY000${n}.MP4`,
    stem: `SKRY000${n}`,
    size,
  });
  test('only files as large as files get may go on', () => {
    expect(
      mayFollow([numbered(1, 4_290_000_000), numbered(2, 900)]).map(([a, b]) => [a.stem, b.stem]),
    ).toEqual([['SKRY0001', 'SKRY0002']]);
    expect(
      mayFollow([numbered(1, 1000), numbered(2, 999), numbered(3, 10), numbered(5, 10)]).map(([a]) => a.stem),
    ).toEqual(['SKRY0001', 'SKRY0002']);
    expect(mayFollow([numbered(1, 500), numbered(2, 400), numbered(3, 300)])).toEqual([]);
    // A file larger than FAT32 holds was not cut by it.
    expect(mayFollow([numbered(1, 8_000_000_000), numbered(2, 900)])).toEqual([]);
  });
  test('chapters with evidence become one clip, without it they stay apart', () => {
    const files = [1, 2, 3, 4].map((n) => file(numbered(n, 0).path, n < 3 ? 1000 : 300));
    const evidence = new Map([
      [files[0]!.path, take(0, 0)],
      [files[1]!.path, take(500, 10)],
      [files[2]!.path, take(1000, 20, 100)],
      [files[3]!.path, take(9000, 400)],
    ]);
    const c = cardOf(files, { evidence });
    expect(c.families.map((f) => f.files.map((m) => m.suffix))).toEqual([['_1', '_2', '_3'], ['']]);
    expect(cardOf(files).families).toHaveLength(4);
    expect(cardOf(files).mayFollow).toHaveLength(2);
  });
});

describe('rows of numbered stills', () => {
  const still = (n: number, seconds: number) => ({
    path: `d/WHIM${String(n).padStart(4, '0')}.JPG`,
    stem: `WHIM${String(n).padStart(4, '0')}`,
    modified: seconds * 1000,
  });
  const row = (from: number, count: number, every: number, skip: readonly number[] = []) =>
    Array.from({ length: count }, (_, i) => from + i)
      .filter((n) => !skip.includes(n))
      .map((n) => still(n, (n - from) * every));
  test('even intervals make a row; the missing numbers are listed', () => {
    const [r, ...rest] = stillRows(row(101, 24, 5, [112, 113]));
    expect(rest).toEqual([]);
    expect(r).toMatchObject({ missing: ['WHIM0112', 'WHIM0113'] });
    expect(r!.stills).toHaveLength(22);
  });
  test('pictures taken by hand are no row, nor are seven', () => {
    const random = [0, 9, 11, 70, 71, 140, 300, 301, 420, 777, 800];
    expect(stillRows(random.map((t, i) => still(i + 1, t)))).toEqual([]);
    expect(stillRows(row(1, 7, 5))).toEqual([]);
    expect(stillRows(row(1, 8, 5))).toHaveLength(1);
  });
  test('a wide gap begins another row; other folders and lengths of number do not mix', () => {
    expect(stillRows([...row(1, 10, 5), ...row(40, 10, 5)])).toHaveLength(2);
    expect(stillRows([...row(1, 5, 5), ...row(6, 5, 5).map((s) => ({ ...s, path: `e${s.path}` }))])).toEqual(
      [],
    );
  });
  test('the switch back to single stills', () => {
    const files = row(1, 10, 5).map((s) => file(s.path, 10, s.modified));
    expect(cardOf(files).families).toMatchObject([{ kind: 'stills' }]);
    expect(cardOf(files, { singles: new Set(['d/WHIM0001.JPG']) }).families).toHaveLength(10);
  });
});
