import { expect, test } from '@jest/globals';
import { newBlock } from '../../core/naming/blocks';
import { another, withBlock, withoutBlock, withSet } from './rows';

const row = [
  newBlock('day', 'day-0', {}, { before: ' - ' }),
  newBlock('day', 'day-2', {}, { before: ' - ' }),
];

test('a block that is added has an id of its own and the separator of the others', () => {
  expect(another('day', row)).toMatchObject({ id: 'day-3', before: ' - ' });
  expect(another('day', [])).toMatchObject({ id: 'day-0', before: '_' });
});

test('levels gain, lose and change blocks; an empty level goes', () => {
  const levels = [[row[0]!], [row[1]!]];
  const more = another('card', levels[0]!);
  expect(withBlock(levels, 0, more)).toEqual([[row[0], more], [row[1]]]);
  expect(withBlock(levels, null, more)).toEqual([[row[0]], [row[1]], [more]]);
  expect(withoutBlock(levels, 1, 'day-2')).toEqual([[row[0]]]);
  const set = { ...row[1]!, before: '' };
  expect(withSet(levels, 1, set)).toEqual([[row[0]], [set]]);
});
