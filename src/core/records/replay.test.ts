import { describe, expect, test } from '@jest/globals';
import { type RecordedTable, Replay } from './replay';

const TABLES: readonly RecordedTable[] = [
  { name: 'cards', key: ['id'], needs: [] },
  { name: 'files', key: ['card', 'number'], needs: [{ columns: ['card'], of: 'cards' }] },
];
const header = { records: 2, library: '3f2c8a52-9d0e-4c6b-8a49-0e8f6a2f9f10', root: null };
const mark = (upTo: number) => ({ upTo, at: '2026-05-05T10:00:00Z', grown: {}, base: 100 });
const replay = (...lines: unknown[]) => {
  const r = new Replay(TABLES);
  for (const l of [header, ...lines]) r.line(JSON.stringify(l));
  return r;
};

describe('records are put together line by line', () => {
  test('a row that changed counts as it was last; a key that is gone is gone, and may be given again', () => {
    const r = replay(
      {
        table: 'cards',
        rows: [
          { id: 'B001', day: 1 },
          { id: 'B002', day: 1 },
        ],
      },
      mark(5),
      { table: 'cards', rows: [{ id: 'B001', day: 2 }] },
      { table: 'cards', gone: [['B002'], ['B001']] },
      mark(9),
    );
    expect(r.tables().get('cards')).toEqual([{ id: 'B001', day: 2 }]);
    expect(r.mark?.upTo).toBe(9);
  });

  test('what follows the last mark does not count', () => {
    const r = replay(
      { table: 'cards', rows: [{ id: 'B001' }] },
      mark(5),
      { table: 'cards', gone: [['B001']] },
      { table: 'cards', rows: [{ id: 'B002' }] },
    );
    expect(r.tables().get('cards')).toEqual([{ id: 'B001' }]);
  });

  test('a row without its parent is left out; one whose parent nobody names stays', () => {
    const r = replay(
      {
        table: 'files',
        rows: [
          { card: 'B001', number: 1 },
          { card: 'B009', number: 1 },
          { card: null, number: 3 },
        ],
      },
      { table: 'cards', rows: [{ id: 'B001' }] },
      mark(5),
    );
    expect(r.tables().get('files')).toEqual([
      { card: 'B001', number: 1 },
      { card: null, number: 3 },
    ]);
  });

  test('tables that are not known are passed over; other lines, versions and beginnings are refused', () => {
    expect(
      replay({ table: 'moons', rows: [{ id: 1 }] }, mark(5))
        .tables()
        .has('moons'),
    ).toBe(false);
    expect(() => replay({ something: 'else' })).toThrow();
    expect(() => new Replay(TABLES).line(JSON.stringify({ ...header, records: 3 }))).toThrow();
    expect(() => new Replay(TABLES).line(JSON.stringify({ table: 'cards', rows: [] }))).toThrow();
    expect(() => replay().line('{"table":"cards","rows":[{"id":"B0')).toThrow();
  });

  test('records of when there was one job are read as those of that job', () => {
    const r = new Replay([
      { name: 'jobs', key: ['id'], needs: [] },
      { name: 'cameras', key: ['job', 'label'], needs: [{ columns: ['job'], of: 'jobs' }] },
      { name: 'cards', key: ['job', 'id'], needs: [{ columns: ['job', 'camera'], of: 'cameras' }] },
      { name: 'roots', key: ['id'], needs: [] },
    ]);
    for (const line of [
      { ...header, records: 1 },
      { table: 'jobs', rows: [{ id: 'job', code: 'SLW' }] },
      { table: 'cameras', rows: [{ letter: 'B', model: null }] },
      { table: 'cards', rows: ['B001', 'B002'].map((id) => ({ id, camera: 'B' })) },
      { table: 'roots', rows: [{ id: 'shelf' }] },
      mark(5),
      { table: 'cards', gone: [['B002']] },
      mark(9),
    ])
      r.line(JSON.stringify(line));
    expect(Object.fromEntries(r.tables())).toEqual({
      jobs: [{ id: 'job', code: 'SLW' }],
      cameras: [{ job: 'job', label: 'B', model: null }],
      cards: [{ job: 'job', id: 'B001', camera: 'B' }],
      roots: [{ id: 'shelf' }],
    });
  });
});
