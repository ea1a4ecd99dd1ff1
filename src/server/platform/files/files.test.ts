import { afterAll, afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { execa } from 'execa';
import { execFileSync } from 'node:child_process';
import {
  close,
  closeSync,
  constants,
  linkSync,
  mkdirSync,
  mkdtempSync,
  open,
  openSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { copyVerified, removeCopy } from '../../transfer/copyOne';
import { endThreads } from '../../transfer/pool';
import { Unreadable } from '../errors';
import { inWords, unreadInWords, unreadWhy } from './faults';
import { createFile, layer, makeFolder } from './fileSystem';
import { hashFile } from './hash';
import { Journal } from './journal';
import {
  checkUnchanged,
  dropHalf,
  modifiedOf,
  type Move,
  moveFile,
  moveFiles,
  pruneEmpty,
  settleMove,
} from './move';
import { hiddenName, partName } from './partName';
import { resolveIn } from './paths';
import { openToAppend } from './plainFile';
import { listFolder, walk, walkLimits, walkWhole } from './walk';

let dir: string;
beforeEach(() => {
  dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-files-')));
});
afterEach(() => rmSync(dir, { recursive: true, force: true }));
afterAll(endThreads);
const at = (...p: string[]) => path.join(dir, ...p);
const put = (p: string, text = p) => {
  mkdirSync(path.dirname(at(p)), { recursive: true });
  writeFileSync(at(p), text);
  return at(p);
};

describe('writing at the end of a file', () => {
  const journal = () => new Journal(at('shelf'));
  test('it is made, and goes on where it was', async () => {
    for (const n of [1, 2]) {
      const j = journal();
      j.write({ n });
      j.close();
    }
    const lines = readFileSync(at('shelf/.sort-shelf/journal.jsonl'), 'utf8').trim().split('\n');
    expect(lines.map((l) => (JSON.parse(l) as { n: number }).n)).toEqual([1, 2]);
    const handle = await openToAppend(at('records.jsonl'));
    await handle.appendFile('a line');
    await handle.close();
    expect(readFileSync(at('records.jsonl'), 'utf8')).toBe('a line');
  });

  test('a pipe in its place is not waited for, a link is not followed', async () => {
    put('outside.txt', 'mine');
    mkdirSync(at('shelf/.sort-shelf'), { recursive: true });
    const places = [at('records.jsonl'), at('shelf/.sort-shelf/journal.jsonl')] as const;
    for (const place of places) execFileSync('mkfifo', [place]);
    await expect(openToAppend(places[0])).rejects.toThrow('records.jsonl is not a regular file.');
    expect(journal).toThrow('journal.jsonl is not a regular file.');
    // One that somebody reads from opens at once, and is none the less no file.
    const readers = places.map((p) => openSync(p, constants.O_RDONLY | constants.O_NONBLOCK));
    await expect(openToAppend(places[0])).rejects.toThrow('records.jsonl is not a regular file.');
    expect(journal).toThrow('journal.jsonl is not a regular file.');
    readers.forEach(closeSync);
    for (const place of places) {
      rmSync(place);
      symlinkSync(at('outside.txt'), place);
    }
    await expect(openToAppend(places[0])).rejects.toThrow('records.jsonl is a link.');
    expect(journal).toThrow('journal.jsonl is a link.');
    expect(readFileSync(at('outside.txt'), 'utf8')).toBe('mine');
  });
});

describe('writing where a folder on the path is a link', () => {
  beforeEach(() => {
    mkdirSync(at('root'));
    mkdirSync(at('outside'));
    symlinkSync(at('outside'), at('root/CLIP'));
  });

  test('neither a file nor a folder is made through it', async () => {
    expect(() => createFile(at('root/CLIP/a.mov'))).toThrow(
      'a.mov has moved, or its path leads through a link.',
    );
    for (const folder of ['root/CLIP', 'root/CLIP/sub', 'root/CLIP/sub/deep'])
      await expect(makeFolder(at(folder))).rejects.toMatchObject({ title: 'Refused' });
    expect(readdirSync(at('outside'))).toEqual([]);
  });

  test('a copy into it is refused, the others of its batch are made', async () => {
    put('card/CLIP/a.mov');
    put('card/b.mov');
    await expect(
      copyVerified(at('card/CLIP/a.mov'), at('root/CLIP/a.mov'), await modifiedOf(at('card/CLIP/a.mov'))),
    ).rejects.toThrow(/link/);
    await copyVerified(at('card/b.mov'), at('root/b.mov'), await modifiedOf(at('card/b.mov')));
    expect(readdirSync(at('outside'))).toEqual([]);
    expect(readFileSync(at('root/b.mov'), 'utf8')).toBe('card/b.mov');
  });
});

describe('resolveIn', () => {
  const root = () => ({ id: 'r', name: 'Root', path: at('root') });
  beforeEach(() => {
    put('root/a/b.mov');
    put('outside/secret.mov');
  });

  test('finds what is inside, also what is not there yet', async () => {
    expect(await resolveIn(root(), 'a/b.mov')).toBe(at('root/a/b.mov'));
    expect(await resolveIn(root(), '')).toBe(at('root'));
    expect(await resolveIn(root(), 'new/deep/x.mov')).toBe(at('root/new/deep/x.mov'));
  });

  test.each(['../outside/secret.mov', 'a/../../outside', '/etc/passwd', 'a/\0b', '..'])(
    '%j is refused',
    async (p) => {
      await expect(resolveIn(root(), p)).rejects.toMatchObject({ title: 'Refused' });
    },
  );

  test('a root that has become a link, or stands below one, is refused: what it leads to was never chosen', async () => {
    symlinkSync(at('outside'), at('link'));
    await expect(resolveIn({ id: 'r', name: 'Root', path: at('link') }, 'secret.mov')).rejects.toMatchObject({
      title: 'Refused',
      message: expect.stringContaining('has become a link') as unknown,
    });
    put('outside/inner/x.mov');
    await expect(resolveIn({ id: 'r', name: 'Root', path: at('link/inner') }, 'x.mov')).rejects.toMatchObject(
      { title: 'Refused' },
    );
  });

  test('links in a circle are refused', async () => {
    symlinkSync(at('root/two'), at('root/one'));
    symlinkSync(at('root/one'), at('root/two'));
    await expect(resolveIn(root(), 'one/x.mov')).rejects.toMatchObject({ title: 'Refused' });
  });

  test('links that lead out are refused, at the end, on the way, and before their target exists', async () => {
    symlinkSync(at('outside'), at('root/way'));
    symlinkSync(at('outside/secret.mov'), at('root/end.mov'));
    symlinkSync(at('outside/later.mov'), at('root/later.mov'));
    for (const p of ['way/secret.mov', 'way/new.mov', 'end.mov', 'later.mov'])
      await expect(resolveIn(root(), p)).rejects.toMatchObject({ title: 'Refused' });
  });

  test('a root that vanished is said', async () => {
    await expect(resolveIn({ id: 'r', name: 'Gone', path: at('gone') }, 'x')).rejects.toMatchObject({
      title: 'Not found',
    });
  });
});

describe('moveFile', () => {
  test('moves, and refuses to replace', async () => {
    const from = put('a.mov', 'footage');
    await moveFile(from, at('deep/b.mov'), await modifiedOf(from));
    expect(readFileSync(at('deep/b.mov'), 'utf8')).toBe('footage');
    const other = put('c.mov', 'other');
    await expect(moveFile(other, at('deep/b.mov'), await modifiedOf(other))).rejects.toMatchObject({
      title: 'Clash',
      about: { file: at('deep/b.mov') },
    });
    expect(readFileSync(at('deep/b.mov'), 'utf8')).toBe('footage');
    expect(readFileSync(other, 'utf8')).toBe('other');
  });

  test('leaves a file alone that changed, vanished or became a link', async () => {
    const from = put('a.mov', 'footage');
    const was = await modifiedOf(from);
    put('a.mov', 'longer footage');
    await expect(moveFile(from, at('b.mov'), was)).rejects.toMatchObject({ title: 'Clash' });
    await expect(moveFile(at('none.mov'), at('b.mov'), was)).rejects.toMatchObject({ title: 'Not found' });
    symlinkSync(from, at('l.mov'));
    await expect(moveFile(at('l.mov'), at('b.mov'), was)).rejects.toMatchObject({ title: 'Refused' });
    expect(readdirSync(dir).sort()).toEqual(['a.mov', 'l.mov']);
  });

  /** Moves a file alone and one in a batch, while `meanwhile` does something to the old name once there is a new one. */
  const movedWhile = async (meanwhile: (from: string) => void): Promise<Move[]> => {
    const moves: Move[] = [];
    for (const name of ['a.mov', 'b.mov']) {
      const from = put(name, 'footage');
      moves.push({ from, to: at(`to ${name}`), ...(await modifiedOf(from)) });
    }
    layer.tell = (op) => {
      if (op.op === 'link') meanwhile(op.from);
    };
    await moveFile(moves[0]!.from, moves[0]!.to, moves[0]!);
    await moveFiles(moves.slice(1));
    layer.tell = null;
    expect(moves.map((m) => m.fault)).toEqual([undefined, undefined]);
    return moves;
  };

  test('another file that is put under the old name while it is moved is left there', async () => {
    const moves = await movedWhile((from) => {
      rmSync(from);
      put(path.basename(from), 'somebody else');
    });
    for (const { from, to } of moves)
      expect([from, to].map((f) => readFileSync(f, 'utf8'))).toEqual(['somebody else', 'footage']);
  });

  test('a new name that somebody removes meanwhile: the old one stays, and it is said', async () => {
    const from = put('a.mov', 'footage');
    const move: Move = { from, to: at('to a.mov'), ...(await modifiedOf(from)) };
    layer.tell = (op) => {
      if (op.op === 'link') rmSync(op.to);
    };
    await expect(moveFile(from, move.to, move)).rejects.toMatchObject({ title: 'Clash' });
    await moveFiles([move]);
    layer.tell = null;
    expect(move.fault).toMatchObject({ title: 'Clash' });
    expect(readFileSync(from, 'utf8')).toBe('footage');
  });

  test('an old name that somebody removes meanwhile: the new one, its only name by then, stays', async () => {
    for (const { to } of await movedWhile((from) => rmSync(from)))
      expect(readFileSync(to, 'utf8')).toBe('footage');
  });

  test('a place-holder that cannot be removed keeps the note that it is ours', async () => {
    const from = put('a.mov', 'footage');
    const was = await modifiedOf(from);
    const to = at('b.mov');
    layer.refuseLinks = true;
    layer.ask = (op) => {
      if (op.op === 'rename' || (op.op === 'remove' && op.file === to))
        throw Object.assign(new Error('EIO: i/o error'), { code: 'EIO' });
    };
    await expect(moveFile(from, to, was)).rejects.toThrow('EIO');
    Object.assign(layer, { ask: null, refuseLinks: false });
    expect(await settleMove(from, to, was)).toBe('half');
    await dropHalf(to);
    expect(readdirSync(dir)).toEqual(['a.mov']);
  });

  test('an interrupted move is told from the disk alone', async () => {
    const from = put('a.mov', 'footage');
    const was = await modifiedOf(from);
    const to = at('b.mov');
    expect(await settleMove(from, to, was)).toBe('notBegun');
    linkSync(from, to);
    expect(await settleMove(from, to, was)).toBe('half');
    await dropHalf(to);
    // An empty file is somebody's, unless the note beside it says that it is a place-holder.
    writeFileSync(to, '');
    expect(await settleMove(from, to, was)).toBe('foreign');
    writeFileSync(hiddenName(to, 'claim'), '');
    expect(await settleMove(from, to, was)).toBe('half');
    await dropHalf(to);
    expect(readdirSync(dir)).toEqual(['a.mov']);
    writeFileSync(to, 'someone else');
    expect(await settleMove(from, to, was)).toBe('foreign');
    rmSync(from);
    expect(await settleMove(from, to, was)).toBe('foreign');
    writeFileSync(to, 'footage');
    expect(await settleMove(from, to, was)).toBe('foreign');
    utimesSync(to, was.modified / 1000, was.modified / 1000);
    expect(await settleMove(from, to, was)).toBe('done');
    rmSync(to);
    expect(await settleMove(from, to, was)).toBe('lost');
  });

  test.each(['522499894', '389499864'])(
    'a file whose time is %s ns past a second is known by the same milliseconds as it was read with',
    async (nanoseconds) => {
      // Half a millisecond, but for less than a number of nanoseconds since 1970 can hold.
      const from = put('a.mov', 'footage');
      execFileSync('touch', ['-d', `@1796000000.${nanoseconds}`, from]);
      const was = await modifiedOf(from);
      const to = at('b.mov');
      expect(await settleMove(from, to, was)).toBe('notBegun');
      linkSync(from, to);
      expect(await settleMove(from, to, was)).toBe('half');
      rmSync(from);
      expect(await settleMove(from, to, was)).toBe('done');
    },
  );

  test('what another server is about to name, or copies to the same place, is left to it', async () => {
    const to = at('b.mov');
    const elsewhere = <T>(work: () => T): T => {
      const home = process.env.SORT_SHELF_HOME;
      process.env.SORT_SHELF_HOME = '/somewhere else';
      const result = work();
      if (home === undefined) delete process.env.SORT_SHELF_HOME;
      else process.env.SORT_SHELF_HOME = home;
      return result;
    };
    const [claim, part] = elsewhere(() => [hiddenName(to, 'claim'), partName(to)]);
    const from = put('a.mov', 'footage');
    // It copies there as well: its part stays as it is.
    writeFileSync(part, 'half of anoth');
    await copyVerified(from, to, await modifiedOf(from));
    expect([readFileSync(part, 'utf8'), readFileSync(to, 'utf8')]).toEqual(['half of anoth', 'footage']);
    // On a volume without links it has taken the name, and is about to put its file there.
    writeFileSync(to, '');
    writeFileSync(claim, '');
    layer.refuseLinks = true;
    const moved = moveFile(from, to, await modifiedOf(from));
    await expect(moved).rejects.toMatchObject({ title: 'Clash' });
    layer.refuseLinks = false;
    expect([from, to].map((f) => readFileSync(f, 'utf8'))).toEqual(['footage', '']);
    expect(readdirSync(dir)).toContain(path.basename(claim));
  });

  test('empty folders go, up to the root and no further', async () => {
    put('root/a/b/x.mov');
    put('root/a/keep.txt');
    rmSync(at('root/a/b/x.mov'));
    mkdirSync(at('root/a/b/c'));
    mkdirSync(at('root/d/e/f'), { recursive: true });
    await pruneEmpty(at('root/d/e/f'), at('root'), new Set([at('root/d/e')]));
    expect(readdirSync(at('root/d/e'))).toEqual([]);
    await pruneEmpty(at('root/d/e'), at('root'), new Set());
    await pruneEmpty(at('root/a/b/c'), at('root'), new Set());
    expect(readdirSync(at('root/a'))).toEqual(['keep.txt']);
    rmSync(at('root/a/keep.txt'));
    await pruneEmpty(at('root/a'), at('root'), new Set());
    expect(readdirSync(at('root'))).toEqual([]);
  });
});

describe('copies', () => {
  test('are the same bytes with the same time, and the hash is the one xxhsum prints', async () => {
    const from = put('a.mov', 'x'.repeat(5_000_000));
    const hash = await copyVerified(from, at('new/b.mov'), await modifiedOf(from));
    expect(readFileSync(at('new/b.mov')).equals(readFileSync(from))).toBe(true);
    expect(Math.round((await stat(at('new/b.mov'))).mtimeMs)).toBe((await modifiedOf(from)).modified);
    // xxhsum (Debian's xxhash), the reference program of XXH3; -H2 is XXH3-128.
    expect(execFileSync('xxhsum', ['-H2', from], { encoding: 'utf8' }).split(' ')[0]).toBe(hash);
    expect(readdirSync(at('new'))).toEqual(['b.mov']);
  });

  test('XXH3-128 of no bytes is the published value', async () => {
    expect(await hashFile(put('empty', ''))).toBe('99aa06d3014798d86001c324468d497f');
  });

  test('never replace, and leave nothing behind', async () => {
    const from = put('a.mov', 'one');
    put('b.mov', 'two');
    await expect(copyVerified(from, at('b.mov'), await modifiedOf(from))).rejects.toMatchObject({
      title: 'Clash',
    });
    expect(readFileSync(at('b.mov'), 'utf8')).toBe('two');
    expect(readdirSync(dir).sort()).toEqual(['a.mov', 'b.mov']);
  });

  test('go only while their source holds the same bytes', async () => {
    const from = put('a.mov', 'one');
    const was = await modifiedOf(from);
    await copyVerified(from, at('b.mov'), was);
    rmSync(from);
    await expect(removeCopy(at('b.mov'), from, was)).rejects.toMatchObject({ title: 'Not found' });
    expect(readFileSync(at('b.mov'), 'utf8')).toBe('one');
    await copyVerified(at('b.mov'), from, was);
    await removeCopy(at('b.mov'), from, was);
    expect(readdirSync(dir)).toEqual(['a.mov']);
  });
});

test('a path longer than the system can hold is listed as what cannot be read, and the rest is found', async () => {
  put('card/a.mov');
  // Each step is made from the folder before: no call is given the whole path.
  execFileSync('perl', [
    '-e',
    'chdir $ARGV[0]; for (1..40) { mkdir "d" x 200; chdir "d" x 200 or die } open(F, ">x.mov")',
    at('card'),
  ]);
  const { entries, whole } = await walkWhole(at('card'));
  expect(whole).toBe(true);
  expect(entries.filter((e) => e.kind === 'file').map((e) => e.path)).toEqual(['a.mov']);
  expect(entries.filter((e) => e.kind === 'other').map((e) => e.fault)).toEqual([
    'its path is longer than the system can hold',
  ]);
  execFileSync('rm', ['-rf', at('card')]);
});

/** Holds the threads by which files are looked at, behind what is asked of them already; answers how to let go of them. */
function holdThreads(): () => Promise<void> {
  const threads = Number(process.env.UV_THREADPOOL_SIZE ?? 4);
  const held = Array.from(
    { length: threads },
    () => new Promise<void>((done) => open(at('pipe'), 'r', (_, fd) => close(fd, () => done()))),
  );
  return async () => {
    const writer = openSync(at('pipe'), 'r+');
    await Promise.all(held);
    closeSync(writer);
  };
}

test('a folder that is taken away while its files are looked at is one that cannot be read, not one with fewer files', async () => {
  for (let n = 0; n < 100; n++) put(`card/CLIP/${n}.mov`);
  execFileSync('mkfifo', [at('pipe')]);
  /** Lists a folder; `between` happens after its names are known, before any of them is looked at. */
  const listed = async (folder: string, between: () => void) => {
    const listing = listFolder(at('card'), folder);
    const letGo = holdThreads();
    while (process.getActiveResourcesInfo().filter((r) => r === 'FSReqPromise').length < 2)
      await new Promise(setImmediate);
    between();
    await letGo();
    return listing;
  };
  const gone = await listed('CLIP', () => renameSync(at('card/CLIP'), at('card/pulled')));
  expect(gone.entries).toEqual([
    { path: 'CLIP', kind: 'other', size: 0, modified: 0, fault: 'this folder cannot be read' },
  ]);
  // One file that goes is gone; the others are there.
  const again = await listed('pulled', () => rmSync(at('card/pulled/99.mov')));
  expect(again.entries).toHaveLength(99);
});

test('walk lists links and odd names, and follows nothing', async () => {
  put('card/-dash.mov');
  put('card/two\nlines.mov');
  put('outside/x.mov');
  symlinkSync(at('outside'), at('card/link'));
  const { entries, whole } = await walk(at('card'));
  expect(entries.map((e) => [e.path, e.kind])).toEqual([
    ['-dash.mov', 'file'],
    ['link', 'link'],
    ['two\nlines.mov', 'file'],
  ]);
  expect(whole).toBe(true);
  expect((await walk(dir, 2)).whole).toBe(false);
  const before = walkLimits.entries;
  walkLimits.entries = 2;
  try {
    await expect(walkWhole(dir)).rejects.toThrow('This folder holds more than 2 files and folders.');
  } finally {
    walkLimits.entries = before;
  }
});

test.each([
  ['ENOENT', 'A.mov is no longer there'],
  ['EACCES', 'A.mov cannot be read: this user may not read it (EACCES)'],
  ['EIO', 'A.mov cannot be read: the volume gave an error (EIO)'],
  ['EWHAT', 'A.mov cannot be read: EWHAT: what, open'],
])(
  'a file that the system does not let read (%s) is said without the system’s own words where there are others',
  (code, words) => {
    const fault = Object.assign(new Error(`${code}: what, open`), { code, syscall: 'open' });
    expect(unreadInWords('A.mov', fault)).toBe(words);
  },
);

test.each([
  ['ENOENT', 'it or its folder is no longer there (ENOENT)'],
  ['EISDIR', 'a folder has the name of the file (EISDIR)'],
  ['ENOTDIR', 'a file has the name of the folder (ENOTDIR)'],
])('what cannot be written is said so, too (%s)', (code, words) =>
  expect(inWords(Object.assign(new Error(`${code}: what, open '/a/b'`), { code }))).toBe(words),
);

test('a program that cannot be run is not taken for the file that it was to read', async () => {
  const fault: unknown = await execa('no-such-program', ['A.mov']).catch((e: unknown) => e);
  expect(fault).toMatchObject({ code: 'ENOENT' });
  expect(unreadInWords('A.mov', fault)).toMatch(/^A\.mov cannot be read: .*no-such-program/);
  for (const words of [inWords(fault), unreadWhy(fault)]) expect(words).not.toContain('no longer there');
});

test('what a reader itself says of a file is said as it is', () =>
  expect(unreadInWords('A.mov', new Unreadable('A.mov has no picture'))).toBe('A.mov has no picture'));

test('what cannot be looked at is not said to be gone', async () => {
  await expect(checkUnchanged(path.join(dir, 'none.mov'), { size: 1, modified: 1 })).rejects.toThrow(
    'none.mov is no longer there.',
  );
  await expect(
    checkUnchanged(path.join(dir, 'a'.repeat(300)), { size: 1, modified: 1 }),
  ).rejects.toMatchObject({ code: 'ENAMETOOLONG' });
});
