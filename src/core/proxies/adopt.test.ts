import { describe, expect, test } from '@jest/globals';
import { randomFrom } from '../platform/random';
import { rate } from '../platform/timecode/rate';
import { timecode } from '../platform/timecode/timecode';
import { agreement, type Found, type MatchFacts, matchFound, type Original, stemKey } from './adopt';

const R25 = rate(25);
const facts = (frames: number, start: number | null, r = R25): MatchFacts => ({
  frames,
  rate: r,
  start: start === null ? null : timecode(start, r),
});
const original = (name: string, f: MatchFacts, card = 'B001'): Original => ({
  id: `${card}/${name}`,
  names: [name],
  card,
  facts: f,
});
const found = (path: string, f: MatchFacts): Found => ({ id: path, path, facts: f });
const pairsOf = (originals: Original[], files: Found[]) =>
  matchFound(originals, files).pairs.map((p) => `${p.found} → ${p.original} by ${p.by}`);

test('a name is compared without its extension, a second one, case and form of letters', () => {
  expect(stemKey('SUB/T0003_px.MP4.MP4')).toBe('t0003_px');
  expect(stemKey('x/A001.Mov')).toBe('a001');
  expect(stemKey('Ze\u0301.mxf')).toBe('zé');
  expect(stemKey('A.B.C')).toBe('a.b.c');
});

test('what agrees, what differs, and what cannot be told', () => {
  expect(agreement(facts(10, 100), facts(10, 100))).toBe('same');
  expect(agreement(facts(10, 100), facts(10, null))).toBe('same');
  expect(agreement(facts(10, 100), facts(10, 101))).toBe('differs');
  expect(agreement(facts(10, 100), facts(11, 100))).toBe('differs');
  expect(agreement(facts(10, 100), facts(10, 100, rate(50)))).toBe('differs');
  expect(agreement(facts(10, 100), { frames: null, rate: null, start: null })).toBe('unknown');
});

describe('files are matched', () => {
  const T = [1, 2, 3, 10].map((n) => original(`T${n}`, facts(100 + n, n * 1000)));

  test('by the same name, another container and case', () => {
    expect(pairsOf(T, [found('P/t1.mov', facts(101, 1000)), found('P/T10.MP4', facts(110, 10_000))])).toEqual(
      ['P/t1.mov → B001/T1 by name', 'P/T10.MP4 → B001/T10 by name'],
    );
  });

  test('by words before and after, worked out from all of them', () => {
    const files = T.map((o) => found(`Light/px-${o.names[0]!}_small.mp4`, o.facts));
    const { rules, pairs } = matchFound(T, files);
    expect(rules).toEqual([{ prefix: 'px-', suffix: '_small' }]);
    expect(pairs).toHaveLength(4);
    expect(pairs.every((p) => p.by === 'rule' && p.found.includes(`-${p.original.slice(5)}_`))).toBe(true);
  });

  test('a name that holds another is not taken for it', () => {
    // T10 is T1 and a zero: by that rule it would be T1’s.
    expect(pairsOf(T, [found('T10.mp4', facts(110, 10_000))])).toEqual(['T10.mp4 → B001/T10 by name']);
    const unread = { frames: null, rate: null, start: null };
    expect(matchFound(T, [found('T10.mp4', unread), found('T2.mp4', unread)])).toMatchObject({
      pairs: [],
      open: [{ originals: ['B001/T10'] }, { originals: ['B001/T2'] }],
    });
  });

  test('renamed ones by timecode, rate and length, where only one was recorded then', () => {
    expect(pairsOf(T, [found('wheel turns.mp4', facts(102, 2000))])).toEqual([
      'wheel turns.mp4 → B001/T2 by timecode',
    ]);
    const two = [...T, original('C7', facts(102, 2000), 'C001')];
    expect(matchFound(two, [found('wheel turns.mp4', facts(102, 2000))])).toMatchObject({
      pairs: [],
      open: [{ originals: ['B001/T2', 'C001/C7'] }],
    });
    // Zero tells nothing.
    const zero = [original('Z1', facts(50, 0))];
    expect(matchFound(zero, [found('other.mp4', facts(50, 0))])).toMatchObject({
      pairs: [],
      rest: ['other.mp4'],
    });
  });

  test('two of one name by what was recorded, or by the card their folder names; else a person decides', () => {
    const day = [original('T0001', facts(100, 1000), 'B001'), original('T0001', facts(100, 9000), 'B002')];
    expect(pairsOf(day, [found('x/T0001.mp4', facts(100, 9000))])).toEqual([
      'x/T0001.mp4 → B002/T0001 by name',
    ]);
    expect(pairsOf(day, [found('B002/SUB/T0001.mp4', facts(100, null))])).toEqual([
      'B002/SUB/T0001.mp4 → B002/T0001 by name',
    ]);
    expect(matchFound(day, [found('x/T0001.mp4', facts(100, null))]).open).toMatchObject([
      { found: ['x/T0001.mp4'], originals: ['B001/T0001', 'B002/T0001'] },
    ]);
  });

  test('several for one are shown side by side, and one that is another length is none', () => {
    expect(
      matchFound(T, [
        found('a/T1.mp4', facts(101, 1000)),
        found('b/T1.mov', facts(101, 1000)),
        found('T2.mp4', facts(99, 2000)),
      ]),
    ).toMatchObject({
      pairs: [],
      open: [{ found: ['a/T1.mp4', 'b/T1.mov'], originals: ['B001/T1'] }],
      differs: [{ found: 'T2.mp4', originals: ['B001/T2'] }],
    });
  });
});

test('of five hundred sets with words, clashes, copies and strangers, not one wrong pair', () => {
  let [wrong, right, possible, asked] = [0, 0, 0, 0];
  for (let seed = 1; seed <= 500; seed++) {
    const random = randomFrom(seed);
    const int = (n: number) => Math.floor(random() * n);
    const one = <T>(list: readonly T[]): T => list[int(list.length)]!;
    const style = one(['T', 'A001_C', 'WX01', 'clip-', '00', 'MVI_']);
    const digits = one([1, 2, 3, 4]);
    const cards = ['B001', 'B002', 'C001'].slice(0, 1 + int(3));
    const originals: Original[] = cards.flatMap((card, c) =>
      Array.from({ length: 3 + int(12) }, (_, i) =>
        original(
          `${style}${String(i + 1).padStart(digits, '0')}`,
          facts(50 + int(40), 25 * (c * 40_000 + i * 1000 + int(900)), one([R25, rate(50)])),
          card,
        ),
      ),
    );
    const rule = {
      prefix: one(['', '', 'px_', 'P', '0']),
      suffix: one(['', '_px', '-small', 'S03', '0', ' proxy']),
    };
    const truth = new Map<string, string>();
    const files: Found[] = [];
    const put = (path: string, f: MatchFacts, of: string | null) => {
      if (files.some((x) => x.path === path)) return;
      files.push(found(path, f));
      if (of !== null) truth.set(path, of);
    };
    const keepsTimecode = random() < 0.7;
    for (const o of originals) {
      const chance = random();
      const folder = random() < 0.5 ? `${o.card}/SUB` : 'Proxies';
      const f: MatchFacts = keepsTimecode ? o.facts : { ...o.facts, start: null };
      const name = `${rule.prefix}${o.names[0]!}${rule.suffix}`;
      const extension = one(['.mp4', '.MOV', '.mxf', '.MP4.MP4']);
      if (chance < 0.1) continue;
      if (chance < 0.2)
        put(`${folder}/${one(['wheel', 'weir', 'sluice'])} ${int(1000)}${extension}`, o.facts, o.id);
      else if (chance < 0.27)
        put(`${folder}/${name}${extension}`, { ...f, frames: o.facts.frames! - 1 - int(9) }, null);
      else if (chance < 0.32)
        put(`${folder}/${name}${extension}`, { frames: null, rate: null, start: null }, o.id);
      else put(`${folder}/${name}${extension}`, f, o.id);
      if (random() < 0.06) put(`Old/${name}${extension}`, f, o.id);
    }
    for (let i = int(4); i > 0; i--)
      put(`Proxies/${one(['x', style])}${int(99)}${one(['', '_px'])}.mp4`, facts(int(30), int(99_999)), null);
    const out = matchFound(originals, files);
    for (const p of out.pairs)
      if (truth.get(p.found) === p.original) right++;
      else wrong++;
    possible += truth.size;
    asked += out.open.length;
    // Every file is in exactly one of the lists.
    const listed = [
      ...out.pairs.map((p) => p.found),
      ...out.open.flatMap((o) => o.found),
      ...out.differs.map((d) => d.found),
      ...out.rest,
    ];
    expect([...listed].sort()).toEqual(files.map((f) => f.path).sort());
  }
  console.log(`${right} of ${possible} right, ${wrong} wrong, ${asked} times a person was asked`);
  expect(wrong).toBe(0);
  expect(right / possible).toBeGreaterThan(0.75);
});
