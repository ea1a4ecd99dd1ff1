import { afterAll, beforeAll, expect, test } from '@jest/globals';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { folderOf } from '../../core/platform/names';
import { randomFrom } from '../../core/platform/random';
import { listenTo } from '../platform/files/onDisk';
import { walkWhole, type Walked } from '../platform/files/walk';
import { Listening } from './listening';
import { Listing } from './listing';

let dir: string;
beforeAll(() => {
  dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-listing-')));
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));

const sorted = ({ entries, empty }: Walked) => ({
  entries: [...entries].sort((a, b) => (a.path < b.path ? -1 : 1)),
  empty: [...empty].sort(),
});
const foldersIn = (top: string): string[] => [
  '',
  ...(readdirSync(top, { recursive: true }) as string[]).filter((p) =>
    statSync(path.join(top, p)).isDirectory(),
  ),
];

/** Changes something in a tree; returns the folders that the system tells of. */
function mutate(top: string, of: (n: number) => number): string[] {
  const folders = foldersIn(top);
  const at = folders[of(folders.length)]!;
  const names = readdirSync(path.join(top, at));
  const some = names[of(names.length)];
  const fresh = `n${of(1000)}`;
  const kind = of(6);
  if (kind === 0) mkdirSync(path.join(top, at, fresh, 'deep', 'er'), { recursive: true });
  else if (kind === 1 || some === undefined)
    writeFileSync(path.join(top, at, `${fresh}.mov`), 'x'.repeat(of(50)));
  else if (kind === 2) rmSync(path.join(top, at, some), { recursive: true });
  else if (kind === 3) {
    const isFolder = statSync(path.join(top, at, some)).isDirectory();
    if (!isFolder) writeFileSync(path.join(top, at, some), 'y'.repeat(of(90)));
    else {
      // A folder gives way to another of its name: those in it tell of it, too.
      const gone = foldersIn(path.join(top, at, some)).map((f) => path.join(at, some, f).replace(/\/$/, ''));
      rmSync(path.join(top, at, some), { recursive: true });
      mkdirSync(path.join(top, at, some));
      writeFileSync(path.join(top, at, some, 'other.mov'), 'z');
      return [at, ...gone];
    }
  } else {
    const into = folders.filter((f) => !`${f}/`.startsWith(`${path.join(at, some)}/`));
    const to = into[of(into.length)]!;
    if (!existsSync(path.join(top, to, fresh)))
      renameSync(path.join(top, at, some), path.join(top, to, fresh));
    return [at, to];
  }
  return [at];
}

test('300 random changes: listing what changed finds what a walk over all of it finds', async () => {
  const random = randomFrom(7);
  const of = (n: number) => Math.floor(random() * Math.max(1, n));
  const top = path.join(dir, 'random');
  mkdirSync(top);
  const listing = new Listing();
  await listing.look(top, null);
  for (let i = 0; i < 300; i++) {
    const told = new Set<string>();
    for (let n = 0; n <= of(3); n++) for (const f of mutate(top, of)) told.add(f);
    const before = new Map(listing.walked().entries.map((e) => [e.path, e]));
    const touched = await listing.look(top, told);
    const { entries } = listing.walked();
    expect(sorted(listing.walked())).toEqual(sorted(await walkWhole(top)));
    expect(listing.size).toBe(entries.length);
    for (const e of entries) expect(listing.at(e.path)).toBe(e);
    // Of a folder that is not among those it names nothing is another.
    const now = new Map(entries.map((e) => [e.path, e]));
    for (const p of new Set([...before.keys(), ...now.keys()]))
      if (!touched.has(folderOf(p))) expect({ of: p, is: now.get(p) }).toEqual({ of: p, is: before.get(p) });
  }
  await listing.look(top, null);
  expect(sorted(listing.walked())).toEqual(sorted(await walkWhole(top)));
}, 60_000);

test('a round comes by every folder once, some entries at a time, before the next begins', async () => {
  const top = path.join(dir, 'round');
  const folders = Array.from({ length: 10 }, (_, i) => `f${i}`);
  for (const f of folders) {
    mkdirSync(path.join(top, f), { recursive: true });
    for (let i = 0; i < 5; i++) writeFileSync(path.join(top, f, `${i}.mov`), 'x');
  }
  const listing = new Listing();
  await listing.look(top, null);
  for (let n = 0; n < 2; n++) {
    const visited: string[] = [];
    while (visited.length < 11) {
      const some = listing.nextOfRound(12);
      expect(some.length).toBeLessThanOrEqual(3);
      visited.push(...some);
    }
    expect(visited.sort()).toEqual(['', ...folders]);
  }
});

test('of a folder that is not named nothing new is seen; one that is gone as a whole is told by the system', async () => {
  const top = path.join(dir, 'named');
  mkdirSync(path.join(top, 'a', 'b'), { recursive: true });
  const listing = new Listing();
  await listing.look(top, null);
  writeFileSync(path.join(top, 'a', 'b', 'x.mov'), 'x');
  await listing.look(top, new Set(['']));
  expect(listing.walked().entries).toEqual([]);
  await listing.look(top, new Set(['a/b']));
  expect(listing.walked().entries.map((e) => e.path)).toEqual(['a/b/x.mov']);
  rmSync(top, { recursive: true });
  await expect(listing.look(top, new Set(['']))).rejects.toMatchObject({ code: 'ENOENT' });
});

test('what happens in a folder that took the place of another of its name is heard', async () => {
  const top = path.join(dir, 'heard');
  mkdirSync(path.join(top, 'in'), { recursive: true });
  const heard: string[] = [];
  const listening = new Listening(top, (folder) => heard.push(folder));
  expect(listening.listenTo(['', 'in'])).toEqual(['', 'in']);
  const after = async (work: () => void, folder: string) => {
    heard.length = 0;
    work();
    for (let i = 0; i < 100 && !heard.includes(folder); i++) await new Promise((r) => setTimeout(r, 20));
    return heard;
  };
  expect(await after(() => writeFileSync(path.join(top, 'in', 'a.mov'), 'x'), 'in')).toContain('in');
  expect(
    await after(() => {
      renameSync(path.join(top, 'in'), path.join(top, 'was'));
      mkdirSync(path.join(top, 'in'));
    }, 'in'),
  ).toContain('in');
  expect(listening.listenTo(['', 'in', 'was']).sort()).toEqual(['in', 'was']);
  expect(await after(() => writeFileSync(path.join(top, 'in', 'b.mov'), 'x'), 'in')).toContain('in');
  listening.end();
});

test('where the system takes no more listeners, all of it is looked at again and again, and that is said', () => {
  const top = path.join(dir, 'limit');
  for (const f of ['a', 'b', 'c']) mkdirSync(path.join(top, f), { recursive: true });
  let [open, closed] = [0, 0];
  const listening = new Listening(
    top,
    () => undefined,
    (...of) => {
      if (++open === 3) throw Object.assign(new Error('no space left on device'), { code: 'ENOSPC' });
      const listener = listenTo(...of);
      listener.on('close', () => closed++);
      return listener;
    },
  );
  expect(listening.by).toBe('events');
  expect(listening.listenTo(['', 'a', 'b', 'c'])).toEqual(['', 'a']);
  expect({ by: listening.by, why: listening.why }).toEqual({
    by: 'polling',
    why: expect.stringContaining('limit of watched folders is reached'),
  });
  // None is asked for any more.
  expect(listening.listenTo(['', 'a', 'b', 'c'])).toEqual([]);
  expect(open).toBe(3);
  return new Promise<void>((r) => setTimeout(r, 50)).then(() => expect(closed).toBe(2));
});
