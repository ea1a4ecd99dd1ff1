import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { fold } from '../fold';
import { compileQuery, type Subject } from './compile';
import { completions } from './complete';
import { OPS, SEARCH_FIELDS, type SearchField, searchField } from './fields';
import { parseQuery, queryText } from './parse';
import { DEEPEST, LONGEST, type Op, type Part, type Query, SearchFault } from './query';
import { addressNumber } from './values';

/** A clip in plain values: words of facts as a person reads them, numbers, lists. */
interface Clip {
  words: Record<string, string>;
  numbers: Record<string, number>;
  lists: Record<string, string[]>;
}
const subject = ({ words, numbers, lists }: Clip): Subject => ({
  has: (wanted) =>
    [...Object.values(words), ...Object.values(lists).flat()].some((w) => fold(w).includes(wanted)),
  words: (f) => (words[f.word] === undefined ? null : fold(words[f.word]!)),
  number: (f) => numbers[f.word] ?? null,
  oneOf: (f, op, wanted) =>
    (lists[f.word] ?? []).map(fold).some((w) => (op === 'is' ? w === wanted : w.includes(wanted))),
  any: (f) => (lists[f.word] ?? []).length > 0,
});
const at = (iso: string): number => Date.parse(`${iso}Z`) / 1000;
const WHEEL: Clip = {
  words: {
    name: 'SLW_D1_B001_50p_004.MP4',
    codec: 'H.264',
    rate: '50 fps',
    length: '12.5 s',
    recorded: '2026-05-05 11:58:00',
    start: '11:58:00:10',
    pair: 'proven',
    proxy: 'there',
    drop: 'no',
  },
  numbers: {
    rate: 50,
    length: 12.5,
    day: 1,
    size: 48_000_000,
    recorded: at('2026-05-05T11:58:00'),
    start: addressNumber('11:58:00:10')!,
    select: 2,
  },
  lists: { keyword: ['Wheel', 'Close-up'], bin: ['Day 1', 'Écluse'], note: ['soft at the end'] },
};
const finds = (query: string, clip = WHEEL): boolean => compileQuery(parseQuery(query)).test(subject(clip));
const faultOf = (query: string): SearchFault => {
  try {
    compileQuery(parseQuery(query));
  } catch (e) {
    if (e instanceof SearchFault) return e;
    throw e;
  }
  throw new Error(`no fault in ${query}`);
};

describe('what is found', () => {
  test.each([
    ['', true],
    ['wheel', true],
    ['WHEEL close', true],
    ['"soft at the end"', true],
    ['"end soft"', false],
    ['ecluse', true],
    ['wheel rain', false],
    ['rate over 50', false],
    ['rate from 50', true],
    ['rate is 50fps', true],
    ['rate between 25 and 60', true],
    ['rate under 50', false],
    ['length over 10s', true],
    ['length under 0:12', false],
    ['length between 0.1min and 1:00', true],
    ['size over 40MB', true],
    ['size under 0.04GB', false],
    ['recorded before noon', true],
    ['recorded after noon', false],
    ['recorded before noon day is 2', false],
    ['recorded is 2026-05-05', true],
    ['recorded after 2026-05-04', true],
    ['recorded after 2026-05-05', false],
    ['recorded to 2026-05-05', true],
    ['recorded is "2026-05-05 11:58"', true],
    ['recorded is 11:58', true],
    ['recorded between 11:00 and 11:57', false],
    ['start from 11:58:00', true],
    ['start is 11:58:00', true],
    ['start is 11:58:00:09', false],
    ['start before 11:58:00:11', true],
    ['no proxy', false],
    ['with proxy', true],
    ['pair is proven', true],
    ['keyword is wheel', true],
    ['keyword is close', false],
    ['keyword has close', true],
    ['bin is "day 1"', true],
    ['no keyword', false],
    ['no scene', true],
    ['with select', true],
    ['with reject', false],
    ['select over 1', true],
    ['drop is no', true],
    ['with drop', false],
    ['codec has 264', true],
    ['any(rain, wheel)', true],
    ['none(rain, wheel)', false],
    ['none(rain) wheel', true],
    ['any(rain, keyword is wheel rate is 25)', false],
    ['any(rain, keyword is wheel rate is 50)', true],
    ['all(wheel, none(rain, no proxy))', true],
    ['(wheel, close)', true],
  ])('%s: %s', (query, found) => {
    expect(finds(query)).toBe(found);
  });

  test('29.97 is found by its short form, and 30 is another', () => {
    const clip = { words: {}, numbers: { rate: 30000 / 1001 }, lists: {} };
    expect(finds('rate is 29.97', clip)).toBe(true);
    expect(finds('rate is 30', clip)).toBe(false);
    expect(finds('rate over 29.97', clip)).toBe(false);
  });

  test('words in quotation marks are no condition, nor is a field without one', () => {
    expect(parseQuery('"rate" over 50')).toEqual([
      { kind: 'words', text: 'rate' },
      { kind: 'words', text: 'over' },
      { kind: 'words', text: '50' },
    ]);
    expect(parseQuery('proxy')).toEqual([{ kind: 'words', text: 'proxy' }]);
  });
});

describe('what is not understood is said at its place', () => {
  test.each([
    ['wheel (rain', 'The bracket is not closed.', 6, 11],
    ['wheel)', 'This bracket closes nothing.', 5, 6],
    ['wheel, rain', 'A comma stands only within brackets.', 5, 6],
    ['any(wheel,)', 'Something is missing here.', 10, 11],
    ['any()', 'Something is missing here.', 4, 5],
    ['the "end', 'The quotation mark is not closed.', 4, 8],
    ['x rate over', 'A value is missing after “over”.', 7, 11],
    ['rate between 25', '“between” takes two values with “and” between them.', 5, 12],
    [
      'wheel rate over fast',
      '“fast” is not a rate, as 25, or “edit” for that of the edit, for Frame rate.',
      6,
      20,
    ],
    ['rate has 5', 'Frame rate goes with', 0, 10],
    ['pair is good', 'Pair is one of none, missing', 0, 12],
    ['drop is maybe', 'Drop-frame is yes or no.', 0, 13],
    ['recorded after constructor', '“constructor” is not a date or a time', 0, 26],
    ['size over 5constructor', '“5constructor” is not a size', 0, 22],
    ['recorded after 2026-02-30', '“2026-02-30” is not a date or a time', 0, 25],
    ['recorded between noon and 2026-05-05', '“2026-05-05” is not a date or a time', 0, 36],
  ])('%s', (query, message, from, to) => {
    const fault = faultOf(query);
    expect(fault.message).toContain(message);
    expect([fault.at, fault.to]).toEqual([from, to]);
  });

  test('a search that is very long, deep or full of brackets ends at once', () => {
    expect(faultOf('a'.repeat(LONGEST + 1)).message).toContain(`${LONGEST} characters`);
    expect(faultOf('any('.repeat(700) + 'a' + ')'.repeat(700)).message).toContain(`${DEEPEST} deep`);
    expect(faultOf('('.repeat(1000)).message).toContain(`${DEEPEST} deep`);
    expect(faultOf('a '.repeat(1000)).message).toContain('400 parts');
    expect(finds(`${'*'.repeat(100)}?%_.*[a-z]+$`)).toBe(false);
  });
});

// Random clips and searches: the search agrees with what is worked out here anew, part by part, from plain values.

const FEW: readonly SearchField[] = ['codec', 'rate', 'keyword', 'pair', 'drop', 'day', 'select'].map((w) =>
  searchField(w)!,
);
const SOME_WORDS = ['wheel', 'Écluse', 'low water', 'H.264', 'rain', 'ß', 'İ', 'a(b', 'say "so"', 'no'];
const word = fc.constantFrom(...SOME_WORDS);
const number = fc.constantFrom(0, 1, 2, 24, 25, 29.97, 50, 100);
const clip = fc.record({
  words: fc.record(
    {
      codec: word,
      pair: fc.constantFrom('proven', 'missing'),
      drop: fc.constantFrom('yes', 'no'),
      rate: fc.constant('a rate'),
    },
    { requiredKeys: [] },
  ),
  numbers: fc.record({ rate: number, day: number, select: number }, { requiredKeys: [] }),
  lists: fc.record({ keyword: fc.array(word, { maxLength: 3 }) }, { requiredKeys: [] }),
});
const testPart: fc.Arbitrary<Part> = fc
  .constantFrom(...FEW.flatMap((f) => OPS[f.type].map((op) => ({ f, op }))))
  .chain(({ f, op }) =>
    fc
      .record({
        value:
          f.type === 'number'
            ? number.map(String)
            : f.type === 'rate'
              ? fc.oneof(number.map(String), fc.constant('edit'))
              : f.type === 'state'
                ? fc.constantFrom('proven', 'missing')
                : f.type === 'flag'
                  ? fc.constantFrom('yes', 'no')
                  : word,
        to: number.map(String),
      })
      .map(({ value, to }) => ({
        kind: 'test' as const,
        field: f.word,
        op,
        value: op === 'with' || op === 'no' ? '' : value,
        to: op === 'between' ? to : '',
      })),
  );
const { query } = fc.letrec<{ part: Part; query: Query }>((tie) => ({
  part: fc.oneof(
    { depthSize: 'small', withCrossShrink: true },
    word.map((text): Part => ({ kind: 'words', text })),
    testPart,
    fc.record({
      kind: fc.constant('group' as const),
      how: fc.constantFrom('all' as const, 'any' as const, 'none' as const),
      of: fc.array(tie('part'), { minLength: 1, maxLength: 3 }),
    }),
  ),
  query: fc.array(tie('part'), { maxLength: 4 }),
}));

const EDIT = { editRate: 25 };
/** The same asked in the plainest way. */
function naive(part: Part, c: Clip): boolean {
  if (part.kind === 'group') {
    const held = part.of.map((p) => naive(p, c)).filter(Boolean).length;
    return part.how === 'all' ? held === part.of.length : part.how === 'any' ? held > 0 : held === 0;
  }
  const same = (a: string, b: string) => plain(a) === plain(b);
  const holds = (a: string, b: string) => plain(a).split(plain(b)).length > 1;
  if (part.kind === 'words')
    return [...Object.values(c.words), ...Object.values(c.lists).flat()].some((w) => holds(w, part.text));
  const { field, op, value } = part;
  if (field === 'keyword') {
    const list = c.lists[field] ?? [];
    if (op === 'with' || op === 'no') return list.length > 0 === (op === 'with');
    return list.some((w) => (op === 'is' ? same(w, value) : holds(w, value)));
  }
  if (field === 'codec' || field === 'pair' || field === 'drop') {
    const has = c.words[field];
    const there = field === 'drop' ? has === 'yes' : has !== undefined;
    if (op === 'with' || op === 'no') return there === (op === 'with');
    return has !== undefined && (op === 'has' ? holds(has, value) : same(has, value));
  }
  const n = c.numbers[field];
  if (op === 'with' || op === 'no') {
    const there =
      field === 'rate' ? c.words.rate !== undefined : field === 'select' ? (n ?? 0) > 0 : n !== undefined;
    return there === (op === 'with');
  }
  if (n === undefined) return false;
  const [a, b] = [value === 'edit' ? EDIT.editRate : Number(value), Number(part.to)];
  const ways: Partial<Record<Op, boolean>> = {
    is: n === a,
    over: n > a,
    under: n < a,
    from: n >= a,
    to: n <= a,
    between: n >= a && n <= b,
  };
  return ways[op]!;
}
const plain = (s: string): string => s.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase();

test('random searches of random clips agree with the plainest way to ask', () => {
  fc.assert(
    fc.property(query, fc.array(clip, { maxLength: 8 }), (q, clips) => {
      const { test: found } = compileQuery(q, EDIT);
      for (const c of clips) expect(found(subject(c))).toBe(q.every((p) => naive(p, c)));
    }),
    { numRuns: 1500 },
  );
});

/** Without places, and without brackets that say nothing. */
const meant = (part: Part): unknown =>
  part.kind === 'group'
    ? { ...part, of: part.of.map(meant) }
    : part.kind === 'test'
      ? { kind: part.kind, field: part.field, op: part.op, value: part.value, to: part.to }
      : part;

test('a search that is written out reads as the same search', () => {
  fc.assert(
    fc.property(query, fc.array(clip, { maxLength: 4 }), (q, clips) => {
      const again = parseQuery(queryText(q));
      expect(queryText(again)).toBe(queryText(q));
      for (const c of clips)
        expect(compileQuery(again).test(subject(c))).toBe(compileQuery(q).test(subject(c)));
      if (!JSON.stringify(q).includes('"how"')) expect(again.map(meant)).toEqual(q.map(meant));
    }),
    { numRuns: 1000 },
  );
});

test('a rate of the edit that nobody said is the rate of no clip', () => {
  const clip = subject({ words: {}, numbers: { rate: 25 }, lists: {} });
  for (const op of ['is', 'over', 'under', 'from', 'to'])
    expect(compileQuery(parseQuery(`rate ${op} edit`)).test(clip)).toBe(false);
  expect(compileQuery(parseQuery('rate between edit and 30')).test(clip)).toBe(false);
});

test('any text is read or refused with a place inside it', () => {
  fc.assert(
    fc.property(
      fc.array(
        fc.constantFrom('any(', ')', ',', '"', 'rate', 'over', '50', 'no', 'proxy', 'a', ' ', '\\', '𝔸'),
        {
          maxLength: 30,
        },
      ),
      (pieces) => {
        const text = pieces.join('');
        try {
          compileQuery(parseQuery(text));
        } catch (e) {
          if (!(e instanceof SearchFault)) throw e;
          expect(e.at).toBeGreaterThanOrEqual(0);
          expect(e.to).toBeGreaterThan(e.at);
          expect(e.to).toBeLessThanOrEqual(text.length);
        }
      },
    ),
    { numRuns: 1000 },
  );
});

describe('what could be written next', () => {
  const values = (field: string) => (field === 'keyword' ? ['wheel', 'wide view', 'gate'] : []);
  const offered = (text: string) => completions(text, text.length, values).map((c) => c.text);
  test.each([
    ['ra', ['rate', 'rateLeast', 'rateMost']],
    ['wheel rate ', ['is', 'over', 'under', 'from', 'to', 'between']],
    ['keyword is w', ['wheel', '"wide view"']],
    ['pair is pr', ['proven']],
    ['rate over 5', []],
    ['any(wheel, no', ['note', 'none(']],
  ])('%s', (text, wanted) => {
    expect(offered(text)).toEqual(expect.arrayContaining(wanted));
    if (wanted.length === 0) expect(offered(text)).toEqual([]);
  });

  test('every field is offered by the word it is searched by', () => {
    for (const f of SEARCH_FIELDS) expect(searchField(f.word)).toBe(f);
  });
});
