import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { mkdirSync, readdirSync, readFileSync, realpathSync, renameSync, symlinkSync } from 'node:fs';
import path from 'node:path';
import { makeClip, put, type TestShelf, testShelf, TEST_JOB } from '../testing/media';
import { browse } from '../intake/browse';
import { beginJob } from '../jobs/jobs';
import { look } from '../intake/look';
import { listRoots } from './list';
import { addRoot, removeRoot } from './roots';
import { takeIn } from '../intake/takeIn';

let s: TestShelf;
beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
});
afterAll(() => s.close());
const folder = (name: string): string => {
  mkdirSync(path.join(s.dir, name), { recursive: true });
  return realpathSync(path.join(s.dir, name));
};
const add = (at: string, kind: 'source' | 'safe' | 'shelf' = 'source') =>
  addRoot(s.runtime, { kind, path: at });

describe('folders that are no roots', () => {
  test.each(['/', '/etc', '/proc/self', '/usr/share', '/home', '/tmp', '/dev'])(
    '%s is the system’s',
    async (at) => {
      for (const kind of ['source', 'safe', 'shelf'] as const)
        await expect(add(at, kind)).rejects.toMatchObject({
          title: 'Refused',
          about: { next: expect.stringContaining('Choose a folder that holds footage') },
        });
    },
  );
  test.each(['', 'cache', 'shelf/..', 'snapshots'])(
    '“%s” of the data folder is Sort Shelf’s own',
    async (inner) => {
      mkdirSync(path.join(s.runtime.home, inner), { recursive: true });
      await expect(add(path.join(s.runtime.home, inner), 'safe')).rejects.toThrow(
        /holds Sort Shelf’s own data, or is part of it/,
      );
    },
  );
  test('neither is a folder around it, the program itself, or a link to either', async () => {
    await expect(add(s.dir)).rejects.toThrow(/holds Sort Shelf’s own data/);
    await expect(add(process.cwd())).rejects.toThrow(/holds Sort Shelf itself/);
    symlinkSync(s.runtime.home, path.join(s.dir, 'to-home'));
    await expect(add(path.join(s.dir, 'to-home'))).rejects.toThrow(/holds Sort Shelf’s own data/);
  });
  test('a name that begins with two dots is a name', async () => {
    const { id } = await add(folder('outer/..d'));
    await expect(add(folder('outer'))).rejects.toThrow(/overlaps the place/);
    await removeRoot(s.runtime, id);
  });
});

describe('taking a root out of the list', () => {
  test('one that nothing was taken from goes; what is in it stays, and it can be added again', async () => {
    const at = folder('mistaken');
    put(path.join(at, 'a.txt'), 'here');
    const { id } = await add(at);
    await removeRoot(s.runtime, id);
    expect((await listRoots(s.runtime)).map((r) => r.id).sort()).toEqual(['handover', 'proxies', 'shelf']);
    expect(readFileSync(path.join(at, 'a.txt'), 'utf8')).toBe('here');
    await removeRoot(s.runtime, (await add(at)).id);
    await expect(removeRoot(s.runtime, id)).rejects.toMatchObject({ title: 'Not found' });
  });
  test.each(['shelf', 'proxies', 'handover'])('%s stays', async (id) => {
    await expect(removeRoot(s.runtime, id)).rejects.toMatchObject({ title: 'Refused' });
  });
  test('one that footage was taken from is in use, and that is said', async () => {
    const at = folder('used');
    makeClip(path.join(at, 'Card', 'T0001.MP4'), { audio: [] });
    const { id } = await add(at);
    const { cards } = await look(s.runtime, id, 'Card');
    await takeIn(s.runtime, {
      root: id,
      path: 'Card',
      cards: [{ folder: cards[0]!.folder, camera: 'B', cardId: 'B001', day: 1, date: null }],
    });
    await expect(removeRoot(s.runtime, id)).rejects.toMatchObject({
      title: 'Clash',
      message: '“used” is in use: card B001.',
    });
  });
});

test('a root whose folder has been replaced by a link is not followed', async () => {
  const at = folder('card');
  put(path.join(at, 'a.MP4'), 'x');
  const { id } = await add(at);
  renameSync(at, `${at}-away`);
  const secret = folder('secret');
  put(path.join(secret, 'b.MP4'), 'secret');
  symlinkSync(secret, at);
  await expect(browse(s.runtime, id, '')).rejects.toThrow(/has become a link/);
  await expect(look(s.runtime, id, '')).rejects.toThrow(/has become a link/);
  expect(readdirSync(secret)).toEqual(['b.MP4']);
});
