import { expect, test } from '@jest/globals';
import type { FactTable } from '../../core/facts/shapes';
import { filterRows, haystacks, linesOf, rowsOf, sortRows, widthOf, wordsAt } from './columns';

const clip = (id: string, card: string, name: string): FactTable['clips'][number] => [
  id,
  card,
  card[0]!,
  1,
  name,
  'video',
  'read',
];
const table: FactTable = {
  clips: [clip('1', 'B001', 'T0010'), clip('2', 'B001', 'T0002'), clip('3', 'A001', 'A001_C001')],
  columns: [
    {
      field: 'codec',
      cells: [
        ['H.264', null, 'container'],
        ['HEVC', null, 'container'],
      ],
      rows: [0, 1, 0],
    },
    {
      field: 'rate',
      cells: [
        ['100 fps', 100, 'container'],
        ['25 fps', 25, 'container'],
      ],
      rows: [0, 1, null],
    },
  ],
};
const rows = rowsOf(table);
const names = (list: readonly { name: string }[]) => list.map((r) => r.name);

test('words are looked for in all that is shown, each of them, whatever the case', () => {
  const find = (words: string) => names(filterRows(rows, haystacks(table), words, [], table));
  expect([find(''), find('hevc'), find('b001 H.264'), find('t00 fps'), find('nothing')]).toEqual([
    ['T0010', 'T0002', 'A001_C001'],
    ['T0002'],
    ['T0010'],
    ['T0010', 'T0002'],
    [],
  ]);
});

test('what a chart’s bar asks for is the very value, not a part of it', () => {
  const only = (field: 'rate' | 'camera' | 'day', value: string) =>
    names(filterRows(rows, haystacks(table), '', [{ field, value, words: '' }], table));
  expect([only('rate', '25 fps'), only('rate', '5 fps'), only('camera', 'A'), only('day', '2')]).toEqual([
    ['T0002'],
    [],
    ['A001_C001'],
    [],
  ]);
});

test('numbers sort as numbers, names by their numbers, what is not stated comes last either way', () => {
  expect(names(sortRows(rows, { by: 'rate', down: false }, table))).toEqual(['T0002', 'T0010', 'A001_C001']);
  expect(names(sortRows(rows, { by: 'rate', down: true }, table))).toEqual(['T0010', 'T0002', 'A001_C001']);
  expect(names(sortRows(rows, { by: 'name', down: false }, table))).toEqual(['A001_C001', 'T0002', 'T0010']);
  expect(names(sortRows(rows, null, table))).toEqual(names(rows));
});

test('groups have heads with their counts; what states nothing stands together', () => {
  expect(linesOf(rows, 'rate', table).map((l) => ('group' in l ? `${l.group} ${l.clips}` : l.name))).toEqual([
    '25 fps 1',
    'T0002',
    '100 fps 1',
    'T0010',
    'not stated 1',
    'A001_C001',
  ]);
  expect(linesOf(rows, 'none', table)).toHaveLength(3);
  expect(wordsAt(table, 'model', 0)).toBe('');
  expect(widthOf('codec', table)).toBeGreaterThanOrEqual(74);
});
