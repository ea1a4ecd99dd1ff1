import { describe, expect, test } from '@jest/globals';
import { cardFolder, patternFault } from './pattern';
import { copySeconds } from './verification';

const words = { job: 'SLW', day: 2, date: '2026-05-06', camera: 'B', card: 'B002' };

describe('the pattern of the card’s folder', () => {
  test('words in braces, free words, folders', () => {
    expect(cardFolder('{job}/Day {day}/{card}', words)).toBe('SLW/Day 2/B002');
    expect(cardFolder('{date} {camera}-cam/{card}', words)).toBe('2026-05-06 B-cam/B002');
    expect(cardFolder('{date}/{card}', { ...words, date: null })).toBe('no date/B002');
  });
  test('what some volumes refuse is replaced; a card id cannot make folders', () => {
    expect(cardFolder('a:b?. /{card}', { ...words, card: 'x/../y' })).toBe('a_b_/x_.._y');
    expect(cardFolder('///{card}//', words)).toBe('B002');
  });
  test.each([
    ['', 'give a folder'],
    ['{card', 'not closed'],
    ['{reel}/{card}', '{reel} is not known'],
    ['{constructor}/{card}', '{constructor} is not known'],
    ['{__proto__}/{card}', '{__proto__} is not known'],
    ['{{card}', 'not closed'],
    ['../{card}', 'cannot be . or ..'],
    ['cards', 'without {card}'],
  ])('“%s” is refused', (pattern, says) => {
    expect(patternFault(pattern)).toContain(says);
  });
  test('the shipped pattern is right', () => expect(patternFault('{job}/Day {day}/{card}')).toBeNull());
});

test('the estimate grows with what is verified, and follows what was measured', () => {
  const [sizes, contents, twice] = (['sizes', 'contents', 'contentsTwice'] as const).map((v) =>
    copySeconds(64e9, 2, v, null),
  );
  expect(sizes).toBeLessThan(contents!);
  expect(contents).toBeLessThan(twice!);
  expect(copySeconds(64e9, 2, 'contents', 100e6)).toBe(640);
});
