import { describe, expect, test } from '@jest/globals';
import type { Counter } from './blocks/counter';
import { newBlock } from './blocks';
import { byRecording, type NamingClip } from './clip';
import { count, type CountContext, type GivenNumber } from './counters';
import { sampleClip } from './sample';

const COUNTER = newBlock('counter').own as Counter;
const CONTEXT: CountContext = {
  given: [],
  folderOf: () => '',
  notTaken: () => false,
  exists: () => true,
};
const counted = (
  counter: Partial<Counter>,
  clips: readonly NamingClip[],
  context: Partial<CountContext> = {},
) => {
  const { texts, gaps } = count({ ...COUNTER, ...counter }, clips, { ...CONTEXT, ...context });
  return { of: (...ids: string[]) => ids.map((id) => texts[clips.findIndex((c) => c.id === id)]), gaps };
};
const at = (original: string, hour: number, given: Partial<NamingClip> = {}): NamingClip =>
  sampleClip(original, { recordedAt: `2026-05-05T${String(hour).padStart(2, '0')}:00:00`, ...given });
const given = (clipId: string, number: number, letter = '', series = 'day 1, camera B'): GivenNumber => ({
  clipId,
  series,
  number,
  letter,
});

describe('what it starts again for', () => {
  // Worked out by hand: A1 at 9, T0002 at 10, T0001 at 11, all on day 1; T0001b at 9 on day 2.
  const clips = [
    at('T0002', 10),
    at('T0001', 11),
    at('T0001b', 9, { day: 2, card: 'B002', recordedAt: '2026-05-06T09:00:00' }),
    at('A1', 9, { camera: 'A', card: 'A001' }),
  ];
  const ids = clips.map((c) => c.id);
  test.each<[Partial<Counter>, string[]]>([
    [{ per: ['day', 'camera'] }, ['001', '002', '001', '001']],
    [{ per: ['day', 'camera'], orderBy: 'cameraName' }, ['002', '001', '001', '001']],
    [{ per: [] }, ['002', '003', '004', '001']],
    [{ per: ['camera'] }, ['001', '002', '003', '001']],
    [{ per: ['day'] }, ['002', '003', '001', '001']],
    [{ per: ['card'] }, ['001', '002', '001', '001']],
    [{ per: [], start: 10, step: 10, digits: 2 }, ['20', '30', '40', '10']],
  ])('%j', (counter, numbers) => expect(counted(counter, clips).of(...ids)).toEqual(numbers));

  test('rates and folders', () => {
    const two = [at('a', 1), at('b', 2, { rate: { num: 50, den: 1 } }), at('c', 3)];
    expect(counted({ per: ['rate'] }, two).of('a', 'b', 'c')).toEqual(['001', '001', '002']);
    expect(
      counted({ per: ['folder'] }, two, { folderOf: ({ id }) => (id === 'c' ? 'x' : 'y') }).of('a', 'b', 'c'),
    ).toEqual(['001', '002', '001']);
  });
});

test('clips of one second go by timecode, then by the number in their name', () => {
  const order = [at('T10', 10), at('T9', 10), at('T11', 10, { startSeconds: -1 })].sort(byRecording);
  expect(order.map((c) => c.id)).toEqual(['T11', 'T9', 'T10']);
});

test('by timecode: seconds are compared, whatever the rates; clips without one come last', () => {
  const clips = [
    at('a', 1, { startSeconds: 30 }),
    at('b', 2, { startSeconds: 20 }),
    at('c', 0, { startSeconds: null }),
  ];
  expect(counted({ orderBy: 'timecode' }, clips).of('a', 'b', 'c')).toEqual(['002', '001', '003']);
});

test('numbers outgrow their digits rather than repeat', () => {
  expect(counted({ digits: 1, start: 9 }, [at('T1', 1), at('T2', 2)]).of('T1', 'T2')).toEqual(['9', '10']);
});

describe('clips that come late', () => {
  // a and c have 1 and 2 from a plan; b was recorded between them and comes later, d after them.
  const clips = [at('a', 1), at('b', 2), at('c', 3), at('d', 4)];
  const context = { given: [given('a', 1), given('c', 2)] };
  test.each<[Counter['late'], string[]]>([
    ['after', ['001', '003', '002', '004']],
    ['letters', ['001', '001a', '002', '003']],
    ['renumber', ['001', '002', '003', '004']],
  ])('%s', (late, numbers) =>
    expect(counted({ late }, clips, context).of('a', 'b', 'c', 'd')).toEqual(numbers),
  );

  test('take the number that is free at their place, as of a clip that was left out before', () => {
    const holes = [given('a', 1), given('d', 4)];
    for (const late of ['after', 'letters'] as const)
      expect(counted({ late }, clips, { given: holes }).of('a', 'b', 'c', 'd')).toEqual([
        '001',
        '002',
        '003',
        '004',
      ]);
    // One that was removed had the second: it stays free, and the second of two has none left.
    expect(
      counted({}, clips, { given: [...holes, given('gone', 2)], exists: (id) => id !== 'gone' }).of(
        'a',
        'b',
        'c',
        'd',
      ),
    ).toEqual(['001', '003', '005', '004']);
    // A clip that was missing on its card comes: its number was kept for it.
    const card = [at('T0001', 1), at('T0003', 2), at('T0006', 3)];
    const kept = [given('T0001', 1), given('T0006', 6)];
    expect(counted({ gaps: 'kept' }, card, { given: kept }).of('T0003')).toEqual(['003']);
  });

  test('letters go on where letters were given, past z', () => {
    const late = [
      at('a', 1),
      ...Array.from({ length: 28 }, (_, i) => at(`b${String(i).padStart(2, '0')}`, 2)),
      at('c', 3),
    ];
    const r = counted({ late: 'letters' }, late, { given: [...context.given, given('b00', 1, 'a')] });
    expect(r.of('b00', 'b01', 'b25', 'b26', 'b27')).toEqual(['001a', '001b', '001z', '001aa', '001ab']);
  });

  test('before the first, letters follow the number before the start', () => {
    expect(
      counted({ late: 'letters' }, [at('z', 0), at('a', 1)], { given: [given('a', 1)] }).of('z', 'a'),
    ).toEqual(['000a', '001']);
    expect(
      counted({ late: 'letters', start: 0 }, [at('z', 0), at('a', 1)], { given: [given('a', 0)] }).of(
        'z',
        'a',
      ),
    ).toEqual(['001', '000']);
  });

  test('a clip that became one of another day has no number there yet', () => {
    expect(counted({}, [at('a', 1, { day: 2 })], { given: [given('a', 7)] }).of('a')).toEqual(['001']);
  });

  test('the number of a clip that was removed is not given again', () => {
    const r = counted({}, [at('a', 1), at('d', 4)], {
      given: [given('a', 1), given('gone', 2)],
      exists: (id) => id !== 'gone',
    });
    expect(r.of('a', 'd')).toEqual(['001', '003']);
    expect(r.gaps).toEqual([{ series: 'day 1, camera B', number: 2, reason: 'removed' }]);
  });
});

describe('numbers of clips that are missing', () => {
  const clips = [at('T0001', 1), at('T0003', 2), at('T0006', 3)];
  test('are used, or stay free with the reason', () => {
    expect(counted({ gaps: 'closed' }, clips)).toMatchObject({ gaps: [] });
    const kept = counted({ gaps: 'kept' }, clips, {
      notTaken: (card, name) => card === 'B001' && name === 'T0004',
    });
    expect(kept.of('T0001', 'T0003', 'T0006')).toEqual(['001', '003', '006']);
    expect(kept.gaps.map((g) => [g.number, g.reason])).toEqual([
      [2, 'missing'],
      [4, 'notTaken'],
      [5, 'missing'],
    ]);
  });
  test('stay known once the numbers were given', () => {
    const kept = counted({ gaps: 'kept' }, clips, {
      given: [given('T0001', 1), given('T0003', 3), given('T0006', 6)],
    });
    expect(kept.gaps.map((g) => [g.number, g.reason])).toEqual([
      [2, 'missing'],
      [4, 'missing'],
      [5, 'missing'],
    ]);
  });
  test('another card, another pattern, or a long step is no gap', () => {
    const other = [
      at('T0001', 1),
      at('T0009', 2, { card: 'B002' }),
      at('S0012', 3, { card: 'B002' }),
      at('S0900', 4, { card: 'B002' }),
    ];
    expect(counted({ gaps: 'kept' }, other).of('T0001', 'T0009', 'S0012', 'S0900')).toEqual([
      '001',
      '002',
      '003',
      '004',
    ]);
  });
  test('a number whose clip was left out when it was given', () => {
    expect(counted({}, [at('a', 1), at('b', 2)], { given: [given('a', 1), given('b', 3)] }).gaps).toEqual([
      { series: 'day 1, camera B', number: 2, reason: 'leftOut' },
    ]);
  });
});
