import { and, asc, desc, eq, inArray, not, type SQL, sql } from 'drizzle-orm';
import type { FieldId } from '../../core/facts/catalogue';
import {
  type FactFilter,
  type FactIdsQuery,
  type FactLines,
  type FactLinesQuery,
  type FactPage,
  type FactPageQuery,
  type FactSums,
  type Only,
} from '../../core/facts/shapes';
import type { Shown } from '../../core/facts/table';
import { type Job, requireJob } from '../jobs';
import { cardOfClip } from '../cards';
import { cards, clips } from '../cards/tables';
import { facts, shown } from './tables';
import type { InJob } from './ports';
import { upToDate } from './workOut';

// The table of facts: of very many clips a page is asked for, and what is asked for costs what it shows.

const bytewise = (column: SQL | typeof shown.sort | typeof facts.sort) => sql`${column} collate "C"`;
const natural = new Intl.Collator('en', { numeric: true });

/** Whether a clip states a field: anything, or these words. */
const states = (job: Job, field: FieldId, words?: string): SQL =>
  sql`exists (select 1 from ${facts} x where x.clip = ${shown.number} and x.job = ${job.number} and x.field = ${field} and x.chosen${words === undefined ? sql`` : sql` and x.words = ${words}`})`;

/** Whether a card is at a place; null where it is not asked for one. */
const atPlace = ({ field, value }: Only): SQL | null =>
  field === 'card'
    ? eq(cards.id, value ?? '')
    : field === 'camera'
      ? eq(cards.camera, value ?? '')
      : field === 'day'
        ? eq(cards.day, Number(value))
        : null;

function only({ db }: InJob, job: Job, one: Only): SQL {
  const { field, value } = one;
  if (field === 'card') return eq(shown.card, value ?? '');
  if (field === 'camera' || field === 'day')
    return inArray(
      shown.card,
      db
        .select({ id: cards.id })
        .from(cards)
        .where(and(eq(cards.job, job.id), atPlace(one)!)),
    );
  return value === null ? not(states(job, field)) : states(job, field, value);
}

const hasWord = (word: string): SQL => sql`strpos(${shown.text}, ${word.toLowerCase()}) > 0`;

const wanted = (runtime: InJob, job: Job, { words, only: which }: FactFilter): SQL =>
  and(
    eq(shown.job, job.id),
    ...which.map((o) => only(runtime, job, o)),
    ...words.split(/\s+/).filter(Boolean).map(hasWord),
  )!;

const KEYS = { number: shown.number, id: shown.clip };
type Key = { number: number; id: string };
/** More than any job has: the database, which looks for the first few in their order, looks for so many at once. */
const ALL = 100_000_000;
const SHOOTING = [asc(shown.recorded), asc(bytewise(shown.sort)), asc(shown.number)];

/**
 * Clips from `offset` on, as many as are asked for: in shooting order, or sorted. Sorted by a field, those that state it come
 * first, each way; of the same value in the order they were taken in. The others follow in shooting order.
 */
async function inOrder(runtime: InJob, job: Job, query: FactIdsQuery): Promise<Key[]> {
  const { db } = runtime;
  const { sorting, offset, limit } = query;
  const which = wanted(runtime, job, query);
  const way = sorting?.down ? desc : asc;
  if (sorting === null || sorting.by === 'name')
    return db
      .select(KEYS)
      .from(shown)
      .where(which)
      .orderBy(...(sorting === null ? SHOOTING : [way(bytewise(shown.sort)), way(shown.number)]))
      .limit(limit)
      .offset(offset);
  const first = await db
    .select(KEYS)
    .from(facts)
    .innerJoin(shown, eq(shown.number, facts.clip))
    .where(and(isChosen(job, sorting.by), which))
    .orderBy(way(facts.number), way(bytewise(facts.sort)), way(facts.clip))
    .limit(limit)
    .offset(offset);
  if (first.length === limit) return first;
  const stated =
    first.length > 0 || offset === 0
      ? offset + first.length
      : await db.$count(shown, and(which, states(job, sorting.by)));
  const rest = await db
    .select(KEYS)
    .from(shown)
    .where(and(which, not(states(job, sorting.by))))
    .orderBy(...SHOOTING)
    .limit(limit - first.length)
    .offset(Math.max(0, offset - stated));
  return [...first, ...rest];
}

/** Clips of which a list is had at once, rather than page by page. */
const FEW = 2000;
/** Whether every clip has to be looked at to know which are of the table: places alone are known of the cards. */
const isSearch = ({ words, only: which }: FactFilter): boolean =>
  words.trim() !== '' || !which.every(atPlace);

/**
 * The same, for what is searched for: of few clips that are found a page costs as much as all of them, so they are kept until
 * something changes; of many, those of the page are soon found.
 */
async function found(runtime: InJob, job: Job, query: FactIdsQuery): Promise<Key[]> {
  const { words, only: which, sorting, offset, limit } = query;
  if (!isSearch(query)) return inOrder(runtime, job, query);
  const n = (await perCard(runtime, job, { words, only: which })).reduce((sum, c) => sum + c.clips, 0);
  if (n > FEW) return inOrder(runtime, job, query);
  const whole = { words, only: which, sorting, offset: 0, limit: ALL };
  const list = await runtime.viewCache.get(`found in ${runtime.job} ${JSON.stringify(whole)}`, () =>
    inOrder(runtime, job, whole),
  );
  return list.slice(offset, offset + limit);
}

const isChosen = (job: Job, field: FieldId) =>
  and(eq(facts.job, job.number), eq(facts.field, field), facts.chosen);

/** What the table shows of clips beside their facts. */
async function headsOf({ db }: InJob, keys: readonly Key[]) {
  const rows = await db
    .select({
      ...KEYS,
      card: shown.card,
      camera: cards.camera,
      day: cards.day,
      name: shown.name,
      kind: clips.kind,
      state: clips.state,
    })
    .from(shown)
    .innerJoin(clips, eq(clips.id, shown.clip))
    .innerJoin(cards, cardOfClip)
    .where(
      inArray(
        shown.number,
        keys.map((k) => k.number),
      ),
    );
  const found = new Map(rows.map((r) => [r.number, r]));
  return keys.flatMap((k) => found.get(k.number) ?? []);
}

/** Some clips of the table with their cells, in the order of `fields`. */
export async function factPage(runtime: InJob, query: FactPageQuery): Promise<FactPage> {
  await upToDate(runtime);
  const list = await headsOf(runtime, await found(runtime, await requireJob(runtime), query));
  const cells = new Map<string, Shown>();
  if (list.length > 0 && query.fields.length > 0)
    for (const f of await runtime.db
      .select({
        clip: facts.clip,
        field: facts.field,
        words: facts.words,
        number: facts.number,
        source: facts.source,
      })
      .from(facts)
      .where(
        and(
          inArray(
            facts.clip,
            list.map((r) => r.number),
          ),
          inArray(facts.field, query.fields),
          facts.chosen,
        ),
      ))
      cells.set(`${f.clip} ${f.field}`, [f.words, f.number, f.source]);
  return {
    clips: list.map(({ number, ...clip }) => ({
      ...clip,
      cells: query.fields.map((f) => cells.get(`${number} ${f}`) ?? null),
    })),
  };
}

/** Ids of clips of the table, in its order. */
export async function factIds(runtime: InJob, query: FactIdsQuery): Promise<string[]> {
  await upToDate(runtime);
  return (await found(runtime, await requireJob(runtime), query)).map((r) => r.id);
}

/** How many clips the table has, how many the job, and the groups that they are put together in, by their names. */
export async function factLines(runtime: InJob, query: FactLinesQuery): Promise<FactLines> {
  await upToDate(runtime);
  return runtime.viewCache.get(`lines of ${runtime.job} ${JSON.stringify(query)}`, async () => {
    const job = await requireJob(runtime);
    const of = (await placed(runtime, [])).reduce((n, c) => n + c.clips, 0);
    const groups = await groupsOf(runtime, job, query);
    return {
      clips: groups.reduce((n, g) => n + g.clips, 0),
      of,
      groups:
        query.by === 'none'
          ? null
          : groups.sort(
              (a, b) =>
                Number(a.value === null) - Number(b.value === null) ||
                natural.compare(a.value ?? '', b.value ?? ''),
            ),
    };
  });
}

/** Cards with how many clips they have: that is counted with every change. */
const placed = ({ db, job }: InJob, which: readonly Only[]) =>
  db
    .select({ card: cards.id, camera: cards.camera, day: cards.day, clips: cards.clips })
    .from(cards)
    .where(and(eq(cards.job, job), ...which.flatMap((o) => atPlace(o) ?? [])));

type Groups = NonNullable<FactLines['groups']>;

async function groupsOf(runtime: InJob, job: Job, query: FactLinesQuery): Promise<Groups> {
  const { by } = query;
  if (by !== 'codec' && by !== 'rate')
    return tallied(
      (await perCard(runtime, job, query)).map((c) => [by === 'none' ? '' : String(c[by]), c.clips]),
    );
  const narrowed = query.words.trim() !== '' || query.only.length > 0;
  const asked = runtime.db
    .select({ value: facts.words, clips: sql<number>`count(*)::int` })
    .from(facts)
    .$dynamic();
  const stated = await (narrowed ? asked.innerJoin(shown, eq(shown.number, facts.clip)) : asked)
    .where(and(isChosen(job, by), narrowed ? wanted(runtime, job, query) : undefined))
    .groupBy(facts.words);
  const all = (await perCard(runtime, job, query)).reduce((n, c) => n + c.clips, 0);
  const none = all - stated.reduce((n, g) => n + g.clips, 0);
  return none > 0 ? [...stated, { value: null, clips: none }] : stated;
}

/** How many clips of the table each card has. Where only places are asked for, that is counted already. */
async function perCard(runtime: InJob, job: Job, { words, only: which }: FactFilter) {
  // Places alone are known of the cards, which count their clips.
  if (!isSearch({ words, only: which })) return placed(runtime, which);
  const filter = { words, only: which };
  const counted = await runtime.viewCache.get(`counts of ${runtime.job} ${JSON.stringify(filter)}`, () =>
    runtime.db
      .select({ card: shown.card, clips: sql<number>`count(*)::int` })
      .from(shown)
      .where(wanted(runtime, job, filter))
      .groupBy(shown.card)
      .execute(),
  );
  const tally = new Map(counted.map((c) => [c.card, c.clips]));
  return (await placed(runtime, [])).map((c) => ({ ...c, clips: tally.get(c.card) ?? 0 }));
}

function tallied(list: readonly (readonly [string, number])[]): Groups {
  const tally = new Map<string, number>();
  for (const [value, n] of list) tally.set(value, (tally.get(value) ?? 0) + n);
  return [...tally].flatMap(([value, n]) => (n > 0 ? [{ value, clips: n }] : []));
}

/** Running time and size by day and camera, and how many clips have each frame rate and codec. */
export async function factSums(runtime: InJob): Promise<FactSums> {
  await upToDate(runtime);
  return runtime.viewCache.get(`sums of ${runtime.job}`, async () => {
    const { db } = runtime;
    const job = await requireJob(runtime);
    const sum = (field: FieldId) =>
      sql<number>`coalesce(sum(${facts.number}) filter (where ${facts.field} = ${field}), 0)::float8`;
    const days = await db
      .select({ day: cards.day, camera: cards.camera, seconds: sum('length'), bytes: sum('size') })
      .from(facts)
      .innerJoin(shown, eq(shown.number, facts.clip))
      .innerJoin(cards, and(eq(cards.job, shown.job), eq(cards.id, shown.card)))
      .where(and(eq(facts.job, job.number), inArray(facts.field, ['length', 'size']), facts.chosen))
      .groupBy(cards.day, cards.camera)
      .orderBy(cards.day, cards.camera);
    const tally = (field: FieldId) =>
      db
        .select({ words: facts.words, clips: sql<number>`count(*)::int` })
        .from(facts)
        .where(isChosen(job, field))
        .groupBy(facts.words)
        .orderBy(desc(sql`count(*)`), facts.words)
        .limit(12);
    return { days, rates: await tally('rate'), codecs: await tally('codec') };
  });
}
