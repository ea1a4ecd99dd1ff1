import { expect, test } from '@jest/globals';
import { formatTimecode, parseFramesFirst, parseTimecode } from '../platform/timecode/timecode';
import { STANDARD_RATES } from '../platform/timecode/rate';
import { pixelFormat, ProbeOutput, statementsFromProbe } from '../facts/probe';
import { formatValue } from '../facts/catalogue';
import { chooseFacts, findings } from '../facts/facts';
import { randomFrom } from '../platform/random';
import { counterGaps } from './counter';
import { ofClips } from './ofClips';
import { type FoundEntry, recognise } from './recognise';
import { DEFAULT_INTAKE } from './rules';
import { matchBySuffix } from './suffix';

// Random and hostile input to everything that reads what a card says. Seeds are fixed.

const PARTS = [
  'CLIP',
  'SUB',
  'clip',
  'A001',
  'A001_C001',
  'T0001',
  'T0001_px',
  '',
  '.x',
  'Proxy',
  'DCIM',
  '100SKRRY',
  'SKRY0001',
  'WX010001',
  'WX020001',
  'WXYZ0001',
  'PRIVATE',
  'Video',
  'Photo',
  'A001_C001.CLD',
  'A001_C001_001',
  'A001_C001_000001',
  'T01_Tr1',
  'T01_Tr2',
  '01_T0001',
  '02_T0001',
  'wheel \u{1f30a}',
  'a'.repeat(240),
  '-rf',
  'two\nlines',
  '..',
  'CON',
];
const ENDS = [
  '.JPG',
  '.DNG',
  '.WAV',
  '.KRV',
  '.MP4',
  '.mp4',
  '.MOV',
  '.mxf',
  '.XML',
  '.cdl',
  '.THM',
  '.MP4.MP4',
  '',
  '.',
  '.txt',
];

test('2 000 random cards: nothing is lost, nothing is in two places, nothing throws; what is of no clip changes nothing', () => {
  for (let seed = 1; seed <= 2000; seed++) {
    const random = randomFrom(seed);
    const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
    const entries = new Map<string, FoundEntry>();
    for (let i = 0; i < random() * 24; i++) {
      const path = Array.from({ length: Math.floor(random() * 3) }, () => pick(PARTS.filter((p) => p !== '')))
        .concat(pick(PARTS) + pick(ENDS))
        .join('/');
      if (path === '' || path.endsWith('/')) continue;
      entries.set(path, {
        path,
        kind: pick(['file', 'file', 'file', 'link', 'other']),
        size: pick([0, 1, 3e5, 5e9]),
        modified: 1,
        ...(random() < 0.1 ? { holds: pick(['video', 'sound'] as const) } : {}),
      });
    }
    const r = recognise([...entries.values()]);
    const inCard = (folder: string, path: string) => (folder === '' ? path : `${folder}/${path}`);
    const seen = [
      ...r.aside.map((a) => a.path),
      ...r.cards.flatMap((c) => [
        ...c.aside.map((a) => inCard(c.folder, a.path)),
        ...c.families.flatMap((f) => f.files.map((m) => inCard(c.folder, m.path))),
      ]),
    ];
    expect(seen.sort()).toEqual([...entries.keys()].sort());
    const clipsOf = (of: typeof r) => of.cards.map((c) => ({ ...c, aside: [] }));
    expect(clipsOf(recognise(ofClips([...entries.values()], DEFAULT_INTAKE)))).toEqual(clipsOf(r));
    for (const c of r.cards) {
      expect(c.families.every((f) => f.files[0]!.role === 'original')).toBe(true);
      expect(counterGaps(c.families.map((f) => f.stem)).every((g) => g.count > 0)).toBe(true);
    }
  }
});

test('names that follow from no clip match none', () => {
  const random = randomFrom(7);
  const word = () =>
    Array.from({ length: 1 + Math.floor(random() * 6) }, () => 'T0_px1'[Math.floor(random() * 6)]).join('');
  for (let i = 0; i < 500; i++) {
    const stems = [...new Set([word(), word(), word()])];
    for (const [name, m] of matchBySuffix(stems, [word(), word()]).matches) {
      expect(stems).toContain(m.stem);
      expect(name.startsWith(m.stem) && m.stem + m.suffix === name).toBe(true);
    }
  }
});

test('whatever a container claims, facts are chosen or left out, never wrong in type', () => {
  const claims = [
    '0',
    '-1',
    '99999999999999999999',
    'NaN',
    '25/0',
    '0/0',
    '1e9',
    '25/1',
    'x'.repeat(5000),
    '1904-01-01T00:00:00Z',
    '2026-05-06T14:22:05Z',
    '99:99:99:99',
    '\u0000',
  ];
  for (let seed = 1; seed <= 500; seed++) {
    const random = randomFrom(seed);
    const pick = () => claims[Math.floor(random() * claims.length)]!;
    const output = ProbeOutput.parse({
      format: {
        format_name: pick(),
        duration: pick(),
        tags: { creation_time: pick(), timecode: pick(), major_brand: pick() },
      },
      streams: [
        {
          index: 0,
          codec_type: 'video',
          codec_name: pick(),
          pix_fmt: pick(),
          avg_frame_rate: pick(),
          r_frame_rate: pick(),
          nb_frames: pick(),
          time_base: pick(),
          duration_ts: random() * 1e20,
          width: 1,
          height: 1,
        },
        { index: 1, codec_type: 'audio', channels: Math.floor(random() * 9), sample_rate: pick() },
        { index: 2, codec_type: 'data', tags: { timecode: pick() } },
      ],
    });
    const facts = chooseFacts(statementsFromProbe(output, { zoneMinutes: 0, modified: new Date(0) }));
    for (const [field, { chosen }] of facts)
      if (chosen.value.type !== 'text')
        expect(formatValue(chosen.value, field)).not.toMatch(/NaN|Infinity|undefined/);
    expect(findings(facts).every((f) => f.text.length > 0)).toBe(true);
    expect(pixelFormat(pick()).bitDepth ?? 8).toBeGreaterThan(0);
  }
});

test('a timecode that was read is written the same again, at every rate', () => {
  const random = randomFrom(3);
  const two = () => String(Math.floor(random() * 100)).padStart(2, '0');
  for (let i = 0; i < 4000; i++) {
    const rate = STANDARD_RATES[i % STANDARD_RATES.length]!;
    const text = `${two()}:${two()}:${two()}${random() < 0.5 ? ':' : ';'}${two()}`;
    const tc = parseTimecode(text, rate);
    if (tc) expect(parseTimecode(formatTimecode(tc), rate)).toEqual(tc);
    const digits = text.replace(/\D/g, '');
    const first = parseFramesFirst(digits, rate, false);
    if (first) expect(formatTimecode(first).replace(/\D/g, '').slice(0, 2)).toBe(digits.slice(6));
  }
});
