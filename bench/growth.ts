import { sql } from 'drizzle-orm';
import { mkdtempSync, realpathSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { DEFAULT_FIELDS } from '../src/core/facts/fieldSets';
import { factLines, factPage } from '../src/server/facts/table';
import { cardDetail } from '../src/server/overview/wall';
import { type InJob, openRuntime } from '../src/server/runtime';
import { storeJobOfMany } from '../src/server/testing/manyClips';
import { TEST_JOB } from '../src/server/testing/media';

// What a page costs in a job of 500 clips and in one of 50 000: its time, and the rows that the database reads for it. Not against an
// outside program: against itself.

const [FEW, MANY] = [500, Number(process.env.BENCH_MANY ?? 50_000)];
const RUNS = 15;
const dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-growth-')));

/** A job of so many clips, 500 to a card. */
async function jobOf(clips: number): Promise<InJob> {
  const runtime = (await openRuntime({ home: path.join(dir, `home ${clips}`), work: false })).inJob(TEST_JOB);
  await storeJobOfMany(runtime, path.join(dir, `source ${clips}`), clips);
  // As with each snapshot.
  await runtime.database.query('vacuum analyze');
  return runtime;
}

/** Milliseconds of the middle run, and the rows the database read for one. */
async function costOf(
  runtime: InJob,
  page: (r: InJob) => Promise<unknown>,
): Promise<{ ms: number; rows: number }> {
  const times: number[] = [];
  for (let n = 0; n < RUNS; n++) {
    const begun = performance.now();
    await page(runtime);
    times.push(performance.now() - begun);
  }
  const rows = await runtime.db.transaction(async (tx) => {
    // A transaction counts what it reads.
    const read = async (): Promise<number> => {
      const { rows: sum } = await tx.execute<{ n: number }>(
        sql`select sum(seq_tup_read + coalesce(idx_tup_fetch, 0))::float8 as n from pg_stat_xact_user_tables`,
      );
      return Number(sum[0]!.n);
    };
    const before = await read();
    await page(Object.assign(Object.create(runtime) as InJob, { db: tx }));
    return (await read()) - before;
  });
  return { ms: times.sort((a, b) => a - b)[Math.floor(RUNS / 2)]!, rows };
}

const ALL = { words: '', only: [] };
const FIRST = { ...ALL, fields: [...DEFAULT_FIELDS] };
const PAGES: Record<string, (r: InJob) => Promise<unknown>> = {
  card: (r) => cardDetail(r, 'X001'),
  // What the table asks for when it is opened: how long it is, and its first clips.
  table: async (r) => {
    r.events.changed('clips');
    await factLines(r, { ...ALL, by: 'none' });
    await factPage(r, { ...FIRST, sorting: null, offset: 0, limit: 100 });
  },
  // The same, sorted by a field.
  sorted: (r) => factPage(r, { ...FIRST, sorting: { by: 'frames', down: true }, offset: 0, limit: 100 }),
};
const costs: Record<string, { ms: number; rows: number }>[] = [];
for (const clips of [FEW, MANY]) {
  const runtime = await jobOf(clips);
  const cost: (typeof costs)[number] = {};
  for (const [name, page] of Object.entries(PAGES)) {
    cost[name] = await costOf(runtime, page);
    console.log(`${name}, ${clips} clips: ${cost[name].ms.toFixed(1)} ms, ${cost[name].rows} rows read`);
  }
  costs.push(cost);
  await runtime.close();
}
rmSync(dir, { recursive: true, force: true });
const [few, many] = costs as [(typeof costs)[number], (typeof costs)[number]];
for (const name of Object.keys(PAGES)) {
  console.log(`figure growth.${name}_time_ratio ${(many[name]!.ms / few[name]!.ms).toFixed(2)} bound 2`);
  console.log(`figure growth.${name}_rows_ratio ${(many[name]!.rows / few[name]!.rows).toFixed(2)} bound 2`);
}
process.exit(0);
