import { expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { recognise } from '../../core/intake';
import { describeCards, entriesOf, expectedOf, tableOfTrees } from './describe';
import { CARD_TREES, evidenceOf } from './trees';

test.each(CARD_TREES)('$id: $what', (tree) => {
  expect(describeCards(recognise(entriesOf(tree), { evidence: evidenceOf(tree) }))).toEqual(expectedOf(tree));
});

test('files that may be of one take are asked for before they are joined', () => {
  for (const tree of CARD_TREES.filter((t) => t.evidence)) {
    const asked = recognise(entriesOf(tree)).cards.flatMap((c) => c.mayFollow.flat());
    expect(Object.keys(tree.evidence!)).toEqual(expect.arrayContaining(asked));
    expect(asked.length).toBeGreaterThan(0);
  }
});

test('the table in the documents says how the cards are read now', () => {
  const cells = (text: string) =>
    text
      .split('\n')
      .filter((l) => l.startsWith('|') && !/^\| ?-/.test(l))
      .map((l) => l.split('|').map((c) => c.trim()));
  expect(cells(readFileSync('docs/cards.md', 'utf8'))).toEqual(cells(tableOfTrees()));
});
