import { expect, test } from '@jest/globals';
import { randomFrom } from '../platform/random';
import { newBlock } from './blocks';
import { ALL_SYSTEMS } from './check';
import type { NamingClip } from './clip';
import { type Convention, DEFAULT_FOLDER_PLAN } from './convention';
import { renderNames } from './render';
import { sampleClip } from './sample';
import { suggestConvention } from './suggest';

const clips = (n: number): NamingClip[] =>
  Array.from({ length: n }, (_, i) => {
    const [camera, day] = [i % 3 === 0 ? 'A' : 'B', 1 + Math.floor(i / 10)];
    return sampleClip(`T${String(100 + i * 3)}`, {
      camera,
      day,
      card: `${camera}00${1 + Math.floor(i / 5)}`,
      date: `2026-05-0${day + 4}`,
      rate: { num: i % 2 === 0 ? 25 : 50, den: 1 },
      recordedAt: `2026-05-0${day + 4}T1${i % 10}:00:00`,
      facts: { scene: String(12 + (i % 4)) },
    });
  });
const OPTIONS = {
  given: [],
  notTaken: () => false,
  exists: () => true,
  systems: ALL_SYSTEMS,
};
const named = (list: NamingClip[], ...blocks: Convention['blocks']): NamingClip[] => {
  const { names } = renderNames({ name: 'x', blocks, changes: [] }, DEFAULT_FOLDER_PLAN, list, OPTIONS);
  return list.map((c, i) => ({ ...c, current: names[i]!.stem }));
};
const kinds = (list: NamingClip[]) => suggestConvention(list)?.convention.blocks.map((b) => b.kind);

test('the convention that names were made by is found in them', () => {
  const list = named(
    clips(30),
    newBlock('job'),
    newBlock('day', 'd', { digits: 2 }),
    newBlock('card'),
    newBlock('counter', 'n', { per: ['card'], digits: 4 }),
    newBlock('rate', 'r', { suffix: 'fps' }, { before: '-' }),
  );
  expect(list[0]!.current).toBe('SLW_D01_A001_0001-25fps');
  const found = suggestConvention(list)!;
  expect([found.follow, found.of]).toEqual([30, 30]);
  expect(kinds(list)).toEqual(['job', 'day', 'card', 'counter', 'rate']);
  expect(found.convention.blocks[3]!.own).toMatchObject({ per: ['card'], digits: 4 });
  expect(found.convention.blocks[4]).toMatchObject({ before: '-', own: { suffix: 'fps' } });
});

test('words of one’s own, dates with dashes, facts, and the camera’s number', () => {
  const list = named(
    clips(20),
    newBlock('words', 'w', { text: 'River' }),
    newBlock('date', 'd', { format: 'YYYY-MM-DD' }),
    newBlock('scene'),
    newBlock('original', 'o', { part: 'number' }),
  );
  expect(list[4]!.current).toBe('River_2026-05-05_12_112');
  expect(kinds(list)).toEqual(['words', 'date', 'scene', 'original']);
});

test('names of no common form, and the camera’s own, suggest nothing; some that differ do not matter', () => {
  expect(suggestConvention(clips(10))).toBeNull();
  const odd = clips(4).map((c, i) => ({ ...c, current: ['one', 'two_a', 'three-b-c', 'four 4'][i]! }));
  expect(suggestConvention(odd)).toBeNull();
  const list = named(clips(30), newBlock('card'), newBlock('counter', 'n', { per: ['card'] }));
  list[7] = { ...list[7]!, current: 'renamed by hand' };
  expect(suggestConvention(list)).toMatchObject({ follow: 29, of: 30 });
});

test('of random conventions whatever is suggested makes most of the names', () => {
  const random = randomFrom(7);
  const one = <T>(of: readonly T[]): T => of[Math.floor(random() * of.length)]!;
  let found = 0;
  for (let i = 0; i < 60; i++) {
    const before = one(['_', '-', '.', ' ']);
    const blocks = (['job', 'day', 'card', 'rate', 'scene', 'time', 'size'] as const)
      .filter(() => random() < 0.5)
      .map((kind) => newBlock(kind, kind, {}, { before }));
    const list = named(
      clips(24),
      ...blocks,
      newBlock('counter', 'n', { per: one([[], ['card']]) }, { before }),
    );
    const suggestion = suggestConvention(list);
    if (!suggestion) continue;
    found++;
    expect(
      named(clips(24), ...suggestion.convention.blocks).filter((c, k) => c.current === list[k]!.current),
    ).toHaveLength(suggestion.follow);
    expect(suggestion.follow).toBeGreaterThan(12);
  }
  expect(found).toBeGreaterThan(50);
});
