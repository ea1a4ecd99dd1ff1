import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { eq } from 'drizzle-orm';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { beginJob } from '../jobs';
import { log } from '../logbook/tables';
import type { Writer } from '../platform/db/transaction';
import { alone, closeGate } from '../platform/work/context';
import type { WorkContext } from '../platform/work/kinds';
import { work } from '../platform/work/tables';
import type { InJob } from '../runtime';
import { hashTree, put, TEST_JOB, testShelf, type TestShelf } from '../testing/media';
import { storeShelved } from '../testing/shelve';
import { listRoots } from './list';
import { markAt } from './marker';
import { settleMounts } from './mounts';
import { movePlace, planMove } from './moving';
import { addRoot } from './roots';

let s: TestShelf;
let from: string;
let id: string;
/** A folder on another volume: the tests' own is in memory. */
let other: string;

beforeEach(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  from = path.join(realpathSync(s.dir), 'films');
  for (const name of ['T1', 'T2', 'T3']) put(path.join(from, 'Card', `${name}.MP4`), `bytes of ${name}`);
  put(path.join(from, 'notes.txt'), 'mine');
  mkdirSync(path.join(from, 'Sound', 'Day 1'), { recursive: true });
  utimesSync(path.join(from, 'notes.txt'), 1_700_000_000, 1_700_000_000);
  ({ id } = await addRoot(s.runtime, { kind: 'shelf', path: from }));
  await storeShelved(s.runtime, 'Card', { root: id });
  other = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-moved-')));
  expect(statSync(other).dev).not.toBe(statSync(from).dev);
});
afterEach(async () => {
  restore();
  await s.close();
  rmSync(other, { recursive: true, force: true });
});

const empty = (...p: string[]): string => {
  const at = path.join(realpathSync(s.dir), ...p);
  mkdirSync(at, { recursive: true });
  return at;
};
const task = (gate = alone().gate): WorkContext => ({
  ...alone(),
  gate,
  stopped: () => Atomics.load(new Int32Array(gate), 1) !== 0,
  id: 'me',
  subject: id,
  wanted: null,
  attempt: 1,
  signal: new AbortController().signal,
});
const move = (to: string, context = task()) => movePlace(s.runtime, id, to, context);
/** Leaves so many bytes free on the other volume. */
const leave = (free: number): void => {
  const { devices } = s.runtime;
  const { volumeOf } = devices;
  devices.volumeOf = async (p) => {
    const v = await volumeOf.call(devices, p);
    return v && p === other ? { ...v, free } : v;
  };
  restore = () => {
    devices.volumeOf = volumeOf;
  };
};
let restore = (): void => undefined;
const root = async () => (await listRoots(s.runtime)).find((r) => r.id === id)!;
const said = async () =>
  (await s.runtime.db.select().from(log).where(eq(log.kind, 'root'))).map((l) => l.text);
const running = (state: 'running' | 'done') =>
  s.runtime.db
    .insert(work)
    .values({ id: 'another', job: TEST_JOB, kind: 'check', subject: '', state, queuedAt: new Date() })
    .onConflictDoUpdate({ target: work.id, set: { state } });

describe('on its volume', () => {
  test('the folder is renamed, with all that is in it', async () => {
    symlinkSync('notes.txt', path.join(from, 'link'));
    const [before, { mark }] = [hashTree(from), await root()];
    const to = empty('moved');
    expect(await planMove(s.runtime, id, to)).toMatchObject({ files: 4, sameVolume: true, against: [] });
    expect(await move(to)).toEqual({ to, left: null });
    expect(hashTree(to)).toEqual(before);
    expect(existsSync(path.join(to, 'Sound', 'Day 1'))).toBe(true);
    expect(existsSync(from)).toBe(false);
    expect(await root()).toMatchObject({ path: to, added: to, mark });
    expect(await settleMounts(s.runtime)).toBe(false);
    expect(await said()).toContainEqual(`Moved the place “films” from ${from} to ${to}`);
  });

  test('it waits for what runs, and goes where that has ended', async () => {
    await running('running');
    const to = empty('moved');
    const moving = move(to);
    await new Promise((r) => setTimeout(r, 700));
    expect([existsSync(path.join(from, 'notes.txt')), readdirSync(to)]).toEqual([true, []]);
    await running('done');
    await moving;
    expect((await root()).path).toBe(to);
  });

  test('what runs is not kept from its turn to move footage meanwhile', async () => {
    await running('running');
    const moving = move(empty('moved'));
    await new Promise((r) => setTimeout(r, 200));
    await s.runtime.exclusively(() => running('done').then(() => undefined));
    await moving;
    expect(existsSync(from)).toBe(false);
  });

  test('stopped while it waits, it is where it was', async () => {
    await running('running');
    const context = task();
    const moving = move(empty('moved'), context);
    closeGate(context.gate);
    await expect(moving).rejects.toThrow(/was stopped: the place is where it was/);
    expect((await root()).path).toBe(from);
    expect(existsSync(path.join(from, 'notes.txt'))).toBe(true);
  });

  test('a folder that comes to hold something is not replaced', async () => {
    await running('running');
    const to = empty('moved');
    const moving = move(to);
    await new Promise((r) => setTimeout(r, 200));
    writeFileSync(path.join(to, 'somebody’s.txt'), 'theirs');
    await running('done');
    await expect(moving).rejects.toThrow(/is in use by now/);
    expect((await root()).path).toBe(from);
    expect([readFileSync(path.join(to, 'somebody’s.txt'), 'utf8'), existsSync(from)]).toEqual([
      'theirs',
      true,
    ]);
  });

  test('the server that died after the renaming finds it there', async () => {
    const to = empty('moved');
    renameSync(from, to);
    await settleMounts(s.runtime);
    // A person who asks for it anew is told that the place is not here.
    await expect(move(to)).rejects.toThrow(/is not here/);
    expect(await said()).toContainEqual(
      expect.stringMatching(/^The place “films” was not moved to [^]*is not here/),
    );
    const again = { ...task(), attempt: 2 };
    const distrusted: string[] = [];
    const watched = Object.assign(Object.create(s.runtime) as InJob, {
      distrustCopies: (root: string, ...rest: [string | null, Writer?]) => {
        distrusted.push(root);
        return s.runtime.distrustCopies(root, ...rest);
      },
    });
    expect(await movePlace(watched, id, to, again)).toEqual({ to, left: null });
    // Known by its mark alone: what is in it proves nothing until it was read there.
    expect(distrusted).toEqual([id]);
    // It died once more, before that was noted of the work.
    expect(await movePlace(watched, id, to, again)).toEqual({ to, left: null });
    expect(distrusted).toEqual([id]);
    expect((await root()).path).toBe(to);
  });
});

describe('to another volume', () => {
  test('it is copied and compared, and what was there stays', async () => {
    const before = hashTree(from);
    const { mark } = await root();
    expect(await planMove(s.runtime, id, other)).toMatchObject({ files: 4, sameVolume: false, against: [] });
    expect(await move(other)).toEqual({ to: other, left: from });
    expect([hashTree(from), hashTree(other)]).toEqual([before, before]);
    expect(existsSync(path.join(other, 'Sound', 'Day 1'))).toBe(true);
    expect(statSync(path.join(other, 'notes.txt')).mtimeMs).toBe(1_700_000_000_000);
    const now = await root();
    expect(now).toMatchObject({ path: other, added: other });
    expect([await markAt(other), await markAt(from)]).toEqual([now.mark, mark]);
    expect(now.mark).not.toBe(mark);
    // Beside the records, where the runtime writes them, nothing is left.
    const own = readdirSync(path.join(other, '.sort-shelf')).filter((n) => !n.startsWith('records-'));
    expect(own).toEqual(['place.json']);
    expect(await settleMounts(s.runtime)).toBe(false);
  });

  test('what changes meanwhile is there as it is at the end', async () => {
    const card = (name: string) => path.join(from, 'Card', name);
    await running('running');
    const context = task();
    let told = false;
    context.progress = () => {
      if (told) return;
      told = true;
      // All are copied; the place is not there yet.
      renameSync(card('T1.MP4'), card('named.MP4'));
      writeFileSync(card('T2.MP4'), 'otherwise, and longer');
      rmSync(card('T3.MP4'));
      writeFileSync(card('T4.MP4'), 'came late');
      running('done').catch(() => undefined);
    };
    await move(other, context);
    expect(told).toBe(true);
    const there = hashTree(other);
    // Of what was removed meanwhile the copy may be the last.
    expect(there['Card/T3.MP4']).toBeDefined();
    delete there['Card/T3.MP4'];
    expect(there).toEqual(hashTree(from));
  });

  test('a drive that is taken away meanwhile is not a place that has nothing left to be copied', async () => {
    const context = task();
    const away = `${from} away`;
    context.progress = () => {
      if (existsSync(away)) return;
      // What is at its path is on another device, and empty.
      renameSync(from, away);
      symlinkSync(realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-pulled-'))), from);
    };
    await expect(move(other, context)).rejects.toMatchObject({ code: 'ENODEV' });
    expect((await root()).path).toBe(from);
    rmSync(realpathSync(from), { recursive: true });
    rmSync(from);
    renameSync(away, from);
    expect(await move(other)).toEqual({ to: other, left: from });
  });

  /** Moves it, and stops it when the first of many large files is there. */
  const stopInTheMiddle = async () => {
    for (let n = 0; n < 8; n++) put(path.join(from, `large ${n}`), Buffer.alloc(3 << 20, n));
    const context = task();
    context.progress = () => closeGate(context.gate);
    await expect(move(other, context)).rejects.toThrow(/was stopped: the place is where it was/);
    expect((await root()).path).toBe(from);
    const copied = Object.keys(hashTree(other));
    expect(copied.length).toBeGreaterThan(0);
    expect(copied.length).toBeLessThan(12);
    return copied;
  };

  test('stopped, it is where it was, and the same again goes on with what was copied', async () => {
    const copied = await stopInTheMiddle();
    const at = (name: string) => statSync(path.join(other, name)).ino;
    const before = copied.map(at);
    // Only what is missing needs room.
    const sizes = (names: readonly string[], of: string) =>
      names.reduce((n, name) => n + statSync(path.join(of, name)).size, 0);
    const missing = sizes(Object.keys(hashTree(from)), from) - sizes(copied, other);
    leave(missing + (4 << 20) + (64 << 10));
    await move(other);
    expect(copied.map(at)).toEqual(before);
    expect(hashTree(other)).toEqual(hashTree(from));
  });

  test('what an earlier try left that is another file now is left alone', async () => {
    const [name] = (await stopInTheMiddle()) as [string];
    writeFileSync(path.join(other, name), 'somebody’s');
    await expect(move(other)).rejects.toThrow(/is another file/);
    expect(readFileSync(path.join(other, name), 'utf8')).toBe('somebody’s');
    expect((await root()).path).toBe(from);
  });

  test('a link in it, or too little room, is said before anything is begun', async () => {
    symlinkSync('notes.txt', path.join(from, 'link'));
    leave(10);
    expect((await planMove(s.runtime, id, other)).against).toEqual([
      'It cannot be copied to another volume: link: a link.',
      expect.stringMatching(/^It takes 4\.2 MB; 10 B are free there\.$/),
    ]);
    await expect(move(other)).rejects.toThrow(/cannot be moved to .*link: a link/);
    expect(readdirSync(other)).toEqual([]);
  });
});

test('what cannot be moved, or not there', async () => {
  const reader = empty('reader');
  const source = await addRoot(s.runtime, { kind: 'source', path: reader });
  const refused = (root: string, to: string) => expect(planMove(s.runtime, root, to)).rejects;
  await refused('shelf', empty('to')).toThrow(/moves with the data folder/);
  await refused(source.id, empty('to')).toThrow(/is only read/);
  await refused(id, empty('films', 'inside')).toThrow(/lie in one another/);
  await refused(id, reader).toThrow(/is a place already/);
  await refused(id, path.join(s.dir, 'nowhere')).toThrow(/There is no folder/);
  const full = empty('full');
  writeFileSync(path.join(full, 'x'), 'x');
  expect((await planMove(s.runtime, id, full)).against).toEqual(['The folder is not empty.']);
  renameSync(from, `${from} away`);
  expect((await planMove(s.runtime, id, empty('to'))).against).toEqual(['“films” is not here.']);
  await expect(move(empty('to'))).rejects.toThrow(/is not here/);
});
