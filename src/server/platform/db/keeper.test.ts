import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { sql } from 'drizzle-orm';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  rmSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { openRuntime, type RuntimeOptions } from '../../runtime';
import { anyJob, beginJob, jobByCode } from '../../jobs/jobs';
import { DatabaseKeeper, openKept, snapshotsIn } from './keeper';

let home: string;
beforeEach(() => {
  home = mkdtempSync(path.join(existsSync('/dev/shm') ? '/dev/shm' : tmpdir(), 'shelf-keeper-'));
});
afterEach(() => rmSync(home, { recursive: true, force: true }));
const database = () => path.join(home, 'database');
const open = (restore?: RuntimeOptions['restore']) =>
  openRuntime({
    home,
    databaseFolder: database(),
    work: false,
    snapshotAfter: 0,
    ...(restore ? { restore } : {}),
  });

test('a database that is damaged or gone is not opened: it is said, and its snapshot is taken where the person wants it', async () => {
  const first = await open();
  await beginJob(first, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 });
  await first.db.execute(
    sql`insert into physical_cards (id, label, root, folder, whole_volume, outside, cannot, first_seen, last_seen) values ('p', 'B001', 'r', '', true, '[]', '[]', now(), now())`,
  );
  await first.db.execute(
    sql`insert into safe_copies (id, physical, offload, destination, root, folder, verification, hash, made_at, disk) values ('c', 'p', 'o', 0, 'r', '', 'contents', 'xxh128', now(), '{}')`,
  );
  for (const [n, result] of [
    [0, 'read'],
    [1, 'missing'],
  ] as const)
    await first.db.execute(
      sql`insert into copy_readings (copy, number, at, how, result, kind, value, size, modified) values ('c', ${n}, now(), 'copied', ${result}, 'xxh128', ${result === 'read' ? 'h' : null}, 1, 1)`,
    );
  await first.close();
  const [snapshot] = await snapshotsIn(path.join(home, 'snapshots'));
  expect(snapshot).toBeDefined();

  // As a power cut leaves it: its control file half written.
  truncateSync(path.join(database(), 'global/pg_control'), 100);
  await expect(open()).rejects.toMatchObject({
    title: 'Database lost',
    message: expect.stringMatching(/^The database in .* is damaged/),
    about: { next: expect.stringContaining('Open Sort Shelf to choose what is done') },
  });
  // Saying so changes nothing.
  await expect(open()).rejects.toThrow('is damaged');
  // A snapshot that is damaged as well gives way to the one before.
  writeFileSync(path.join(home, 'snapshots/database_29990101T000000Z.tar.gz'), 'no snapshot');
  const restored = await open('snapshot');
  expect(await jobByCode(restored, 'slw')).toMatchObject({ name: 'Slack Water' });
  // What later checks had found is not known any more: copies have to be checked again.
  expect(
    (
      await restored.db.execute<{ result: string; value: string | null }>(
        sql`select distinct on (number) result, value from copy_readings order by number, seq desc`,
      )
    ).rows,
  ).toEqual([
    { result: 'sizeOnly', value: null },
    { result: 'missing', value: null },
  ]);
  await restored.close();
  expect(readdirSync(home).filter((n) => n.startsWith('database-damaged-'))).toHaveLength(1);

  // A part of it that is gone is no new database: none is made over it.
  rmSync(path.join(database(), 'PG_VERSION'));
  await expect(open()).rejects.toThrow('is damaged: parts of it are gone.');
  rmSync(database(), { recursive: true });
  await expect(open()).rejects.toThrow(/^The database in .* is gone\.$/);
  const empty = await open('empty');
  expect(await anyJob(empty)).toBe(false);
  await empty.close();
}, 120_000);

test('a volume that is full is said, and is no damage: nothing half made is left, nothing is moved aside', async () => {
  const at = {
    folder: database(),
    snapshots: path.join(home, 'snapshots'),
    traces: [],
    doubt: async () => null,
  };
  // As the engine throws it: no error, and a number of its own.
  const full = async () => {
    mkdirSync(database(), { recursive: true });
    writeFileSync(path.join(database(), 'PG_VERSION'), '17');
    // eslint-disable-next-line @typescript-eslint/only-throw-error -- as the engine does
    throw { name: 'ErrnoError', errno: 51 };
  };
  const refused = {
    title: 'Refused',
    message: `The database in ${database()} cannot be opened: its volume is full.`,
    about: { next: 'Make room on the volume, then start Sort Shelf again.' },
  };
  await expect(openKept(at, 'say', full)).rejects.toMatchObject(refused);
  expect(existsSync(database())).toBe(false);
  mkdirSync(database());
  writeFileSync(path.join(database(), 'PG_VERSION'), '17');
  await expect(openKept(at, 'snapshot', full)).rejects.toMatchObject(refused);
  expect(readdirSync(home)).toEqual(['database']);
});

test('a clock that is set back leaves the newest snapshot the last by name, and flushes all', async () => {
  const runtime = await open();
  const folder = path.join(home, 'snapshots');
  mkdirSync(folder);
  for (let n = 1; n <= 6; n++) writeFileSync(path.join(folder, `database_2099010${n}T000000Z.tar.gz`), 'x');
  const keeper = new DatabaseKeeper(runtime.database.embedded!, database(), folder);
  const made = await keeper.snapshot();
  expect(path.basename(made)).toBe('database_20990106T000001Z.tar.gz');
  expect((await snapshotsIn(folder))[0]).toBe(made);
  // Files written to within the last second are flushed again.
  await new Promise((r) => setTimeout(r, 1500));
  await keeper.flush();
  expect(await keeper.flush()).toBeLessThan(50);
  const real = Date.now;
  Date.now = () => real() - 86_400_000;
  try {
    expect(await keeper.flush()).toBeGreaterThan(500);
  } finally {
    Date.now = real;
  }
  await runtime.close();
}, 120_000);

test('snapshots are rotated; a fresh home needs none; what is no snapshot is not taken for one', async () => {
  const runtime = await open();
  const folder = path.join(home, 'snapshots');
  await runtime.close();
  writeFileSync(path.join(home, 'other'), '');
  for (let n = 10; n < 20; n++) {
    const name = `database_202605${n}T120000Z.tar.gz`;
    (await import('node:fs')).mkdirSync(folder, { recursive: true });
    writeFileSync(path.join(folder, name), 'x');
  }
  writeFileSync(path.join(folder, 'database_notes.txt'), 'x');
  const again = await open();
  await beginJob(again, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 });
  await again.close();
  expect(await snapshotsIn(folder)).toHaveLength(6);
  expect(existsSync(path.join(folder, 'database_notes.txt'))).toBe(true);
}, 120_000);
