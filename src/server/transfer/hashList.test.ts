import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { HashKind } from '../../core/hashLists/hashes';
import { MHL_FOLDER, type MhlEntry } from '../../core/hashLists/mhl';
import { newHash, shortHashes } from '../platform/files/hash';
import { FAILS, withFailingChange } from '../testing/failingDisk';
import { put } from '../testing/media';
import { checkFolder } from './checkCopy';
import { ListedEntries } from './entries';
import { addGeneration, readForeignList, readLists } from './hashList';
import { addGeneration as inThread, endThreads } from './pool';

let dir: string;
beforeAll(() => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-lists-'));
});
afterAll(async () => {
  await endThreads();
  rmSync(dir, { recursive: true, force: true });
});

const XSD = path.join('src/server/transfer/hashList.xsd');
const hashOf = (kind: HashKind, text: string): string => {
  const h = newHash(kind);
  h.update(Buffer.from(text));
  return h.digest();
};
const pagesOf = (entries: readonly MhlEntry[]): string[] => {
  const listed = new ListedEntries();
  for (const e of entries) listed.add(e);
  return listed.pages();
};
/** A folder with files, and one generation that lists them. */
async function listed(
  name: string,
  files: Record<string, string>,
  kind: HashKind = 'xxh128',
): Promise<string> {
  const folder = path.join(dir, name);
  for (const [p, text] of Object.entries(files)) put(path.join(folder, p), text);
  await addGeneration(folder, {
    process: 'transfer',
    kind,
    version: '1',
    emptyFolders: ['empty'],
    entries: pagesOf(
      Object.entries(files).map(([p, text]) => ({
        path: p,
        size: Buffer.byteLength(text),
        modified: 1_770_000_000_000,
        kind,
        value: hashOf(kind, text),
        action: 'original',
      })),
    ),
  });
  return folder;
}
const lists = (folder: string): string[] =>
  readdirSync(path.join(folder, MHL_FOLDER))
    .filter((n) => n.endsWith('.mhl'))
    .sort();

describe('published values', () => {
  // xxHash specification (doc/xxhash_spec.md) and the sanity values of its reference program, from memory, confirmed by Debian's xxhsum below.
  test.each([
    ['xxh64', 'ef46db3751d8e999'],
    ['xxh3', '2d06800538d394c2'],
    ['xxh128', '99aa06d3014798d86001c324468d497f'],
    ['md5', 'd41d8cd98f00b204e9800998ecf8427e'],
    ['sha1', 'da39a3ee5e6b4b0d3255bfef95601890afd80709'],
  ] as [HashKind, string][])('%s of no bytes', (kind, value) => expect(hashOf(kind, '')).toBe(value));
  test.each([
    ['xxh64', ['xxhsum', '-H1']],
    ['xxh128', ['xxhsum', '-H2']],
    ['md5', ['md5sum']],
    ['sha1', ['sha1sum']],
  ] as [HashKind, string[]][])(
    '%s as its program gives it, over many lengths',
    (kind, [program, ...args]) => {
      const names: string[] = [];
      for (const size of [0, 1, 3, 4, 8, 9, 16, 17, 128, 129, 240, 241, 1024, 1025, 65_537])
        names.push(put(path.join(dir, 'sizes', String(size)), Buffer.alloc(size, `${size} bytes `)));
      const theirs = execFileSync(program!, [...args, ...names], { encoding: 'utf8' })
        .trim()
        .split('\n')
        .map((l) => l.split(/\s/)[0]);
      expect(
        names.map((n) => {
          const h = newHash(kind);
          h.update(readFileSync(n));
          return h.digest();
        }),
      ).toEqual(theirs);
    },
  );
});

test.each(HashKind.options)('%s of many short values by one state is what each by its own gives', (kind) => {
  const of = shortHashes(kind);
  const words = ['', 'a', 'T0001.MP4', 'x'.repeat(5000), 'a'];
  expect(words.map((w) => of([Buffer.from(w.slice(0, 3)), Buffer.from(w.slice(3))]))).toEqual(
    words.map((w) => hashOf(kind, w)),
  );
});

describe('a generation', () => {
  test.each(HashKind.options)(
    'with %s is valid by the schema, and reads back as it was written',
    async (kind) => {
      const files = {
        'CLIP/T0001.MP4': 'one',
        'CLIP/two & <three> "four".MP4': 'two',
        'é\u0301 🌊.txt': 'x',
        'a/b/c/deep.txt': '',
      };
      const folder = await listed(`kind ${kind}`, files, kind);
      const [name] = lists(folder);
      const check = spawnSync('xmllint', ['--noout', '--schema', XSD, path.join(folder, MHL_FOLDER, name!)], {
        encoding: 'utf8',
      });
      expect([check.status, check.stderr.replace(/^.* validates\n$/, '')]).toEqual([0, '']);
      const back = await readLists(folder);
      expect(back.faults).toEqual([]);
      expect(Object.fromEntries([...back.known].map(([p, f]) => [p, f.hashes[0]!.value]))).toEqual(
        Object.fromEntries(Object.entries(files).map(([p, text]) => [p, hashOf(kind, text)])),
      );
    },
  );

  test('the schema is no rubber stamp: it refuses another order, a wrong value, an unknown action', async () => {
    const folder = await listed('refused', { 'a.MP4': 'one' });
    const text = readFileSync(path.join(folder, MHL_FOLDER, lists(folder)[0]!), 'utf8');
    for (const [from, to] of [
      ['action="original"', 'action="maybe"'],
      [/>[0-9a-f]{32}</, '>xyz<'],
      ['<process>transfer</process>', ''],
      ['version="2.0"', 'version="1.0"'],
    ] as [string | RegExp, string][]) {
      const changed = text.replace(from, to);
      expect(changed).not.toBe(text);
      expect(spawnSync('xmllint', ['--noout', '--schema', XSD, '-'], { input: changed }).status).toBe(3);
    }
  });

  test('generations count up, the chain names each with its C4 ID, and one that was altered is not believed', async () => {
    const folder = await listed('chain', { 'a.MP4': 'one' });
    await addGeneration(folder, {
      process: 'in-place',
      kind: 'md5',
      version: '1',
      emptyFolders: [],
      entries: pagesOf([
        { path: 'a.MP4', size: 3, modified: 0, kind: 'md5', value: hashOf('md5', 'one'), action: 'verified' },
      ]),
    });
    const [first, second] = lists(folder);
    expect([first, second].map((n) => n!.slice(0, 10))).toEqual(['0001_chain', '0002_chain']);
    const both = await readLists(folder);
    expect(both.chain.map((l) => l.file)).toEqual([first, second]);
    expect(
      both.known
        .get('a.MP4')!
        .hashes.map((h) => h.kind)
        .sort(),
    ).toEqual(['md5', 'xxh128']);
    writeFileSync(
      path.join(folder, MHL_FOLDER, second!),
      readFileSync(path.join(folder, MHL_FOLDER, second!), 'utf8').replace('size="3"', 'size="4"'),
    );
    const altered = await readLists(folder);
    expect(altered.faults).toEqual([
      `${second} is not as the chain knows it: it was altered and is not believed`,
    ]);
    expect(altered.known.get('a.MP4')!.size).toBe(3);
    rmSync(path.join(folder, MHL_FOLDER, first!));
    expect((await readLists(folder)).faults.join(' ')).toContain(`names ${first}, which is not there`);
  });
});

describe('lists that came with a card, and names XML cannot hold', () => {
  const options = { gate: new SharedArrayBuffer(8), kind: 'xxh128' as const, progress: () => undefined };

  test('control characters in names become none other: each file is found in the list, and told from its neighbour', async () => {
    const folder = await listed('control', {
      'a\u0001.MP4': 'one',
      'a\u0002.MP4': 'two',
      'b\u001f\ufffe.MP4': 'three',
      'c\n.MP4': 'four',
    });
    expect(
      spawnSync('xmllint', ['--noout', '--schema', XSD, path.join(folder, MHL_FOLDER, lists(folder)[0]!)])
        .status,
    ).toBe(0);
    expect(await checkFolder(folder, options)).toMatchObject({
      same: 4,
      missing: [],
      added: [],
      changed: [],
      lists: [],
    });
    writeFileSync(path.join(folder, 'a\u0002.MP4'), 'TWO');
    expect(await checkFolder(folder, options)).toMatchObject({
      same: 3,
      changed: ['a\u0002.MP4'],
      missing: [],
    });
  });

  test('lines of checksums name them as they are', async () => {
    const folder = path.dirname(put(path.join(dir, 'sums', 'two\nlines.MP4'), 'one'));
    const list = put(path.join(dir, 'sums.md5'), `\\${hashOf('md5', 'one')}  two\\nlines.MP4\n`);
    expect(await checkFolder(folder, { ...options, list })).toMatchObject({
      same: 1,
      missing: [],
      added: [],
    });
  });

  test('what a card’s own list names and was not on it is missing from no copy of it; what was and has gone is', async () => {
    const folder = path.join(dir, 'own list');
    for (const name of ['a.MP4', 'b.MP4']) put(path.join(folder, name), name);
    put(
      path.join(folder, MHL_FOLDER, '0001_card.mhl'),
      `<hashlist version="2.0"><creatorinfo><tool version="3">Recorder</tool></creatorinfo><processinfo><process>in-place</process></processinfo><hashes>${[
        'a.MP4',
        'never.MP4',
      ]
        .map((n) => `<hash><path size="5">${n}</path><md5>${hashOf('md5', n)}</md5></hash>`)
        .join('')}</hashes></hashlist>`,
    );
    expect((await checkFolder(folder, options)).missing).toEqual(['never.MP4']);
    await addGeneration(folder, {
      process: 'transfer',
      kind: 'md5',
      version: '1',
      emptyFolders: [],
      entries: pagesOf(
        ['a.MP4', 'b.MP4'].map((n) => ({
          path: n,
          size: 5,
          modified: 0,
          kind: 'md5',
          value: hashOf('md5', n),
          action: 'original',
        })),
      ),
    });
    expect(await checkFolder(folder, options)).toMatchObject({ same: 2, missing: [], added: [] });
    // It may have been lost from the card before: that is said.
    expect((await checkFolder(folder, options)).lists.at(-1)).toBe(
      'a list that came with the card names a file that was not on it when it was copied: never.MP4',
    );
    rmSync(path.join(folder, 'b.MP4'));
    expect(await checkFolder(folder, options)).toMatchObject({ same: 1, missing: ['b.MP4'] });
  });

  test('one that is a pipe, or nested without end, is said and holds nothing up', async () => {
    const folder = await listed('odd lists', { 'a.MP4': 'one' });
    execFileSync('mkfifo', [path.join(folder, MHL_FOLDER, '0002_pipe.mhl')]);
    put(
      path.join(folder, MHL_FOLDER, '0003_deep.mhl'),
      `<hashlist version="2.0">${'<hash>'.repeat(100_000)}${'</hash>'.repeat(100_000)}</hashlist>`,
    );
    const report = await checkFolder(folder, options);
    expect(report).toMatchObject({ same: 1, missing: [] });
    expect(report.lists.join('\n')).toMatch(/0002_pipe\.mhl cannot be read: .*is not a regular file/);
  });
});

describe('lists made elsewhere', () => {
  test('an older MHL, from memory of its form', async () => {
    const list = put(
      path.join(dir, 'old.mhl'),
      `<?xml version="1.0" encoding="UTF-8"?><hashlist version="1.1"><creatorinfo><name>x</name></creatorinfo>
<hash><file>CLIP/a.MP4</file><size>3</size><xxhash64be>EF46DB3751D8E999</xxhash64be></hash><hash><file>b.MP4</file><size>0</size><md5>d41d8cd98f00b204e9800998ecf8427e</md5></hash></hashlist>`,
    );
    expect((await readForeignList(list)).map((f) => [f.path, f.size, f.hashes])).toEqual([
      ['CLIP/a.MP4', 3, [{ kind: 'xxh64', value: 'ef46db3751d8e999' }]],
      ['b.MP4', 0, [{ kind: 'md5', value: 'd41d8cd98f00b204e9800998ecf8427e' }]],
    ]);
  });
  test.each([
    ['no list at all', 'hello'],
    ['a document type that declares entities', '<!DOCTYPE x [<!ENTITY a "b">]><hashlist version="2.0"/>'],
    ['other XML', '<xml/>'],
    ['cut short', '<hashlist version="2.0"><hashes><hash>'],
  ])('%s is refused with the file’s name', async (_, text) => {
    await expect(readForeignList(put(path.join(dir, 'bad.mhl'), text))).rejects.toThrow(
      'bad.mhl is not a hash list that Sort Shelf can read.',
    );
  });
  test('one that is gone', async () =>
    expect(readForeignList(path.join(dir, 'gone.mhl'))).rejects.toThrow('is no longer there'));
});

/** A generation that says that `a.mov` was looked at again. */
const checkedOnce = {
  process: 'in-place' as const,
  kind: 'md5' as const,
  version: '1',
  emptyFolders: [],
  entries: pagesOf([
    {
      path: 'a.mov',
      size: 1,
      modified: 1_770_000_000_000,
      kind: 'md5',
      value: hashOf('md5', 'a'),
      action: 'verified',
    },
  ]),
};

test('generations that are added to one folder at once come one after another', async () => {
  const folder = await listed('at-once', { 'a.mov': 'a' });
  expect(await Promise.all(Array.from({ length: 5 }, () => inThread(folder, checkedOnce)))).toEqual([
    2, 3, 4, 5, 6,
  ]);
  expect(await readLists(folder)).toMatchObject({ faults: [], chain: { length: 6 } });
});

test.each(FAILS)(
  'whichever change to the disk is %s: what is there is believed, and the next generation follows',
  async (how) => {
    for (let number = 0, came = true; came; number++) {
      const folder = await listed(`${how}-${number}`, { 'a.mov': 'a' });
      came = await withFailingChange(number, how, () =>
        addGeneration(folder, checkedOnce).catch(() => undefined),
      );
      const between = await readLists(folder);
      expect([number, between.faults]).toEqual([number, []]);
      const last = await addGeneration(folder, checkedOnce);
      const after = await readLists(folder);
      expect([number, after.faults, after.chain.at(-1)!.number]).toEqual([number, [], last]);
      expect(readdirSync(path.join(folder, MHL_FOLDER)).filter((f) => f.startsWith('.'))).toEqual([]);
    }
  },
);

test('a folder with no lists has none known; unreadable lists are said', async () => {
  const folder = path.join(dir, 'bare');
  mkdirSync(path.join(folder, MHL_FOLDER), { recursive: true });
  expect((await readLists(folder)).known.size).toBe(0);
  put(path.join(folder, MHL_FOLDER, '0001_x.mhl'), '<broken');
  expect((await readLists(folder)).faults.join(' ')).toContain('0001_x.mhl cannot be read as a hash list');
});

test('a chain that makes no sense is kept beside the new one; where it cannot be read none takes its place', async () => {
  const folder = await listed('damaged-chain', { 'a.mov': 'a' });
  const chain = path.join(folder, MHL_FOLDER, 'ascmhl_chain.xml');
  const others = () => readdirSync(path.dirname(chain)).filter((n) => n.startsWith('ascmhl_chain.xml.'));
  for (const [n, damage] of ['<ascmhldirectory', 'no chain'].entries()) {
    writeFileSync(chain, damage);
    await addGeneration(folder, checkedOnce);
    const kept = others();
    expect(kept).toEqual(['ascmhl_chain.xml.unreadable-1', 'ascmhl_chain.xml.unreadable-2'].slice(0, n + 1));
    expect(readFileSync(path.join(path.dirname(chain), kept[n]!), 'utf8')).toBe(damage);
  }
  expect((await readLists(folder)).chain.map((l) => l.number)).toEqual([3]);
  rmSync(chain);
  // A folder has the name: it is there, and cannot be read as a file.
  mkdirSync(chain);
  await expect(addGeneration(folder, checkedOnce)).rejects.toThrow();
  expect([others().length, lists(folder).length]).toEqual([2, 3]);
});

test('a list of more than 125 000 files is written, read, and followed by another', async () => {
  const folder = path.join(dir, 'very many');
  mkdirSync(folder);
  const entries = Array.from({ length: 130_000 }, (_, i): MhlEntry => ({
    path: `part ${i % 50}/note ${i}.txt`,
    size: i,
    modified: 1_770_000_000_000,
    kind: 'xxh64',
    value: i.toString(16).padStart(16, '0'),
    action: 'original',
  }));
  for (const number of [1, 2])
    expect(
      await addGeneration(folder, {
        process: 'transfer',
        kind: 'xxh64',
        version: '1',
        emptyFolders: [],
        entries: pagesOf(entries),
      }),
    ).toBe(number);
  const read = await readLists(folder);
  expect(read).toMatchObject({ faults: [] });
  expect(read.known.size).toBe(130_000);
  expect(read.known.get('part 7/note 57.txt')!.hashes[0]).toEqual({
    kind: 'xxh64',
    value: (57).toString(16).padStart(16, '0'),
  });
});
