import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { sql } from 'drizzle-orm';
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { randomFrom } from '../../../core/platform/random';
import { DatabaseLost } from '../errors';
import { findRecords } from '../../records/find';
import { rebuild } from '../../records/rebuild';
import { openRuntime, type Runtime, type RuntimeOptions } from '../../runtime';
import { beginJob } from '../../jobs/jobs';

// What a power cut does to the embedded database, which does not flush by itself: of everything written since it was flushed from
// outside, any page of any file may have reached the disk or not. Long in `npm run soak custody`, short here.

const CUTS = Number(process.env.SORT_SHELF_DATABASE_CUTS ?? 2);
const PAGE = 8192;
let dir: string;
beforeEach(() => {
  dir = mkdtempSync(path.join(existsSync('/dev/shm') ? '/dev/shm' : tmpdir(), 'shelf-database-'));
});
afterEach(() => rmSync(dir, { recursive: true, force: true }));

const files = (folder: string): string[] =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile())
    .map((e) => path.relative(folder, path.join(e.parentPath, e.name)));

/** A folder as it may be after the cut: each page as it was flushed, or as it was written since; names given since may be gone. */
function cut(flushed: string, written: string, to: string, random: () => number): void {
  cpSync(flushed, to, { recursive: true });
  // Some cuts take much, some little.
  const share = random();
  for (const name of files(written)) {
    const now = readFileSync(path.join(written, name));
    const known = existsSync(path.join(to, name));
    if (!known && random() < share) continue;
    const before = known ? readFileSync(path.join(to, name)) : Buffer.alloc(0);
    if (before.equals(now)) continue;
    const out = Buffer.from(now);
    for (let at = 0; at < before.length && at < now.length; at += PAGE)
      if (random() < share) before.copy(out, at, at, Math.min(at + PAGE, before.length, now.length));
    mkdirSync(path.dirname(path.join(to, name)), { recursive: true });
    writeFileSync(path.join(to, name), out);
  }
}

const open = (home: string, options: Partial<RuntimeOptions> = {}) =>
  openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false, ...options });
/** What the database says was found of each file of the copy, by the file's number. */
const found = async (r: Runtime): Promise<string> =>
  JSON.stringify(
    (
      await r.db.execute(
        sql`select distinct on (number) number, result, value from copy_readings where copy = 'c' order by number, seq desc`,
      )
    ).rows,
  );
const counts = async (r: Runtime): Promise<string> =>
  JSON.stringify(
    (
      await r.db.execute(
        sql`select (select count(*) from card_files) as files, (select count(*) from roots where name <> 'later') as roots, (select name from jobs) as job`,
      )
    ).rows,
  );
const reading = (n: number, result: string) =>
  sql`insert into copy_readings (copy, number, at, how, result, kind, value, size, modified) select 'c', g, now(), 'check', ${result}, 'xxh128', md5(g::text), 1, 1 from generate_series(0, ${n}) g`;

test('what was kept is there after a cut, or the database says that it is damaged and is rebuilt from its record', async () => {
  const home = path.join(dir, 'home');
  const runtime = await open(home);
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 });
  await runtime.db.execute(
    sql`insert into physical_cards (id, label, root, folder, whole_volume, outside, cannot, first_seen, last_seen) values ('p', 'B001', 'r', '', true, '[]', '[]', now(), now())`,
  );
  await runtime.db.execute(
    sql`insert into card_files (card, number, path, size, modified) select 'p', g, 'CLIP/T' || g || '.MP4', g, g from generate_series(0, 399) g`,
  );
  await runtime.db.execute(
    sql`insert into safe_copies (id, physical, offload, destination, root, folder, verification, hash, made_at, disk) values ('c', 'p', 'o', 0, 'r', '', 'contents', 'xxh128', now(), '{}')`,
  );
  await runtime.db.execute(reading(399, 'read'));
  // A check finds some of it spoilt, and that is kept before the person is told.
  await runtime.db.execute(reading(20, 'changed'));
  await runtime.keepNow();
  const [told, counted] = [await found(runtime), await counts(runtime)];
  const [flushed, written] = [path.join(dir, 'flushed'), path.join(dir, 'written')];
  cpSync(path.join(home, 'database'), flushed, { recursive: true });
  cpSync(path.join(home, 'records'), path.join(dir, 'records'), { recursive: true });
  // Each state finds the shelf as it was then, too: a record there that another state has written is of another database.
  const [shelf, keptShelf] = [path.join(home, 'shelf'), path.join(dir, 'shelf')];
  cpSync(shelf, keptShelf, { recursive: true });
  // What comes after is not flushed when the power goes.
  for (let n = 0; n < 12; n++) {
    await runtime.db.execute(
      sql`insert into log (id, at, who, kind, text) select ${`${n} `} || g, now(), 'me', 'check', repeat('x', 400) from generate_series(0, 60) g`,
    );
    await runtime.db.execute(sql`update physical_cards set last_seen = now(), label = ${`B00${n % 9}`}`);
    await runtime.db.execute(sql`update safe_copies set seen_at = now()`);
    if (n === 6)
      await runtime.db.execute(sql`insert into roots values ('later', 'source', 'later', '/later')`);
    if (n === 8) await runtime.db.execute(sql`checkpoint`);
  }
  cpSync(path.join(home, 'database'), written, { recursive: true });
  await runtime.close();

  const random = randomFrom(20_261_125);
  const tally = { opened: 0, said: 0 };
  for (let n = 0; n < CUTS; n++) {
    const at = path.join(dir, `cut ${n}`);
    cut(flushed, written, path.join(at, 'database'), random);
    cpSync(path.join(dir, 'records'), path.join(at, 'records'), { recursive: true });
    rmSync(shelf, { recursive: true });
    cpSync(keptShelf, shelf, { recursive: true });
    writeFileSync(path.join(at, 'database-open'), '');
    const now = await open(at).catch((e: unknown) => e);
    let after: Runtime;
    if (now instanceof Error) {
      expect(now).toBeInstanceOf(DatabaseLost);
      tally.said++;
      after = await open(at, { restore: 'empty', aside: true });
      const report = await rebuild(
        after,
        (await findRecords(at, [])).found.find((f) => f.newest.tables.get('jobs')!.length > 0)!,
      );
      expect(report.copiesCount).toBe(true);
    } else {
      tally.opened++;
      after = now as Runtime;
    }
    expect(await counts(after)).toBe(counted);
    expect(await found(after)).toBe(told);
    await after.close();
    rmSync(at, { recursive: true });
  }
  console.log(
    `database cuts: ${CUTS}, opened with all that was kept: ${tally.opened}, said damaged and rebuilt: ${tally.said}`,
  );
  expect(tally.opened + tally.said).toBe(CUTS);
}, 3_000_000);

test('one that opens but cannot be read is lost as well, is left as it was, and makes way for what is chosen', async () => {
  const home = path.join(dir, 'home');
  const runtime = await open(home);
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 });
  await runtime.db.execute(sql`alter table work rename to work_of_nobody`);
  await runtime.close();
  for (let tries = 0; tries < 2; tries++)
    await expect(open(home)).rejects.toMatchObject({
      title: 'Database lost',
      message: expect.stringContaining('is damaged: the database did not take it'),
    });
  const chosen = await open(home, { restore: 'empty', aside: true });
  expect(readdirSync(home).filter((n) => n.startsWith('database-damaged-'))).toHaveLength(1);
  await chosen.close();
}, 120_000);

// Beside the product's own files, which is mostly the system's volume, and in memory, which is another: as a drive that may be pulled out.
test.each([path.resolve('.cache'), existsSync('/dev/shm') ? '/dev/shm' : tmpdir()])(
  'a database below %s that was not closed and lost rows its record has is not opened as if nothing were',
  async (place) => {
    rmSync(dir, { recursive: true, force: true });
    mkdirSync(place, { recursive: true });
    dir = mkdtempSync(path.join(place, 'shelf-cut-'));
    const home = path.join(dir, 'home');
    const runtime = await open(home);
    // There is something to compare it with from the first moment.
    expect(readdirSync(path.join(home, 'records'))).toHaveLength(1);
    await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 });
    await runtime.db.execute(sql`insert into field_sets values ('set', 'Mine', '[]')`);
    await runtime.close();
    // As a page that never reached the disk leaves it: the row is gone, and nothing says that it was taken away.
    const changed = await open(home);
    await changed.db.execute(sql`alter table field_sets disable trigger keep_removed`);
    await changed.db.execute(sql`delete from field_sets`);
    cpSync(path.join(home, 'records'), path.join(dir, 'records'), { recursive: true });
    await changed.close();
    await (await open(home)).close();
    rmSync(path.join(home, 'records'), { recursive: true });
    cpSync(path.join(dir, 'records'), path.join(home, 'records'), { recursive: true });
    const mark = path.join(home, 'database-open');
    // A server that was killed while the system went on has lost nothing: nothing is compared, unless its volume may have been pulled out meanwhile.
    writeFileSync(
      mark,
      existsSync('/proc/sys/kernel/random/boot_id') ? readFileSync('/proc/sys/kernel/random/boot_id') : 'x',
    );
    if (statSync(dir).dev !== statSync('/').dev)
      await expect(open(home)).rejects.toThrow('1 row is not as the record');
    else if (process.platform === 'linux') await (await open(home)).close();
    writeFileSync(mark, 'another start of the system');
    await expect(open(home)).rejects.toMatchObject({
      title: 'Database lost',
      message: expect.stringMatching(
        /1 row is not as the record beside it has them, as after a power cut\.$/,
      ),
    });
  },
  120_000,
);
