import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { FIELDS, Source, type Statement } from './catalogue';
import { factsOf } from './facts';
import { factRow, factRows, sortKey, statementOf, textOf } from './rows';
import type { Value } from './values';

const words = fc.string({ unit: 'grapheme', maxLength: 40 }).map((s) => s.replaceAll('\u0000', ''));
const rate = fc.constantFrom({ num: 25, den: 1 }, { num: 30000, den: 1001 }, { num: 100, den: 1 });
const whole = fc.integer({ min: -1e9, max: 1e9 });
const real = fc.double({ noNaN: true, noDefaultInfinity: true }).map((n) => n + 0);
const VALUES: Record<Value['type'], fc.Arbitrary<Value>> = {
  text: fc.record({ type: fc.constant('text' as const), text: words }),
  count: fc.record({ type: fc.constant('count' as const), count: whole }),
  number: fc.record({ type: fc.constant('number' as const), number: real }),
  fraction: fc.record({
    type: fc.constant('fraction' as const),
    num: whole,
    den: fc.integer({ min: 1, max: 1e6 }),
  }),
  flag: fc.record({ type: fc.constant('flag' as const), flag: fc.boolean() }),
  triple: fc.record({ type: fc.constant('triple' as const), triple: fc.tuple(real, real, real) }),
  rate: fc.record({ type: fc.constant('rate' as const), rate }),
  timecode: fc.record({
    type: fc.constant('timecode' as const),
    timecode: fc.record({ frame: fc.integer({ min: 0, max: 2e6 }), rate, drop: fc.constant(false) }),
  }),
  moment: fc.record({
    type: fc.constant('moment' as const),
    moment: fc.constant({ local: '2026-05-06T14:22:05', offset: 60 }),
  }),
};
const statement: fc.Arbitrary<Statement> = fc.constantFrom(...FIELDS).chain((f) =>
  fc.record({
    field: fc.constant(f.id),
    source: fc.constantFrom(...Source.options),
    value: VALUES[f.type],
  }),
);

describe('a fact as a row', () => {
  test('states what it was made of, exactly, whatever its type', () => {
    fc.assert(
      fc.property(statement, (s) => {
        // As it comes back from the database.
        const row = JSON.parse(JSON.stringify(factRow(s, true))) as ReturnType<typeof factRow>;
        expect(JSON.stringify(statementOf(row))).toBe(JSON.stringify(s));
      }),
      { numRuns: 600 },
    );
  });

  test('a value that is not of its field’s type is kept as it is', () => {
    const odd: Statement = { field: 'frames', source: 'person', value: { type: 'text', text: 'many' } };
    expect(statementOf(factRow(odd, false))).toEqual(odd);
  });

  test('all of a clip’s facts: one row for each field and source, one of each field chosen', () => {
    const says = (field: Statement['field'], text: string, source: Source): Statement => ({
      field,
      source,
      value: { type: 'text', text },
    });
    const rows = factRows(
      factsOf([
        says('reel', 'B001', 'name'),
        says('reel', 'B002', 'sidecar'),
        says('reel', 'B003', 'sidecar'),
        says('reel', 'B009', 'person'),
      ]),
    );
    expect(rows.map((r) => [r.words, r.source, r.chosen])).toEqual([
      ['B009', 'person', true],
      ['B002', 'sidecar', false],
      ['B001', 'name', false],
    ]);
  });

  test('what a clock that was put right moves stays beside it as it was said', () => {
    const clip: Statement[] = [
      {
        field: 'recordedAt',
        source: 'container',
        value: { type: 'moment', moment: { local: '2026-05-06T09:44:38', offset: 0 } },
      },
      {
        field: 'start',
        source: 'clock',
        value: { type: 'timecode', timecode: { frame: 876950, rate: { num: 25, den: 1 }, drop: false } },
      },
    ];
    const rows = factRows(factsOf(clip, { clockSeconds: 3600 }));
    expect(rows.filter((r) => r.chosen).map((r) => [r.field, r.source, r.words])).toEqual([
      ['recordedAt', 'correction', '2026-05-06 10:44:38'],
      ['start', 'correction', '10:44:38:00'],
    ]);
    expect(rows.filter((r) => r.source !== 'correction').map(statementOf)).toEqual(clip);
  });
});

test('words are sorted without regard to case and accents, numbers in them by their size', () => {
  const sorted = (...list: string[]) => [...list].sort((a, b) => (sortKey(a) < sortKey(b) ? -1 : 1));
  expect(sorted('T10', 't9', 'T0002', 'Éa', 'eb', 'T1')).toEqual(
    ['eb', 'T1', 'T0002', 't9', 'T10'].toSpliced(0, 0, 'Éa'),
  );
  expect(sortKey('x'.repeat(5000)).length).toBeLessThanOrEqual(120);
  // Half a character is none: the database takes no such text.
  expect(sortKey(`${'x'.repeat(59)}😀`).isWellFormed()).toBe(true);
  expect(sortKey('1'.repeat(60)).length).toBeLessThanOrEqual(120);
});

test('the text of a clip has every word of what counts, each once', () => {
  const rows = factRows(
    factsOf([
      { field: 'codec', source: 'container', value: { type: 'text', text: 'H.264 (x)' } },
      { field: 'comment', source: 'tags', value: { type: 'text', text: 'WHEEL turning' } },
      { field: 'title', source: 'tags', value: { type: 'text', text: 'WHEEL turning' } },
      { field: 'reel', source: 'name', value: { type: 'text', text: 'B001' } },
      { field: 'reel', source: 'person', value: { type: 'text', text: 'B009' } },
    ]),
  );
  expect(textOf(rows, ['T0001', 'B001']).split('\u0001').sort()).toEqual([
    'b001',
    'b009',
    'h.264 (x)',
    't0001',
    'wheel turning',
  ]);
});
