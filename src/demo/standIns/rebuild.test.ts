import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { eq, sql } from 'drizzle-orm';
import { execFileSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import {
  appendFileSync,
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  readlinkSync,
  renameSync,
  rmdirSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { type FileHandle, open as open_ } from 'node:fs/promises';
import path from 'node:path';
import { Change } from '../../core/choose';
import { NewPackage, READY_FORMS } from '../../core/handover';
import { namingRequest } from '../../core/naming/shapes';
import type { Rebuilt } from '../../core/records/shapes';
import { changeChoice, undoChoice } from '../../server/choose';
import { checkAgain } from '../../server/custody/checks';
import { wipeView } from '../../server/custody/wipe';
import { clips, files } from '../../server/cards/tables';
import { keepForm, planView, sendPackage } from '../../server/handover';
import { plans } from '../../server/naming/tables';
import { findRecords } from '../../server/records/find';
import { readRecords } from '../../server/records/read';
import { rebuild } from '../../server/records/rebuild';
import { TABLES } from '../../server/records/recorded';
import { type InJob, openRuntime, type RuntimeOptions } from '../../server/runtime';
import { laterRecords } from '../../server/testing/laterRecords';
import { makeClip, TEST_JOB } from '../../server/testing/media';
import { applyNaming, undoPlan } from '../../server/naming';
import { statementsOf } from '../../server/cards/statements';
import { correctClips } from '../../server/facts/correct';
import { planNaming } from '../../server/naming/naming';
import { saveSettings } from '../../server/jobs/job';
import { forgetCard, takeIn } from '../../server/intake/takeIn';
import { addRoot } from '../../server/places/roots';
import { clipViews } from '../../server/cards/clipViews';
import { type CopyingShelf, copyingShelf } from './copyingShelf';

// A database that is gone is rebuilt from the records beside the footage: cards, copies, what is proven of them, names and places.

let r: CopyingShelf;
let runtime: InJob;
let home: string;
beforeEach(async () => {
  r = await copyingShelf({ kept: true });
  runtime = r.shelf.runtime;
  home = runtime.home;
});
afterEach(async () => {
  await runtime.close();
  rmSync(r.shelf.dir, { recursive: true, force: true });
});

const open = async (options: Partial<RuntimeOptions> = {}): Promise<InJob> => {
  runtime = (
    await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: ['copy'], ...options })
  ).inJob(TEST_JOB);
  return runtime;
};
const copyNamed = async (): Promise<string> => {
  const id = r.card({});
  for (const n of [1, 2, 3])
    makeClip(r.reader(id, `CLIP/T000${n}.MP4`), { frames: 5 + n, start: `14:22:0${n}:00` });
  await r.copy(id, { shelf: true });
  return id;
};
/** Everything that is recorded, as the database has it. */
const everything = async (): Promise<Record<string, unknown[]>> => {
  const out: Record<string, unknown[]> = {};
  for (const t of TABLES) {
    const { rows } = await runtime.db.execute<{ row: unknown }>(
      sql.raw(
        `select ${t.row ?? 'to_jsonb(t)'} as row from ${t.name} t order by ${t.key.map((k) => `t.${k}`).join(', ')}`,
      ),
    );
    out[t.name] = rows.map((x) => x.row);
  }
  return out;
};
const places = async () => (await clipViews(runtime)).map((c) => [c.original, c.named, c.name]).sort();
const answers = async (...ids: string[]) =>
  Promise.all(
    ids.map(async (id) => {
      const { verdict, copies } = await wipeView(runtime, id);
      return { id, verdict, copies: copies.map((c) => [c.rootName, c.present]) };
    }),
  );
/** The records found of this test's own: it is looked for on the volumes that other tests have mounted meanwhile, too. */
const findOwn = async (folder: string, also: readonly string[] = []) => {
  const { found, faults } = await findRecords(folder, also);
  const isOwn = (text: string) => text.includes(path.dirname(r.shelf.dir));
  return { found: found.filter((f) => f.files.some(isOwn)), faults: faults.filter(isOwn) };
};
/** Takes away the records everywhere but for older ones that were put aside. */
const onlyRecordsOf = (old: string, ...drives: string[]): void => {
  for (const at of [
    ...drives,
    ...[home, ...['North', 'South'].map((d) => r.drive(d)), path.join(home, 'shelf')],
  ])
    for (const folder of [path.join(at, 'records'), path.join(at, '.sort-shelf')])
      if (existsSync(folder))
        for (const f of readdirSync(folder).filter((n) => n.startsWith('records-')))
          rmSync(path.join(folder, f));
  cpSync(old, path.join(home, 'records'), { recursive: true });
};
/** Loses the database and rebuilds it from the newest records that are found. */
const loseAndRebuild = async (also: readonly string[] = []): Promise<Rebuilt> => {
  rmSync(path.join(home, 'database'), { recursive: true, force: true });
  await open({ restore: 'empty' });
  const { found } = await findOwn(home, also);
  return rebuild(
    runtime,
    found.find((f) => f.newest.tables.get('jobs')!.length > 0)!,
  );
};

describe('rebuilt from the records', () => {
  test('the same cards, copies, answers, names, corrections and logbook; every change can still be undone', async () => {
    const id = await copyNamed();
    const spoilt = r.card({ 'CLIP/T0001.MP4': 5000 });
    await r.copy(spoilt);
    const file = r.drive('South', 'SLW/Day 1', spoilt, 'CLIP/T0001.MP4');
    const bytes = readFileSync(file);
    bytes[4000]! ^= 1;
    writeFileSync(file, bytes);
    await checkAgain(
      runtime,
      (await wipeView(runtime, spoilt)).copies.find((c) => c.rootName === 'South')!.id,
    );
    const sizes = r.card({ 'CLIP/T0001.MP4': 5000 });
    await r.copy(sizes, { verification: 'sizes' });
    const forgotten = r.card({ 'CLIP/T0001.MP4': 5000 });
    await r.copy(forgotten);
    await forgetCard(runtime, forgotten);
    const [clip] = await clipViews(runtime, id);
    await correctClips(runtime, { clips: [clip!.id], set: [{ field: 'comment', value: 'the good one' }] });
    await runtime.queue.add('proxy', [clip!.id]);
    await runtime.queue.drain();
    const given = (c: object) => changeChoice(runtime, Change.parse(c));
    await given({ do: 'addKeyword', clips: [clip!.id], name: 'wheel' });
    await given({ do: 'addRange', clip: clip!.id, from: 1, to: 4, kind: 'select', note: 'turns' });
    await given({ do: 'addBin', name: 'First', clips: [clip!.id] });
    await given({ do: 'saveSearch', name: 'Wheel', query: 'keyword is wheel' });
    await given({ do: 'addStringOut', name: 'Look', items: [{ clip: clip!.id, from: 0, to: 3 }] });
    // What was taken back is not there again.
    const { undo } = await given({ do: 'addBin', name: 'Second', clips: [clip!.id] });
    await undoChoice(runtime, undo!);
    await keepForm(runtime, { ...READY_FORMS[0]!, name: 'Own' });
    const wanted = NewPackage.parse({
      ...{ set: { kind: 'card', card: id }, form: READY_FORMS[1], to: 'the colourist' },
      ...{ root: 'handover', folder: 'SLW' },
    });
    await sendPackage(runtime, wanted);
    await runtime.queue.drain();
    const sent = (await planView(runtime, wanted)).counts;
    expect(sent).toMatchObject({ fresh: 0, changed: 0, left: 0 });
    expect(sent.same).toBeGreaterThan(2);
    // To ask is to look at the copies, which is kept: what is compared comes after.
    const asked = await answers(id, spoilt, sizes);
    const before = { all: await everything(), places: await places(), answers: asked };
    expect(before.answers.map((a) => a.verdict)).toEqual(['yes', 'no', 'no']);
    await runtime.close();

    rmSync(path.join(home, 'database'), { recursive: true });
    await expect(open()).rejects.toMatchObject({
      title: 'Database lost',
      message: expect.stringMatching(/is gone\.$/),
    });
    const report = await loseAndRebuild();
    expect(report).toMatchObject({ cards: 3, clips: 5, copies: 8, missing: 0, plans: 0, copiesCount: true });
    const after = await everything();
    for (const t of TABLES) {
      // The rebuilding itself is in the logbook.
      const rows =
        t.name === 'log'
          ? after.log!.filter((l) => (l as { kind: string }).kind !== 'recovery')
          : after[t.name];
      expect({ table: t.name, rows }).toEqual({ table: t.name, rows: before.all[t.name] });
    }
    await runtime.queue.drain();
    expect(await places()).toEqual(before.places);
    // What was handed over is not sent a second time.
    expect((await planView(runtime, wanted)).counts).toEqual(sent);
    expect(await answers(id, spoilt, sizes)).toEqual(before.answers);
    const [again] = await runtime.db.select().from(clips).where(eq(clips.id, clip!.id));
    expect(again).toMatchObject({ state: 'read' });
    expect((await statementsOf(runtime.db, [clip!.id])).get(clip!.id)).toContainEqual({
      field: 'comment',
      value: expect.objectContaining({}),
      source: 'person',
    });
    const [plan] = await runtime.db.select().from(plans);
    expect(await undoPlan(runtime, plan!.id)).toMatchObject({ state: 'done', failed: [] });
  }, 180_000);

  test('what is given in the last moment is in the record, and nothing is said to be wrong with it', async () => {
    await copyNamed();
    await changeChoice(runtime, Change.parse({ do: 'addBin', name: 'In the last moment' }));
    await runtime.close();
    await open();
    const { log } = await everything();
    expect(log!.filter((l) => (l as { text: string }).text.includes('cannot be'))).toEqual([]);
    await runtime.close();
    await loseAndRebuild();
    expect((await everything()).bins).toMatchObject([{ name: 'In the last moment' }]);
  });

  test('from one drive alone, in a new data folder: everything is there, and copies count once they are checked again', async () => {
    const id = await copyNamed();
    await saveSettings(runtime, { offlineCounts: true, serversApart: true });
    await runtime.close();
    home = path.join(r.shelf.dir, 'new home');
    renameSync(path.join(r.shelf.dir, 'home'), path.join(r.shelf.dir, 'burnt'));
    renameSync(r.drive('South'), path.join(r.standIns, 'drawer/South'));
    expect((await findOwn(home)).found).toEqual([]);
    const report = await loseAndRebuild([r.drive('North')]);
    expect(report).toMatchObject({ cards: 1, clips: 3, copies: 2, copiesCount: false, missing: 3 });
    // Nor is it taken from a drive what the person let count.
    expect(await wipeView(runtime, id)).toMatchObject({
      may: false,
      offlineCounts: false,
      serversApart: false,
    });
    renameSync(path.join(r.standIns, 'drawer/South'), r.drive('South'));
    expect((await wipeView(runtime, id)).verdict).toBe('no');
    for (const c of (await wipeView(runtime, id)).copies)
      expect(await checkAgain(runtime, c.id)).toMatchObject({ same: 3, changed: [], missing: [] });
    expect((await wipeView(runtime, id)).verdict).toBe('yes');
  }, 180_000);

  test('a stranger’s records of a job of the same name are not proposed, however new; newer ones of the same footage are', async () => {
    await copyNamed();
    await runtime.close();
    const folder = path.join(home, 'records');
    const name = readdirSync(folder).find((n) => n.startsWith('records-'))!;
    const own = readFileSync(path.join(folder, name), 'utf8');
    const later = (ids: (id: string) => string): string => {
      const made = laterRecords(own, ids);
      const to = path.join(path.dirname(r.shelf.dir), `stick-${randomUUID()}`);
      mkdirSync(to);
      writeFileSync(path.join(to, made.name), made.text);
      return to;
    };
    const others = new Map<string, string>();
    const stranger = later((id) => others.get(id) ?? others.set(id, randomUUID()).get(id)!);
    const library = name.slice('records-'.length, -'.jsonl'.length);
    const foundBeside = async (...also: string[]) =>
      (await findOwn(home, also)).found
        .filter((f) => f.newest.tables.get('jobs')!.length > 0)
        .map((f) => ({ library: f.newest.header.library, own: f.own, older: f.older }));
    expect(await foundBeside(stranger)).toEqual([
      { library, own: true, older: false },
      { library: others.get(library), own: false, older: false },
    ]);
    const next = randomUUID();
    const goneOn = later((id) => (id === library ? next : id));
    expect(await foundBeside(stranger, goneOn)).toEqual([
      { library: next, own: false, older: false },
      { library, own: true, older: true },
      { library: others.get(library), own: false, older: false },
    ]);
    for (const at of [stranger, goneOn]) rmSync(at, { recursive: true });
    await open();
  });

  test('a drive found at another place is taken where it is', async () => {
    const id = await copyNamed();
    await runtime.close();
    // The stand-in tells its volume by its name.
    renameSync(r.standIns, path.join(r.shelf.dir, 'moved'));
    process.env.SORT_SHELF_STAND_INS = path.join(r.shelf.dir, 'moved');
    await loseAndRebuild([path.join(r.shelf.dir, 'moved/drives')]);
    expect(await answers(id)).toEqual([
      {
        id,
        verdict: 'yes',
        copies: [
          ['North', true],
          ['South', true],
        ],
      },
    ]);
  }, 180_000);

  test('names given after the last record to files of a drive that is away now are taken over, too', async () => {
    const [drive, gone] = [path.join(r.shelf.dir, 'second shelf'), path.join(r.shelf.dir, 'unplugged')];
    for (const n of [1, 2])
      makeClip(path.join(drive, `In/B001/CLIP/T000${n}.MP4`), { frames: 5 + n, start: `14:22:0${n}:00` });
    const { id: root } = await addRoot(runtime, { kind: 'shelf', path: drive });
    const card = { folder: '', camera: 'B', cardId: 'B001', day: 1, date: null };
    await takeIn(runtime, { root, path: 'In/B001', cards: [card], singles: [] });
    await runtime.queue.drain();
    await runtime.keepNow();
    const old = path.join(r.shelf.dir, 'old records');
    cpSync(path.join(home, 'records'), old, { recursive: true });
    const request = namingRequest({ cards: ['B001'] });
    const { preview } = await planNaming(runtime, request);
    expect(await applyNaming(runtime, { ...request, fingerprint: preview.fingerprint })).toMatchObject({
      state: 'done',
    });
    const before = await places();
    await runtime.close();
    onlyRecordsOf(old, drive);
    renameSync(drive, gone);
    // The folder it was mounted at stays.
    mkdirSync(drive);
    expect(await loseAndRebuild()).toMatchObject({ plans: 1, missing: 0, away: 2 });
    expect((await runtime.db.select().from(plans)).map((p) => p.state)).toEqual(['done']);
    rmdirSync(drive);
    renameSync(gone, drive);
    expect(await places()).toEqual(before);
    for (const { path: at } of await runtime.db.select().from(files).where(eq(files.root, root)))
      expect(existsSync(path.join(drive, at))).toBe(true);
  }, 180_000);

  test('names given after the last record are taken over from the journal, also where they were taken back', async () => {
    const id = r.card({});
    for (const n of [1, 2, 3])
      makeClip(r.reader(id, `CLIP/T000${n}.MP4`), { frames: 5 + n, start: `14:22:0${n}:00` });
    await r.copy(id, { shelf: true });
    const first = (await runtime.db.select().from(plans))[0]!;
    await undoPlan(runtime, first.id);
    await runtime.keepNow();
    const old = path.join(r.shelf.dir, 'old records');
    cpSync(path.join(home, 'records'), old, { recursive: true });
    const name = async () => {
      const request = namingRequest({ cards: [id] });
      const { preview } = await planNaming(runtime, request);
      return applyNaming(runtime, { ...request, fingerprint: preview.fingerprint });
    };
    const taken = await name();
    await undoPlan(runtime, taken.planId);
    await name();
    const before = {
      places: await places(),
      plans: (await runtime.db.select().from(plans)).map((p) => [p.id, p.state]).sort(),
    };
    await runtime.close();
    onlyRecordsOf(old);
    expect(await loseAndRebuild()).toMatchObject({ plans: 3, missing: 0 });
    expect(await places()).toEqual(before.places);
    expect((await runtime.db.select().from(plans)).map((p) => [p.id, p.state]).sort()).toEqual(before.plans);
  }, 180_000);

  test('records of a database that a power cut set back are written anew: numbers that are given again mean other changes', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000 });
    await r.copy(id);
    await runtime.close();
    const older = path.join(r.shelf.dir, 'older');
    cpSync(path.join(home, 'database'), older, { recursive: true });
    await open();
    const later = r.card({ 'CLIP/T0001.MP4': 5000 });
    r.shelf.runtime = runtime;
    await r.copy(later);
    await runtime.close();
    rmSync(path.join(home, 'database'), { recursive: true });
    cpSync(older, path.join(home, 'database'), { recursive: true });
    await open();
    r.shelf.runtime = runtime;
    const other = r.card({ 'CLIP/T0009.MP4': 7000 });
    await r.copy(other);
    const now = await everything();
    const {
      rows: [library],
    } = await runtime.db.execute<{ id: string }>(sql`select id from library`);
    await runtime.close();
    for (const folder of [
      path.join(home, 'records'),
      path.join(home, 'shelf/.sort-shelf'),
      r.drive('North', '.sort-shelf'),
    ]) {
      const [file] = readdirSync(folder).filter((n) => n === `records-${library!.id}.jsonl`);
      const records = await readRecords(path.join(folder, file!));
      expect(records!.tables.get('cards')!.map((c) => c.id)).toEqual([id, other]);
      expect(records!.tables.get('copy_readings')).toHaveLength(now.copy_readings!.length);
    }
  }, 180_000);

  test('a drive that goes just before its record is written is not made anew in its place', async () => {
    await r.copy(r.card({ 'CLIP/T0001.MP4': 5000 }));
    const away = path.join(r.standIns, 'drawer/South');
    const { diskOf } = runtime.devices;
    let [looks, last] = [0, Infinity];
    runtime.devices.diskOf = (folder) => {
      const disk = diskOf(folder);
      if (folder.startsWith(r.drive('South')) && ++looks === last) renameSync(r.drive('South'), away);
      return disk;
    };
    const write = async (name: string): Promise<number> => {
      looks = 0;
      await runtime.db.execute(sql`update jobs set name = ${name}`);
      await runtime.keepNow();
      return looks;
    };
    // What is written by itself meanwhile looks too: the fewest looks are those of one writing.
    const of = [];
    for (const name of ['One', 'Two', 'Three', 'Four']) of.push(await write(name));
    // It is there as often as it is looked for, and gone right after.
    last = Math.min(...of);
    await write('Five');
    runtime.devices.diskOf = diskOf;
    expect(existsSync(away)).toBe(true);
    expect(existsSync(r.drive('South'))).toBe(false);
    // It gets what it missed when it is back: there is nothing to be done about it.
    const { rows } = await runtime.db.execute(sql`select text from log where text like 'The record %'`);
    expect(rows).toEqual([]);
  }, 180_000);

  test('a drive that was away gets what it missed; one that is full or read only is said in the logbook and the others go on', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000 });
    await r.copy(id);
    renameSync(r.drive('South'), path.join(r.standIns, 'drawer/South'));
    const second = r.card({ 'CLIP/T0001.MP4': 5000 });
    await r.copy(second, { safe: [r.roots.North!] });
    const file = readdirSync(r.drive('North', '.sort-shelf')).find((n) => n.startsWith('records-'))!;
    const cardsOn = async (drive: string) =>
      (await readRecords(path.join(drive, '.sort-shelf', file)))!.tables.get('cards')!.map((c) => c.id);
    const [north, south, away] = [r.drive('North'), r.drive('South'), path.join(r.standIns, 'drawer/South')];
    expect([await cardsOn(north), await cardsOn(away)]).toEqual([[id, second], [id]]);
    renameSync(away, south);
    // A folder is where the record has to be written.
    rmSync(r.drive('North', '.sort-shelf', file));
    mkdirSync(r.drive('North', '.sort-shelf', file));
    await runtime.db.execute(sql`update jobs set name = 'Slack Water II'`);
    await runtime.keepNow();
    await runtime.db.execute(sql`update jobs set name = 'Slack Water III'`);
    await runtime.keepNow();
    // A pipe, at which an opening waits until somebody reads.
    rmSync(r.drive('North', '.sort-shelf', file), { recursive: true });
    execFileSync('mkfifo', [r.drive('North', '.sort-shelf', file)]);
    await runtime.db.execute(sql`update jobs set name = 'Slack Water IV'`);
    await runtime.keepNow();
    expect([await cardsOn(north), await cardsOn(south)]).toEqual([
      [id, second],
      [id, second],
    ]);
    const { rows } = await runtime.db.execute<{ text: string }>(
      sql`select text from log where text like 'The record %'`,
    );
    expect(rows).toEqual([
      {
        text: expect.stringMatching(
          /^The record of cards, copies and names cannot be written beside North: a folder has the name of the file \(EISDIR\)$/,
        ),
      },
    ]);
  }, 180_000);
});

test('an older record is no proof of what was found since; one that is behind says so; without any the copies have to be checked', async () => {
  const id = r.card({ 'CLIP/T0001.MP4': 5000 });
  await r.copy(id);
  await runtime.close();
  const old = readdirSync(path.join(home, 'records')).find((n) => n.startsWith('records-'))!;
  expect(await loseAndRebuild()).toMatchObject({ copiesCount: true });
  // The newer one finds a byte that flipped, with size and time as they were.
  const file = r.drive('South', 'SLW/Day 1', id, 'CLIP/T0001.MP4');
  const [bytes, { atime, mtime }] = [readFileSync(file), statSync(file)];
  bytes[4000]! ^= 1;
  writeFileSync(file, bytes);
  utimesSync(file, atime, mtime);
  expect((await wipeView(runtime, id)).verdict).toBe('yes');
  await checkAgain(runtime, (await wipeView(runtime, id)).copies.find((c) => c.rootName === 'South')!.id);
  expect((await wipeView(runtime, id)).verdict).toBe('no');
  await runtime.close();
  rmSync(path.join(home, 'database'), { recursive: true });
  await open({ restore: 'empty' });
  // The empty database has a record, too, of nothing.
  const found = (await findOwn(home)).found.filter((f) => f.newest.tables.get('jobs')!.length > 0);
  expect(found.map((f) => [f.newest.header.library === old.slice(8, 44), f.latest])).toEqual([
    [false, true],
    [true, false],
  ]);
  expect(await rebuild(runtime, found[1]!)).toMatchObject({ copiesCount: false });
  expect((await wipeView(runtime, id)).verdict).toBe('no');
  await runtime.close();

  for (const folder of [path.join(home, 'records'), path.join(home, 'shelf/.sort-shelf')]) {
    for (const n of readdirSync(folder).filter((x) => /^records-[0-9a-f-]+\.jsonl$/.test(x)))
      renameSync(path.join(folder, n), path.join(folder, n.replace('.jsonl', '.behind.jsonl')));
  }
  expect((await findOwn(home)).found.map((f) => f.latest)).toEqual([false, false, false]);
}, 180_000);

test('a database that may have lost something, and no record to compare it with: its copies have to be checked again', async () => {
  const id = r.card({ 'CLIP/T0001.MP4': 5000 });
  await r.copy(id);
  expect((await wipeView(runtime, id)).verdict).toBe('yes');
  await runtime.close();
  rmSync(path.join(home, 'records'), { recursive: true });
  writeFileSync(path.join(home, 'database-open'), 'another start of the system');
  await open();
  expect((await wipeView(runtime, id)).verdict).toBe('no');
  for (const c of (await wipeView(runtime, id)).copies) await checkAgain(runtime, c.id);
  expect((await wipeView(runtime, id)).verdict).toBe('yes');
}, 180_000);

test('a data folder that was brought back from an older copy knows less than the drives: copies have to be checked again, and what the drives know is not written over', async () => {
  const id = r.card({ 'CLIP/T0001.MP4': 5000 });
  await r.copy(id);
  await runtime.close();
  const older = path.join(r.shelf.dir, 'older');
  const parts = ['database', 'records', 'shelf/.sort-shelf'];
  for (const p of parts) cpSync(path.join(home, p), path.join(older, p), { recursive: true });
  await open();
  // Later a check finds a byte that flipped, with size and time as they were.
  const file = r.drive('South', 'SLW/Day 1', id, 'CLIP/T0001.MP4');
  const [bytes, { atime, mtime }] = [readFileSync(file), statSync(file)];
  bytes[4000]! ^= 1;
  writeFileSync(file, bytes);
  utimesSync(file, atime, mtime);
  await checkAgain(runtime, (await wipeView(runtime, id)).copies.find((c) => c.rootName === 'South')!.id);
  expect((await wipeView(runtime, id)).verdict).toBe('no');
  await runtime.close();

  const bringBack = (): void => {
    for (const p of parts) {
      rmSync(path.join(home, p), { recursive: true, force: true });
      cpSync(path.join(older, p), path.join(home, p), { recursive: true });
    }
  };
  const away = (out: boolean): void =>
    ['North', 'South'].forEach((d) =>
      out
        ? renameSync(r.drive(d), path.join(r.standIns, 'drawer', d))
        : renameSync(path.join(r.standIns, 'drawer', d), r.drive(d)),
    );
  const [name] = readdirSync(path.join(older, 'records'));
  const newer = () => readFileSync(r.drive('North', '.sort-shelf', name!));
  const told = async () =>
    (
      await runtime.db.execute<{ text: string }>(sql`select text from log where text like '%later state%'`)
    ).rows.map((l) => l.text);

  // The drives come later, after any amount of other work; their ends are torn, as where they were pulled out while they were written to.
  bringBack();
  for (const d of ['North', 'South']) appendFileSync(r.drive(d, '.sort-shelf', name!), '{"table":"ca');
  const before = newer();
  away(true);
  await open();
  for (let n = 0; n < 300; n++) await runtime.db.execute(sql`update jobs set name = ${`Slack Water ${n}`}`);
  await runtime.keepNow();
  away(false);
  expect((await wipeView(runtime, id)).verdict).toBe('no');
  expect(await told()).toEqual([
    expect.stringMatching(/^The record beside (?:North|South) was written by a later state of this database/),
  ]);
  await runtime.keepNow();
  expect(newer().equals(before)).toBe(true);
  expect(readdirSync(r.drive('North', '.sort-shelf')).filter((n) => n.startsWith('records-'))).toHaveLength(
    2,
  );
  for (const c of (await wipeView(runtime, id)).copies) await checkAgain(runtime, c.id);
  expect((await wipeView(runtime, id)).reasons.map((x) => x.text).join(' ')).toContain(
    `1 file on South: SLW/Day 1/${id} does not hold the same bytes`,
  );
  await runtime.close();
  await open();
  expect(await told()).toHaveLength(1);
  await runtime.close();

  // The same where it is rebuilt from the older records; and a copy of a data folder somewhere is not the data folder.
  bringBack();
  away(true);
  const aside = path.join(r.shelf.dir, 'a copy of records');
  renameSync(path.join(home, 'records'), aside);
  const found = async () => (await findOwn(home, [aside])).found.map((x) => [x.files.length, x.latest]);
  expect(await found()).toEqual([[2, true]]);
  rmSync(path.join(home, 'shelf/.sort-shelf'), { recursive: true });
  expect(await found()).toEqual([[1, false]]);
  renameSync(aside, path.join(home, 'records'));
  expect(await loseAndRebuild()).toMatchObject({ copiesCount: true });
  away(false);
  expect((await wipeView(runtime, id)).verdict).toBe('no');
  expect(await told()).toHaveLength(1);
}, 180_000);

test('records from before a column was added are as good: they are rebuilt from, and no database is called damaged for it', async () => {
  const id = r.card({ 'CLIP/T0001.MP4': 5000 });
  await r.copy(id);
  await wipeView(runtime, id);
  await runtime.close();
  for (const folder of [
    path.join(home, 'records'),
    path.join(home, 'shelf/.sort-shelf'),
    r.drive('North', '.sort-shelf'),
    r.drive('South', '.sort-shelf'),
  ]) {
    for (const n of readdirSync(folder).filter((x) => x.startsWith('records-'))) {
      const whole = readFileSync(path.join(folder, n), 'utf8');
      const before = whole.replace(/^\{.*"table".*"(?:jobs|physical_cards)".*$/gm, (line) => {
        const told = JSON.parse(line) as { rows?: Record<string, unknown>[] };
        return JSON.stringify({
          ...told,
          ...(told.rows && { rows: told.rows.map(({ disk: _, servers_apart: __, ...rest }) => rest) }),
        });
      });
      expect(before.length).toBeLessThan(whole.length - 40);
      writeFileSync(path.join(folder, n), before);
    }
  }
  writeFileSync(path.join(home, 'database-open'), 'another start of the system');
  await open();
  expect((await wipeView(runtime, id)).verdict).toBe('yes');
  await runtime.close();
  expect(await loseAndRebuild()).toMatchObject({ cards: 1, copies: 2, copiesCount: true });
  expect(await wipeView(runtime, id)).toMatchObject({ verdict: 'yes', serversApart: false });
}, 180_000);

test('a record that does not fit any more says by its name that it is behind, and is whole again once there is room', async () => {
  const id = r.card({ 'CLIP/T0001.MP4': 5000 });
  await r.copy(id);
  await runtime.keepNow();
  const names = () =>
    readdirSync(r.drive('North', '.sort-shelf'))
      .filter((n) => n !== 'place.json')
      .sort();
  const before = names();
  expect(before).toEqual([expect.stringMatching(/^records-[0-9a-f-]{36}\.jsonl$/)]);
  const told = (file: string) => readRecords(file).then((x) => x!.tables.get('jobs')![0]!.name);
  const handle = await open_(path.join(home, 'probe'), 'w');
  const kind = Object.getPrototypeOf(handle) as FileHandle;
  await handle.close();
  // What is written to North goes as a full drive takes it: half a line, then no more.
  const full = jest.spyOn(kind, 'appendFile').mockImplementation(async function (this: FileHandle, text) {
    const north = readlinkSync(`/proc/self/fd/${this.fd}`).startsWith(r.drive('North'));
    await this.write(String(text).slice(0, north ? 20 : undefined));
    if (north) throw Object.assign(new Error('ENOSPC: no space left on device, write'), { code: 'ENOSPC' });
  });
  try {
    await runtime.db.execute(sql`update jobs set name = 'Slack Water II'`);
    await runtime.keepNow();
    expect(names()).toEqual([before[0]!.replace('.jsonl', '.behind.jsonl')]);
    // Nor does a whole one fit; what there is stays.
    await runtime.db.execute(sql`update jobs set name = 'Slack Water III'`);
    await runtime.keepNow();
    expect(names()).toEqual([before[0]!.replace('.jsonl', '.behind.jsonl')]);
    // While the drive is full: as soon as there is room, the record may be written again.
    expect(await told(r.drive('North', '.sort-shelf', names()[0]!))).toBe('Slack Water');
    expect(await told(r.drive('South', '.sort-shelf', before[0]!))).toBe('Slack Water III');
  } finally {
    full.mockRestore();
  }
  expect(
    (await runtime.db.execute<{ text: string }>(sql`select text from log where text like 'The record %'`))
      .rows,
  ).toEqual([{ text: expect.stringContaining('beside North: the volume is full (ENOSPC)') }]);
  await runtime.db.execute(sql`update jobs set name = 'Slack Water IV'`);
  await runtime.keepNow();
  expect(names()).toEqual(before);
  expect(await told(r.drive('North', '.sort-shelf', before[0]!))).toBe('Slack Water IV');
}, 180_000);

describe('records that are not whole', () => {
  test('a torn end does not count; a damaged middle is said and its file left out; nonsense is refused and changes nothing', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000 });
    await r.copy(id);
    await runtime.close();
    const [name] = readdirSync(path.join(home, 'records'));
    const [own, shelf] = [path.join(home, 'records', name!), path.join(home, 'shelf/.sort-shelf', name!)];
    const whole = readFileSync(own, 'utf8');
    appendFileSync(own, '{"table":"cards","gone":[["B001"]]}\n{"table":"ca');
    expect((await readRecords(own))!.tables.get('cards')).toHaveLength(1);
    writeFileSync(own, whole.replace('"table"', '"tab'));
    const { found, faults } = await findOwn(home);
    expect(faults).toEqual([expect.stringMatching(/records-.*\.jsonl: line 2 cannot be read/)]);
    expect(found[0]!.files).not.toContain(own);
    expect(found[0]!.files).toContain(shelf);
    const nonsense = structuredClone(found[0]!);
    nonsense.newest.tables.get('cards')![0]!.day = 'Tuesday';
    rmSync(path.join(home, 'database'), { recursive: true });
    await open({ restore: 'empty' });
    await expect(rebuild(runtime, nonsense)).rejects.toMatchObject({
      message: expect.stringContaining('The records cannot be taken'),
      about: { next: expect.stringContaining('Nothing was changed') },
    });
    expect((await everything()).cards).toEqual([]);
    const elsewhere = structuredClone(found[0]!);
    elsewhere.newest.tables.get('roots')!.find((x) => x.kind === 'source')!.path = '../../etc';
    await expect(rebuild(runtime, elsewhere)).rejects.toThrow('no absolute path');
    await rebuild(runtime, found[0]!);
    expect((await everything()).cards).toHaveLength(1);
    await expect(rebuild(runtime, found[0]!)).rejects.toThrow('A job has been begun here already.');
  }, 180_000);
});
