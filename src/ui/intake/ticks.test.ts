import { describe, expect, test } from '@jest/globals';
import type { LookedCard } from '../../core/intake/shapes';
import { invert, notCopied, sumOf, tickRange, touched } from './ticks';

const order = ['a', 'b', 'c', 'd', 'e'];

test('a range is ticked or cleared in either direction', () => {
  expect([...tickRange(new Set(['a']), order, 'd', 'b', true)].sort()).toEqual(['a', 'b', 'c', 'd']);
  expect([...tickRange(new Set(order), order, 'b', 'd', false)]).toEqual(['a', 'e']);
  // What is no longer there ends the range at the first.
  expect([...tickRange(new Set(), order, 'gone', 'b', true)]).toEqual(['a', 'b']);
});

test('inverted', () => expect([...invert(new Set(['b', 'd']), order)]).toEqual(['a', 'c', 'e']));

test('a rectangle takes the tiles it touches, drawn from any corner', () => {
  const layout = { columns: 3, width: 100, height: 50, gap: 10 };
  expect(touched({ x: 0, y: 0, x2: 5, y2: 5 }, 7, layout)).toEqual([0]);
  expect(touched({ x: 150, y: 65, x2: 50, y2: 20 }, 7, layout)).toEqual([0, 1, 3, 4]);
  expect(touched({ x: 101, y: 0, x2: 109, y2: 300 }, 7, layout)).toEqual([]);
  expect(touched({ x: -5, y: -5, x2: 900, y2: 900 }, 7, layout)).toHaveLength(7);
});

describe('what will not be copied', () => {
  const clip = (path: string, bytes: number) => ({
    path,
    stem: path,
    kind: 'video' as const,
    bytes,
    missing: [],
    here: null,
    files: [{ path, role: 'original' as const, size: bytes }],
  });
  const card = {
    clips: [clip('a', 1000), clip('b', 2000), clip('c', 4000)],
    all: { files: 5, bytes: 7100, folder: 'DCIM' },
  } as unknown as LookedCard;
  test('the sum of what is ticked', () =>
    expect(sumOf(card.clips, new Set(['a', 'c', 'gone']))).toEqual({ clips: 2, bytes: 5000, files: 2 }));
  test('ticked clips only', () =>
    expect(notCopied(card, [], 'DCIM', new Set(['a']), { safe: 1, shelf: true, wholeCard: false })).toEqual([
      '2 clips not ticked (6.0 kB) will be on the card only.',
      '2 files of no clip will be on the card only.',
    ]));
  test('the whole card to two safe copies', () => {
    expect(notCopied(card, [], 'DCIM', new Set(['a']), { safe: 2, shelf: true, wholeCard: true })).toEqual([
      '2 clips not ticked (6.0 kB) will be in the safe copies, not on the shelf.',
      '2 files of no clip will be in the safe copies only.',
    ]);
    expect(notCopied(card, [], 'DCIM', new Set(), { safe: 2, shelf: false, wholeCard: true })).toEqual([]);
  });
  test('on a card of which one folder was looked at nobody knows what the other files are', () =>
    expect(
      notCopied(card, [], 'DCIM/100', new Set(['a', 'b', 'c']), { safe: 1, shelf: true, wholeCard: true }),
    ).toEqual(['2 files outside this folder, or of no clip, will be in the safe copy only.']));
  test('of a card in the folder that was looked at everything was seen', () =>
    expect(
      notCopied(card, [], '', new Set(['a', 'b', 'c']), { safe: 1, shelf: true, wholeCard: true }),
    ).toEqual(['2 files of no clip will be in the safe copy only.']));
  test('files of the other cards in the same folder are not said to be of no clip', () => {
    const others = ['A001', 'B001', 'C001', 'SND1'].map((folder, i) => ({
      folder: `Day 1/${folder}`,
      clips: i === 0 ? [clip('d', 1000)] : [],
    }));
    const ticked = new Set(['a', 'b', 'c']);
    expect(notCopied(card, others, 'DCIM', ticked, { safe: 1, shelf: true, wholeCard: true })).toEqual([
      '1 file of the other cards in this folder (Day 1/A001, Day 1/B001, Day 1/C001 …) will be in the safe copy only.',
      '1 file of no clip will be in the safe copy only.',
    ]);
    expect(notCopied(card, others, 'DCIM', ticked, { safe: 1, shelf: true, wholeCard: false })).toEqual([
      '1 file of the other cards in this folder (Day 1/A001, Day 1/B001, Day 1/C001 …) will be on the card only.',
      '1 file of no clip will be on the card only.',
    ]);
  });
});
