import { afterAll, beforeAll, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { eq, sql } from 'drizzle-orm';
import { statementsOf } from '../cards/statements';
import path from 'node:path';
import fc from 'fast-check';
import { type FieldId, FIELDS, type Statement } from '../../core/facts/catalogue';
import { sortKey } from '../../core/facts/rows';
import type { FactFilter, FactPage, FactPageQuery, Grouping, Only, Sorting } from '../../core/facts/shapes';
import { cards, clips, files } from '../cards/tables';
import { clocks, facts, shown } from './tables';
import { jobs } from '../jobs/tables';
import { changeSettings } from './settings';
import { dropClock, setClock } from './clocks';
import { correctClips } from './correct';
import { factIds, factLines, factPage, factSums } from './table';
import { storeJobOfMany } from '../testing/manyClips';
import { type TestShelf, testShelf, TEST_JOB } from '../testing/media';
import { allUpToDate, keepReadings, upToDate, workOutSome } from './workOut';

let s: TestShelf;
/** Fields that clips are sorted by here. */
const SORTED = ['codec', 'rate', 'frames', 'start', 'scene', 'comment'] as const satisfies FieldId[];
const EVERY = FIELDS.map((f) => f.id);
const ALL: FactFilter = { words: '', only: [] };
const says = (field: FieldId, value: Statement['value']): Statement => ({
  field,
  source: 'sidecar',
  value,
});

beforeAll(async () => {
  s = await testShelf();
  await storeJobOfMany(s.runtime, path.join(s.dir, 'cards'), 40);
  const { runtime } = s;
  const rows = await runtime.db.select().from(clips).orderBy(clips.original);
  // Some say more, some less, much of it the same; some clips were never read.
  const text = (t: string): Statement['value'] => ({ type: 'text', text: t });
  const read = rows.slice(0, 34).map((c, i): [string, Statement[]] => [
    c.id,
    [
      ...(i % 3 === 0 ? [] : [says('codec', text(i % 2 ? 'H.264' : 'ProRes-like 422'))]),
      ...(i % 5 === 0 ? [] : [says('rate', { type: 'rate', rate: { num: [25, 50, 100][i % 3]!, den: 1 } })]),
      ...(i % 4 === 0 ? [] : [says('frames', { type: 'count', count: (i * 37) % 11 })]),
      ...(i % 7 === 0 ? [] : [says('scene', text(`${(i * 5) % 12}${i % 2 ? 'a' : 'B'}`))]),
      ...(i % 6 ? [] : [says('comment', text('100% of_the WHEEL (x) \\ Öl'))]),
      ...(i % 8 === 0
        ? []
        : [
            says('recordedAt', {
              type: 'moment',
              moment: { local: `2026-05-06T10:${String((i * 7) % 60).padStart(2, '0')}:00`, offset: 0 },
            }),
          ]),
    ],
  ]);
  await runtime.db.transaction((tx) => keepReadings(tx, TEST_JOB, new Map(read)));
});
afterAll(() => s.close());

type Clip = FactPage['clips'][number];
const page = (query: Partial<FactPageQuery>) =>
  factPage(s.runtime, { ...ALL, fields: EVERY, sorting: null, offset: 0, limit: 500, ...query });

/** The table as one would work it out by hand from all its clips, each with all that is known. */
function byHand(all: readonly Clip[], { words, only }: FactFilter, sorting: Sorting | null): Clip[] {
  const cell = (c: Clip, f: FieldId) => c.cells[EVERY.indexOf(f)] ?? null;
  const kept = all.filter(
    (c) =>
      words
        .toLowerCase()
        .split(/\s+/)
        .filter(Boolean)
        .every((w) =>
          [c.name, c.card, ...c.cells.map((x) => x?.[0] ?? '')].some((t) => t.toLowerCase().includes(w)),
        ) &&
      only.every((o) =>
        o.field === 'card' || o.field === 'camera' || o.field === 'day'
          ? String(c[o.field]) === o.value
          : (cell(c, o.field)?.[0] ?? null) === o.value,
      ),
  );
  if (!sorting) return kept;
  const way = sorting.down ? -1 : 1;
  const { by } = sorting;
  if (by === 'name') return kept.sort((a, b) => way * (sortKey(a.name) < sortKey(b.name) ? -1 : 1));
  const none = kept.filter((c) => cell(c, by) === null);
  const stated = kept.filter((c) => cell(c, by) !== null);
  const key = (c: Clip): number | string => cell(c, by)![1] ?? sortKey(cell(c, by)![0]);
  const number = new Map(numbers.map((n, i) => [n, i]));
  stated.sort((a, b) => {
    const [x, y] = [key(a), key(b)];
    return way * (x < y ? -1 : x > y ? 1 : number.get(a.id)! - number.get(b.id)!);
  });
  return [...stated, ...none];
}

/** Ids in the order they were taken in. */
let numbers: string[] = [];
let everything: Clip[] = [];

describe('pages, ids, counts and groups are those that one works out by hand', () => {
  beforeAll(async () => {
    numbers = (await s.runtime.db.select({ clip: shown.clip }).from(shown).orderBy(shown.number)).map(
      (r) => r.clip,
    );
    everything = (await page({})).clips;
  });
  const only: fc.Arbitrary<Only> = fc.constantFrom<Only>(
    { field: 'codec', value: 'H.264' },
    { field: 'codec', value: null },
    { field: 'rate', value: '50 fps' },
    { field: 'rate', value: null },
    { field: 'frames', value: 'nothing like it' },
    { field: 'camera', value: 'X' },
    { field: 'camera', value: 'Q' },
    { field: 'day', value: '1' },
    { field: 'card', value: 'X001' },
  );
  const filter = fc.record({
    words: fc
      .array(
        fc.constantFrom(
          'h.264',
          'fps',
          '25',
          'WHEEL',
          '(x)',
          '100%',
          '_',
          '%',
          '\\',
          'öl',
          'X001',
          'm0',
          '[',
          'B',
        ),
        { maxLength: 3 },
      )
      .map((w) => w.join(' ')),
    only: fc.array(only, { maxLength: 2 }),
  });
  const sorting = fc.option(
    fc.record({ by: fc.constantFrom('name' as const, ...SORTED), down: fc.boolean() }),
    { nil: null },
  );

  test('narrowed, sorted and paged in any way', async () => {
    await fc.assert(
      fc.asyncProperty(
        filter,
        sorting,
        fc.nat(45),
        fc.integer({ min: 1, max: 20 }),
        async (f, by, from, n) => {
          const hand = byHand([...everything], f, by).map((c) => c.id);
          const got = await page({ ...f, sorting: by, offset: from, limit: n });
          expect(got.clips.map((c) => c.id)).toEqual(hand.slice(from, from + n));
          expect(await factIds(s.runtime, { ...f, sorting: by, offset: 0, limit: 1000 })).toEqual(hand);
        },
      ),
      { numRuns: 120 },
    );
  }, 60_000);

  test('counted and put together in any way', async () => {
    await fc.assert(
      fc.asyncProperty(
        filter,
        fc.constantFrom<Grouping>('none', 'camera', 'day', 'card', 'codec', 'rate'),
        async (f, by) => {
          const hand = byHand([...everything], f, null);
          const lines = await factLines(s.runtime, { ...f, by });
          expect([lines.clips, lines.of]).toEqual([hand.length, everything.length]);
          if (by === 'none') return expect(lines.groups).toBeNull();
          for (const g of lines.groups!) {
            const alike = { ...f, only: [...f.only, { field: by, value: g.value } as Only] };
            expect(byHand([...everything], alike, null).length).toBe(g.clips);
          }
          expect(new Set(lines.groups!.map((g) => g.value)).size).toBe(lines.groups!.length);
        },
      ),
      { numRuns: 120 },
    );
  }, 60_000);

  test('groups stand in the order of their names, numbers by their size, what is not stated last', async () => {
    const rates = (await factLines(s.runtime, { ...ALL, by: 'rate' })).groups!.map((g) => g.value);
    expect(rates).toEqual(['25 fps', '29.97 fps', '50 fps', '100 fps', null]);
  });

  test('sums by day and camera, and the most frequent words', async () => {
    const sums = await factSums(s.runtime);
    expect(sums.days.map((d) => [d.day, d.camera])).toEqual([
      [1, 'B'],
      [1, 'X'],
    ]);
    expect(sums.days[1]!.bytes).toBe(37e6);
    const n = (words: string) =>
      everything.filter((c) => c.cells[EVERY.indexOf('codec')]?.[0] === words).length;
    expect(sums.codecs.map((c) => [c.words, c.clips])).toEqual(sums.codecs.map((c) => [c.words, n(c.words)]));
    expect(sums.codecs.length).toBeGreaterThanOrEqual(2);
  });
});

describe('whatever a clip’s facts follow from, lists show it at the next look', () => {
  let id: string;
  const cells = async (...fields: FieldId[]) =>
    (await page({ fields })).clips.find((c) => c.id === id)!.cells.map((c) => c?.[0] ?? null);
  const oldOnes = () => s.runtime.db.$count(shown, eq(shown.workedOut, 0));
  beforeEach(async () => {
    [{ id }] = (await s.runtime.db
      .select({ id: clips.id })
      .from(clips)
      .where(eq(clips.original, 'T0001'))) as [{ id: string }];
    await allUpToDate(s.runtime);
    expect(await oldOnes()).toBe(0);
  });

  test('its files: renamed, grown, more of them, fewer', async () => {
    const { db } = s.runtime;
    const [file] = await db.select().from(files).where(eq(files.clip, id));
    expect(await cells('files', 'fileName')).toEqual(['1', 'T0001.MP4']);
    await db.update(files).set({ path: 'SLW/Named.MP4', size: 5 }).where(eq(files.id, file!.id));
    expect(await cells('fileName', 'size', 'folder')).toEqual(['Named.MP4', '5 B', 'SLW']);
    expect((await page({ words: 'named' })).clips.map((c) => c.id)).toEqual([id]);
    await db.insert(files).values({ ...file!, id: 'more', role: 'sidecar', path: 'SLW/Named.XML' });
    expect(await cells('files')).toEqual(['2']);
    await db.delete(files).where(eq(files.id, 'more'));
    expect(await cells('files')).toEqual(['1']);
    await db.update(files).set(file!).where(eq(files.id, file!.id));
  });

  test('what a person says of it, and takes back', async () => {
    await correctClips(s.runtime, { clips: [id], set: [{ field: 'scene', value: '99z' }] });
    expect(await cells('scene')).toEqual(['99z']);
    await correctClips(s.runtime, { clips: [id], set: [{ field: 'scene', value: '' }] });
    expect(await cells('scene')).not.toEqual(['99z']);
  });

  test('its card, and the camera’s clock', async () => {
    const { db } = s.runtime;
    const clip = (await page({})).clips.find((c) => c.id === id)!;
    const before = await cells('recordedAt');
    const clock = { camera: 'B', fromDay: 1, toDay: 1, seconds: 86_400, note: '' };
    const set = await setClock(s.runtime, clock);
    const after = await cells('recordedAt');
    expect(after).not.toEqual(before);
    // A clip that comes to a card of another camera has that camera's clock.
    await correctClips(s.runtime, {
      clips: [id],
      set: [],
      card: { id: 'C001', camera: 'C', day: 1, date: null },
    });
    expect(await cells('recordedAt')).toEqual(before);
    expect((await page({ words: 'c001' })).clips.map((c) => c.id)).toEqual([id]);
    expect((await factLines(s.runtime, { ...ALL, by: 'card' })).groups).toContainEqual({
      value: 'C001',
      clips: 1,
    });
    await correctClips(s.runtime, {
      clips: [id],
      set: [],
      card: { id: clip.card, camera: 'B', day: 1, date: null },
    });
    expect(await cells('recordedAt')).toEqual(after);
    await dropClock(s.runtime, set.id);
    expect(await cells('recordedAt')).toEqual(before);
    expect(await db.$count(clocks)).toBe(0);
  });

  test('an order of trust, the rate of the edit, the zone of the job', async () => {
    const { db } = s.runtime;
    for (const change of [{ trust: { recordedAt: ['fileTime' as const] } }, { rate: { num: 50, den: 1 } }]) {
      await db.update(jobs).set(change);
      expect(await db.$count(shown, eq(shown.stale, true))).toBe(40);
      await allUpToDate(s.runtime);
    }
    // What changes nothing that facts follow from has nothing worked out again.
    await db.update(jobs).set({ name: 'Slack', dayStart: 5 });
    expect(await db.$count(shown, eq(shown.stale, true))).toBe(0);
    await changeSettings(s.runtime, { trust: {}, rate: { num: 25, den: 1 } });
    const time = await cells('fileTime');
    await db.update(jobs).set({ zoneMinutes: 60 });
    expect(await cells('fileTime')).not.toEqual(time);
    await db.update(jobs).set({ zoneMinutes: 0 });
    expect(await cells('fileTime')).toEqual(time);
  });

  test('how many clips a card has is counted with every change of them', async () => {
    const { db } = s.runtime;
    const counted = async () => {
      const rows = await db.select({ id: cards.id, clips: cards.clips }).from(cards);
      for (const c of rows)
        expect([c.id, c.clips]).toEqual([c.id, await db.$count(clips, eq(clips.card, c.id))]);
      return rows.reduce((n, c) => n + c.clips, 0);
    };
    expect(await counted()).toBe(40);
    const [clip] = await db.select().from(clips).where(eq(clips.original, 'M000030'));
    await db.delete(clips).where(eq(clips.id, clip!.id));
    expect(await counted()).toBe(39);
    // What was known of it is gone with it.
    const kept = new Set((await db.select({ n: shown.number }).from(shown)).map((r) => r.n));
    const loose = (await db.selectDistinct({ n: facts.clip }).from(facts)).filter((r) => !kept.has(r.n));
    expect(loose).toEqual([]);
    await db.insert(clips).values(clip!);
    expect(await counted()).toBe(40);
    // A card that gets another name takes its clips with it.
    await db.update(cards).set({ id: 'Y001' }).where(eq(cards.id, 'X001'));
    expect(await counted()).toBe(40);
    expect((await page({ words: 'y001' })).clips.length).toBe(37);
    await db.update(cards).set({ id: 'X001' }).where(eq(cards.id, 'Y001'));
  });

  test('what changes while it is being worked out is worked out again', async () => {
    const { db } = s.runtime;
    await db.update(shown).set({ revision: 7, workedOut: 6 }).where(eq(shown.clip, id));
    const both = Promise.all([workOutSome(s.runtime), upToDate(s.runtime)]);
    await db.update(files).set({ size: 77 }).where(eq(files.clip, id));
    await both;
    expect(await cells('size')).toEqual(['77 B']);
  });

  test('worked out or read again without being other, nothing of it is written', async () => {
    const { db } = s.runtime;
    const written = async () =>
      (await db.execute(sql`select clip, field, source, xmin::text as by from facts order by 1, 2, 3`)).rows;
    const before = await written();
    await db.update(shown).set({ workedOut: 0 });
    await allUpToDate(s.runtime);
    expect(await written()).toEqual(before);
    const stated = await statementsOf(db, numbers);
    const read = new Map([...stated].map(([clip, all]) => [clip, all.filter((x) => x.source !== 'person')]));
    await db.transaction((tx) => keepReadings(tx, TEST_JOB, read));
    expect(await written()).toEqual(before);
  });

  test('a clip that cannot be worked out takes nothing from the others, and is tried again once it changes', async () => {
    const { db, database } = s.runtime;
    const [bad] = await db.select().from(shown).where(eq(shown.clip, id));
    await database.query(`
      create function refuse_fact() returns trigger language plpgsql as $$ begin raise exception 'no such fact'; end $$;
      create trigger refuse_fact before insert or update on facts for each row when (new.clip = ${bad!.number}) execute function refuse_fact();`);
    const said = jest.spyOn(console, 'error').mockImplementation(() => undefined);
    await db.update(files).set({ size: 4321 });
    expect((await page({ words: '4321 b' })).clips.length).toBe((await db.$count(files)) - 1);
    expect(said.mock.calls.flat().join(' ')).toContain(id);
    said.mockRestore();
    expect(await db.$count(shown, eq(shown.stale, true))).toBe(0);
    await database.query('drop trigger refuse_fact on facts; drop function refuse_fact;');
    await db.update(files).set({ size: 4322 }).where(eq(files.clip, id));
    expect(await cells('size')).toEqual(['4322 B']);
  });
});
