import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { brotliDecompressSync } from 'node:zlib';
import { clipViews } from './cards';
import { safeCopyCounts, wipeView } from './custody';
import { clocksView, fieldSetsView } from './facts';
import { jobByCode, jobList } from './jobs';
import { cardDetail, clipDetail, logView } from './overview';
import { disagreements } from './records/agree';
import { findRecords } from './records/find';
import { rebuild } from './records/rebuild';
import { type InJob, openRuntime } from './runtime';

// Data folders as earlier versions left them (`npm run store-data-folder`): each opens, with everything in it.

const STORED = 'src/server/testing/stored';
let dir: string;
beforeEach(() => {
  dir = mkdtempSync(path.join(existsSync('/dev/shm') ? '/dev/shm' : tmpdir(), 'shelf-stored-'));
});
afterEach(() => rmSync(dir, { recursive: true, force: true }));

const unpack = (name: string): string => {
  execFileSync('tar', ['-C', dir, '-xf', '-'], {
    input: brotliDecompressSync(readFileSync(path.join(STORED, name))),
  });
  return dir;
};
const open = (home: string, restore: 'say' | 'empty' = 'say') =>
  openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false, restore });

/** What every stored folder holds, as it was made. */
async function expectEverything(r: InJob): Promise<void> {
  expect(await jobList(r)).toMatchObject([
    { name: 'Slack Water', code: 'SLW', putAwayAt: null, cards: 3, clips: 6, days: 2 },
  ]);
  const named = (await clipViews(r, 'B001')).map((c) => [
    c.original,
    c.name,
    c.named,
    c.state,
    c.start,
    c.frames,
  ]);
  expect(named).toEqual([
    ['T0001', 'SLW_D1_B001_001_25p', true, 'read', '14:22:01:00', 6],
    ['T0002', 'SLW_D1_B001_002_25p', true, 'read', '14:22:02:00', 7],
    ['T0003', 'SLW_D1_B001_003_25p', true, 'read', '14:22:03:00', 8],
  ]);
  expect((await clipViews(r, 'C001')).map((c) => [c.original, c.named, c.day])).toEqual([
    ['S0001', false, 2],
    ['S0002', false, 2],
  ]);
  const [clip] = await clipViews(r, 'B001');
  expect(clip!.pair).toMatchObject({ state: 'proven', made: true });
  const detail = await clipDetail(r, clip!.id);
  expect(detail.facts.find((f) => f.field === 'comment')).toMatchObject({
    value: 'the good one',
    source: 'you',
  });
  // The card, its copies, the shelf; and where it was copied to before it had a name.
  expect(detail.places.map((p) => `${p.what} ${p.name} ${p.until === null ? '' : 'gone'}`).sort()).toEqual([
    'card B001 ',
    'copy North ',
    'copy South ',
    'place Shelf ',
    'place Shelf gone',
  ]);
  expect(await cardDetail(r, 'B002')).toMatchObject({ camera: 'B', day: 1, safe: 2 });
  expect((await clocksView(r)).clocks).toMatchObject([
    { camera: 'C', seconds: 3600, note: 'one hour behind' },
  ]);
  expect((await fieldSetsView(r)).find((s) => !s.shipped)).toMatchObject({
    name: 'Short',
    fields: ['start', 'frames'],
  });
  expect(Object.fromEntries(await safeCopyCounts(r))).toEqual({ B001: 2, B002: 2 });
  // Their drives are not there: a copy that was proven is away, one of sizes only never was.
  expect((await wipeView(r, 'B001')).copies.map((c) => [c.rootName, c.present, c.proven])).toEqual([
    ['North', false, 3],
    ['South', false, 3],
  ]);
  expect((await wipeView(r, 'B002')).copies.map((c) => [c.proven, c.sizeOnly])).toEqual([
    [0, 1],
    [0, 1],
  ]);
}

test.each(readdirSync(STORED))(
  '%s opens, and nothing of it is missing or other than its record has it',
  async (name) => {
    const home = unpack(name);
    const runtime = await open(home);
    try {
      expect(await disagreements(runtime.db, home)).toBe(0);
      const r = runtime.inJob((await jobByCode(runtime, 'SLW')).id);
      await expectEverything(r);
      const { entries: log } = await logView(r);
      expect(log.filter((e) => e.kind === 'undo').length).toBe(1);
      expect(log.filter((e) => e.undoable).length).toBe(1);
      expect(log.at(-1)!.kind).toBe('job');
      expect(log.at(-1)!.text).toMatch(/^(?:Began|Created) the job Slack Water \(SLW\)$/);
    } finally {
      await runtime.close();
    }
  },
);

test.each(readdirSync(STORED))('the record of %s is enough to rebuild it', async (name) => {
  const home = unpack(name);
  rmSync(path.join(home, 'database'), { recursive: true });
  const runtime = await open(home, 'empty');
  try {
    const [found] = (await findRecords(home, [])).found.filter(
      (f) => f.newest.tables.get('jobs')!.length > 0,
    );
    await rebuild(runtime, found!);
    const r = runtime.inJob((await jobByCode(runtime, 'SLW')).id);
    expect(await jobList(r)).toMatchObject([{ code: 'SLW', cards: 3, clips: 6, days: 2 }]);
    expect((await clipViews(r, 'B001')).map((c) => [c.original, c.name, c.named])).toEqual([
      ['T0001', 'SLW_D1_B001_001_25p', true],
      ['T0002', 'SLW_D1_B001_002_25p', true],
      ['T0003', 'SLW_D1_B001_003_25p', true],
    ]);
    expect(Object.fromEntries(await safeCopyCounts(r))).toEqual({ B001: 2, B002: 2 });
  } finally {
    await runtime.close();
  }
});
