import { describe, expect, test } from '@jest/globals';
import { cardFolder, patternFault } from './pattern';
import { copySeconds } from './verification';
import { type CardCopy, mayBeWiped } from './wipe';

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
  test.each([['', 'give a folder'], ['{card', 'not closed'], ['{reel}/{card}', '{reel} is not known'], ['../{card}', 'cannot be . or ..'], ['cards', 'without {card}']])('“%s” is refused', (pattern, says) => {
    expect(patternFault(pattern)).toContain(says);
  });
  test('the shipped pattern is right', () => expect(patternFault('{job}/Day {day}/{card}')).toBeNull());
});

test('the estimate grows with what is verified, and follows what was measured', () => {
  const [sizes, contents, twice] = (['sizes', 'contents', 'contentsTwice'] as const).map((v) => copySeconds(64e9, 2, v, null));
  expect(sizes).toBeLessThan(contents!);
  expect(contents).toBeLessThan(twice!);
  expect(copySeconds(64e9, 2, 'contents', 100e6)).toBe(640);
});

const card = ['a.MP4', 'b.MP4'].map((path) => ({ path, size: 10, fault: null }));
const copy = (id: string, volume: string, change: Partial<CardCopy> = {}): CardCopy => ({
  id, place: `${id}/B002`, volume, volumeName: volume, verification: 'contents', kind: 'xxh128', verifiedAt: '2026-05-06T20:00:00Z', holds: new Set(['a.MP4', 'b.MP4']), present: true, spoilt: 0, ...change,
});

describe('may this card be wiped?', () => {
  test('yes: two copies by contents on two volumes', () => {
    const a = mayBeWiped(card, [copy('North', 'n'), copy('South', 's')], [], false);
    expect(a).toEqual({ may: true, because: 'All 2 files of the card are in 2 copies on 2 volumes, verified by contents (XXH3-128).', missing: [], notes: [] });
  });
  test.each([
    ['no copy', [], '2 files of 2 are in no verified copy, the first a.MP4.'],
    ['one copy', [copy('North', 'n')], 'in one verified copy only'],
    ['two copies on one volume', [copy('North', 'n'), copy('South', 'n')], 'share the volume'],
    ['one by sizes', [copy('North', 'n'), copy('South', 's', { verification: 'sizes' })], 'by sizes only'],
    ['one is away', [copy('North', 'n'), copy('South', 's', { present: false })], 'not there now'],
    ['one was found spoilt', [copy('North', 'n'), copy('South', 's', { spoilt: 1 })], '1 file changed or missing'],
    ['one lacks a file', [copy('North', 'n'), copy('South', 's', { holds: new Set(['a.MP4']) })], '1 file of 2 is in one verified copy only'],
  ] as const)('no: %s', (_, copies, says) => {
    const a = mayBeWiped(card, copies, [], false);
    expect(a.may).toBe(false);
    expect(a.missing.join(' ')).toContain(says);
  });
  test('no while the copy runs, and where a file could not be read', () => {
    expect(mayBeWiped(card, [copy('North', 'n'), copy('South', 's')], [], true).may).toBe(false);
    const bad = mayBeWiped([...card, { path: 'c.MP4', size: 1, fault: 'cannot be read' }], [copy('North', 'n'), copy('South', 's')], [], false);
    expect(bad).toMatchObject({ may: false, because: '1 file could not be copied, the first c.MP4: cannot be read' });
  });
  test('a third copy that is away is a note, not a no; links on the card are noted', () => {
    const a = mayBeWiped(card, [copy('North', 'n'), copy('South', 's'), copy('East', 'e', { present: false })], [{ path: 'DCIM/link', reason: 'a link' }], false);
    expect(a.may).toBe(true);
    expect(a.notes.join(' ')).toMatch(/East\/B002 is not there now.*no plain file.*DCIM\/link/);
  });
  test('no where something on the card could not be looked at: it may be footage', () => {
    const a = mayBeWiped(card, [copy('North', 'n'), copy('South', 's')], [{ path: 'DCIM/102', reason: 'this folder cannot be read', unread: true }, { path: 'link', reason: 'a link' }], false);
    expect(a).toMatchObject({ may: false, because: 'DCIM/102 could not be read on the card (this folder cannot be read): what is there is in no copy. Copy the card again.' });
    expect(a.notes.join(' ')).not.toContain('DCIM/102');
  });
  test('an unknown card is not wiped', () => expect(mayBeWiped([], [], [], false).may).toBe(false));
});
