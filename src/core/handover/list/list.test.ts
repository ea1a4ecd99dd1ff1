import { expect, test } from '@jest/globals';
import { csv } from '../../platform/csv';
import { rate } from '../../platform/timecode/rate';
import { formatTimecode, parseTimecode, timecode } from '../../platform/timecode/timecode';
import { columnsOf, type Given, type Listed, readList } from './list';

// Frames are worked by hand from SMPTE ST 12-1 (from memory).

const clip = (id: string, start: string | null, more: Partial<Listed> = {}): Listed => {
  const r = more.rate ?? rate(25);
  return {
    ...{ id, shown: id, card: 'B001', names: [`${id}.MP4`], rate: r, frames: 50 },
    start: start === null ? null : parseTimecode(start, r),
    ...more,
  };
};
const CLIPS = [
  clip('T0001', '14:22:05:00'),
  clip('T0002', '15:00:00:00', { names: ['SLW_002.MP4', 'T0002.MP4'] }),
  clip('C0001', '14:22:05:10', { card: 'C001', names: ['T0001.MOV'] }),
  clip('D0001', '01:00:00;00', { card: 'D001', rate: rate(30000, 1001), frames: 2000 }),
  clip('N0001', null, { card: 'N001' }),
];
const given = (of: Partial<Given>): Given => ({
  ...{ range: null, keywords: [], note: '', scene: '', take: '', circled: null },
  ...of,
});
const lines = (text: string) =>
  readList(text, CLIPS).lines.map(({ clip: c, why, given: g }) => why ?? [c, g]);

test('columns are told by their heads, in any case and order; what is not known is left out', () => {
  expect(columnsOf(['Scene', 'CLIP', 'Comments', 'Weather', 'TC In', 'TC Out', 'Good'])).toEqual([
    'scene',
    'name',
    'note',
    null,
    'from',
    'until',
    'circled',
  ]);
  // Beside a file a name is that of a range; alone it is that of the clip.
  expect(columnsOf(['File', 'Name'])).toEqual(['name', 'label']);
  expect(columnsOf(['Name', 'Take'])).toEqual(['name', 'take']);
});

test('clips are found by any of their names, of several by card and timecode, without a name by timecode', () => {
  expect(
    lines(`Clip;Card;Timecode;Scene
t0002;;;x
SLW_002.mp4;;;x
T0001;;;x
T0001;c001;;x
T0001;;14:22:05:05;x
T0001;;14:22:06:00;x
T0002;C001;;x
;;15:00:00:00;x
;;14:22:06:00;x
;;16:00:00:00;x
nobody;;;x
;;;x
`),
  ).toEqual([
    ['T0002', given({ scene: 'x' })],
    ['T0002', given({ scene: 'x' })],
    '2 clips are named “T0001”',
    ['C0001', given({ scene: 'x' })],
    ['T0001', given({ scene: 'x' })],
    '2 clips are named “T0001”',
    'T0002 is not on card C001',
    ['T0002', given({ scene: 'x' })],
    '2 clips have 14:22:06:00',
    'no clip has 16:00:00:00',
    'no clip is named “nobody”',
    'it names no clip and no timecode',
  ]);
});

test('a note at a timecode is one of that frame; at the clip’s first it is of all of it; with an end it is a range', () => {
  const range = (from: number, to: number, kind = 'note', note = 'x') => ({ from, to, kind, name: '', note });
  expect(
    lines(`Clip,In,Out,Kind,Note
T0002,15:00:00:10,,,x
T0002,15:00:00:00,,,x
T0002,15:00:00:05,15:00:01:05,Select,
T0002,15:00:00:05,15:00:02:00,reject,x
T0002,15:00:00:05,15:00:02:01,,x
T0002,15:00:00:05,15:00:00:05,,x
T0002,15:00:03:00,,,x
T0002,15:00:00:99,,,x
N0001,15:00:00:00,,,x
D0001,01:01:00;02,01:01:00;12,,x
`),
  ).toEqual([
    ['T0002', given({ range: range(10, 11) as Given['range'] })],
    ['T0002', given({ note: 'x' })],
    ['T0002', given({ range: range(5, 30, 'select', '') as Given['range'] })],
    ['T0002', given({ range: range(5, 50, 'reject') as Given['range'] })],
    '15:00:02:01 is not in T0002 behind 15:00:00:05: it runs from 15:00:00:00 to 15:00:01:24',
    '15:00:00:05 is not in T0002 behind 15:00:00:05: it runs from 15:00:00:00 to 15:00:01:24',
    '15:00:03:00 is not in T0002: it runs from 15:00:00:00 to 15:00:01:24',
    '15:00:00:99 is not in T0002: it runs from 15:00:00:00 to 15:00:01:24',
    '15:00:00:00 is not in N0001: it has no timecode',
    // A minute of drop-frame has 1 800 numbers less two: 01:01:00;02 is frame 1 800 after 01:00:00;00.
    ['D0001', given({ range: range(1800, 1810) as Given['range'] })],
  ]);
});

test('a list that is written here is read as it was meant, harmless formulas and all', () => {
  const text = csv(
    ['File', 'Card', 'Kind', 'First timecode', 'Last timecode', 'Name', 'Note', 'Keywords'],
    [
      ['SLW_002.MP4', 'B001', 'select', '15:00:00:05', '15:00:00:09', 'best', '=1+1', 'gate, wheel'],
      ['SLW_002.MP4', 'B001', 'Clip', '', '', '', '', 'wheel, “mill; old”'],
    ],
  );
  expect(lines(text)).toEqual([
    [
      'T0002',
      given({
        range: { from: 5, to: 10, kind: 'select', name: 'best', note: '=1+1' },
        keywords: ['gate', 'wheel'],
      }),
    ],
    ['T0002', given({ keywords: ['wheel', '“mill', 'old”'] })],
  ]);
});

test('lines that contradict each other are said to, and none of them counts; the same twice does', () => {
  expect(
    lines('Clip,Scene,Take,Circled\nT0002,12,1,yes\nT0002,12,2,yes\nC0001,3,,\nT0001.MOV,3,,\n'),
  ).toEqual([
    'line 3 says otherwise: take 2',
    'line 2 says otherwise: take 1',
    'no clip is named “C0001”',
    ['C0001', given({ scene: '3' })],
  ]);
});

test('what is too long is said and nothing of it taken; a clip may run past midnight', () => {
  const row = (keywords: string, note: string) => `Clip,Keywords,Note\nT0002,"${keywords}","${note}"\n`;
  expect(lines(row('k'.repeat(121), ''))[0]).toMatch(/^“k{40}…” is too long: keywords and names/);
  expect(lines(row('', 'n'.repeat(2001)))[0]).toBe('its note has 2001 characters: up to 2000 are read');
  const all = Array.from({ length: 60 }, (_, i) => `keyword ${i}`);
  expect(lines(row(all.join(','), 'n'.repeat(2000)))[0]).toEqual([
    'T0002',
    given({ keywords: all, note: 'n'.repeat(2000) }),
  ]);
  const late = clip('late', '23:59:59:00', { frames: 100 });
  const { lines: found } = readList('Timecode,Note\n00:00:01:00,x\n00:00:03:00,x\n', [late]);
  expect(found.map((l) => l.given.range?.from ?? l.why)).toEqual([50, 'no clip has 00:00:03:00']);
});

test('of very many clips the one at a timecode is found, whatever its slot, as by asking each', () => {
  const many = Array.from({ length: 3000 }, (_, i) =>
    clip(`m${i}`, null, {
      start: parseTimecode('00:00:00:00', rate(25)),
      frames: 1 + ((i * 37) % 4000),
      names: [`m${i}`],
    }),
  );
  many.forEach((c, i) => (c.start = { ...c.start!, frame: (i * 977) % 2_000_000 }));
  const asked = Array.from({ length: 60 }, (_, i) => (i * 33_331) % 2_000_000);
  const text = asked.map((f) => formatTimecode(timecode(f, rate(25)))).join('\n');
  const found = readList(`Timecode\n${text}\n`, many).lines.map((l) => l.clip ?? l.why!.split(' ')[0]);
  const wanted = asked.map((f) => {
    const has = many.filter((c) => f >= c.start!.frame && f < c.start!.frame + c.frames!);
    return has.length === 1 ? has[0]!.id : has.length === 0 ? 'no' : String(has.length);
  });
  expect(found).toEqual(wanted);
  expect(new Set(wanted.map((w) => (w.startsWith('m') ? 'one' : w))).size).toBeGreaterThan(2);
});

test('what cannot be read is said; Windows line ends, tabs and accents in another form are', () => {
  expect(lines('Weather,Mood\nsun,good')).toEqual(['it names no clip and no timecode']);
  expect(() => readList('Clip,Note\n"T0001,x', CLIPS)).toThrow('The list cannot be read');
  expect(() => readList('\r\n', CLIPS)).toThrow('The list is empty.');
  const accented = [clip('x', null, { names: ['Mu\u0308hle.MP4'] })];
  expect(readList('Clip\tTake\tCircled\r\nM\u00fchle\t3\tyes\r\n', accented).lines[0]).toMatchObject({
    ...{ line: 2, clip: 'x', given: { take: '3', circled: true } },
  });
  // What the columns hold may be said by hand.
  const read = readList('A,B\nT0002,12', CLIPS, ['name', 'scene']);
  expect(read.lines[0]).toMatchObject({ clip: 'T0002', given: { scene: '12' } });
});
