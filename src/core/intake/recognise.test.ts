import { describe, expect, test } from '@jest/globals';
import { type FoundEntry, recognise } from './recognise';
import { CardShape, extensionOf, SHAPES } from './shape';

const file = (path: string, size = 100, extra: Partial<FoundEntry> = {}): FoundEntry => ({
  path,
  size,
  modified: 1,
  kind: 'file',
  ...extra,
});
const roles = (r: ReturnType<typeof recognise>, card = 0) =>
  r.cards[card]!.families.map((f) => [f.stem, ...f.files.map((m) => `${m.role}:${m.path}`)]);

const B001 = [
  'CLIP/T0001.MP4',
  'CLIP/T0001.XML',
  'CLIP/T0002.MP4',
  'CLIP/T0002.XML',
  'SUB/T0001_px.MP4',
  'CARD.IDX',
].map((p) => file(p));

describe('recognise', () => {
  test('CLIP and SUB folders with sidecars and suffixed proxies', () => {
    const r = recognise(B001);
    expect(r.cards).toHaveLength(1);
    expect(r.cards[0]).toMatchObject({ folder: '', shape: { id: 'clip-and-sub' }, proxySuffix: '_px' });
    expect(roles(r)).toEqual([
      ['T0001', 'original:CLIP/T0001.MP4', 'sidecar:CLIP/T0001.XML', 'cameraProxy:SUB/T0001_px.MP4'],
      ['T0002', 'original:CLIP/T0002.MP4', 'sidecar:CLIP/T0002.XML'],
    ]);
    expect(r.cards[0]!.families[0]!.files[2]!.suffix).toBe('_px');
    expect(r.cards[0]!.aside).toEqual([
      { path: 'CARD.IDX', size: 100, reason: 'an index file of the camera: nobody needs it for editing' },
    ]);
  });

  test('a folder per clip, its look beside it', () => {
    const r = recognise(
      ['A001_C001/A001_C001.MOV', 'A001_C001/A001_C001.cdl', 'A001_C002/A001_C002.MXF'].map((p) => file(p)),
    );
    expect(r.cards[0]!.shape.id).toBe('folder-per-clip');
    expect(roles(r)).toEqual([
      ['A001_C001', 'original:A001_C001/A001_C001.MOV', 'look:A001_C001/A001_C001.cdl'],
      ['A001_C002', 'original:A001_C002/A001_C002.MXF'],
    ]);
  });

  test('a folder that holds several cards gives each of them', () => {
    const r = recognise([
      ...B001.map((f) => ({ ...f, path: `Day 1/B001/${f.path}` })),
      file('Day 1/A001/A001_C001/A001_C001.MOV'),
      file('Day 2/extra/loose.mov'),
      file('notes.txt'),
    ]);
    expect(r.cards.map((c) => [c.folder, c.shape.id])).toEqual([
      ['Day 1/A001', 'folder-per-clip'],
      ['Day 1/B001', 'clip-and-sub'],
      ['Day 2/extra', 'plain'],
    ]);
    expect(r.aside.map((a) => a.path)).toEqual(['notes.txt']);
  });

  test('one video beside the folders of a card is a clip of that card, and said', () => {
    const r = recognise([file('stray.mov'), file('CLIP/T0001.MP4')]);
    expect(r.cards.map((c) => [c.folder, c.shape.id, c.families.length])).toEqual([['', 'clip-and-sub', 2]]);
    expect(r.cards[0]!.shape.because).toMatch(/; 1 file is not of that layout$/);
  });

  test('what can be no clip is left aside, each with its reason', () => {
    const r = recognise([
      ...B001,
      file('CLIP/T0003.MP4', 0),
      file('CLIP/T0004.MP4', 9, { fault: 'is text, not video' }),
      file('CLIP/T0005.MP4', 9, { kind: 'link' }),
      file('.Trashes/x.mp4'),
      file('CLIP/._T0001.MP4'),
      file('CLIP/pipe.MP4', 0, { kind: 'other' }),
      file('SUB/T0099_px.MP4'),
    ]);
    const reasons = Object.fromEntries(r.cards[0]!.aside.map((a) => [a.path, a.reason]));
    expect(r.cards[0]!.families).toHaveLength(2);
    expect(reasons['CLIP/T0003.MP4']).toContain('has no bytes');
    expect(reasons['CLIP/T0004.MP4']).toBe('is text, not video');
    expect(reasons['CLIP/T0005.MP4']).toContain('link');
    expect(reasons['.Trashes/x.mp4']).toContain('dot file');
    expect(reasons['CLIP/._T0001.MP4']).toContain('dot file');
    expect(reasons['CLIP/pipe.MP4']).toContain('not a file');
    expect(reasons['SUB/T0099_px.MP4']).toContain('no clip of this name');
  });

  test('nothing, or nothing that is video, gives no card', () => {
    expect(recognise([])).toEqual({ cards: [], aside: [] });
    const r = recognise([file('a/readme.txt'), file('b.xml')]);
    expect(r.cards).toEqual([]);
    expect(r.aside).toHaveLength(2);
  });

  test('names with spaces, quotes, emoji, a leading dash and a newline are names like others', () => {
    const odd = [`it's "one" take.mp4`, '-rf.mp4', 'wheel 🌊.mp4', 'two\nlines.mp4'];
    const r = recognise(odd.map((p) => file(p)));
    expect(r.cards[0]!.families.map((f) => f.stem).sort()).toEqual(odd.map((o) => o.slice(0, -4)).sort());
  });

  test('one name in two folders is two clips', () => {
    const r = recognise([file('x.mov'), file('one/T1.mov'), file('two/T1.mov')]);
    expect(r.cards[0]!.families).toHaveLength(3);
  });

  test('no file is lost: each is in a family or left aside, once', () => {
    const all = [
      ...B001,
      file('CLIP/T0003.MP4', 0),
      file('.x'),
      file('MISC/readme.txt'),
      file('SUB/none.MP4'),
    ];
    const r = recognise(all);
    const seen = [
      ...r.cards.flatMap((c) => [
        ...c.families.flatMap((f) => f.files.map((m) => m.path)),
        ...c.aside.map((a) => a.path),
      ]),
      ...r.aside.map((a) => a.path),
    ];
    expect(seen.sort()).toEqual(all.map((f) => f.path).sort());
  });
});

test('the shapes are data', () => {
  for (const s of SHAPES) expect(CardShape.parse(JSON.parse(JSON.stringify(s)))).toEqual(s);
});

test('extensions', () => {
  expect(['a/b.MP4', '.hidden', 'x', 'a.b/c', 'two.tar.gz', '-x.mov'].map(extensionOf)).toEqual([
    'mp4',
    '',
    '',
    '',
    'gz',
    'mov',
  ]);
});

test('a folder of more than 125 000 files, nearly all of them no footage, is looked at whole', () => {
  const many = Array.from({ length: 130_000 }, (_, i) => file(`part ${i % 40}/note ${i}.txt`));
  const without = recognise(many);
  expect(without.aside).toHaveLength(130_000);
  const withOne = recognise([...many, file('CLIP/T0001.MP4')]);
  expect(withOne.cards).toHaveLength(1);
});
