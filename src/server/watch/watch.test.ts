import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { spawn } from 'node:child_process';
import {
  appendFileSync,
  closeSync,
  copyFileSync,
  cpSync,
  mkdirSync,
  openSync,
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
import path from 'node:path';
import { eq } from 'drizzle-orm';
import { WatchOptions } from '../../core/watch';
import { cards, clips, files } from '../cards/tables';
import { bins, binned } from '../choose/tables';
import { requireJob } from '../jobs';
import { saveSettings } from '../jobs/job';
import { beginJob } from '../jobs/jobs';
import { placeNext } from '../naming';
import { doNext } from '../next/doNext';
import { addRoot, changeRoot } from '../places';
import { proxiesNext } from '../proxies';
import { makeClip, put, TEST_JOB, testShelf, type TestShelf } from '../testing/media';
import { walkLimits } from '../platform/files/walk';
import { mayMount, mayMountExfat, RealMounts } from '../testing/realMounts';
import { WatchKeeper } from './keeper';
import { Eyes, lookOnce } from './pass';
import { watches, watchFinds } from './tables';
import { dropWatch, setWatch, watchFolder } from './watching';

let s: TestShelf;
let made = 0;
let at: string;
let id: string;
let eyes: Eyes;
let now = 0;
const inIt = (...p: string[]): string => path.join(at, ...p);

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
});
afterAll(() => s.close());
beforeEach(async () => {
  const name = `watched ${++made}`;
  mkdirSync(path.join(s.dir, name));
  at = realpathSync(path.join(s.dir, name));
  const root = await addRoot(s.runtime, { kind: 'source', path: at });
  ({ id } = await watchFolder(s.runtime, { root: root.id, path: '' }));
  eyes = new Eyes();
});

const look = async (wait = 0, asked = false): Promise<number | null> => {
  now += wait;
  const [row] = await s.runtime.db.select().from(watches).where(eq(watches.id, id));
  return lookOnce(s.runtime, row!, eyes, now, asked);
};
/** Two looks, far enough apart for what does not change to be whole. */
const settle = async (): Promise<void> => {
  await look(10);
  await look(2000);
};
const finds = async () =>
  (await s.runtime.db.select().from(watchFinds).where(eq(watchFinds.watch, id))).map((f) => f.text);
/** The originals of the job in the watched folder, by their paths. */
const held = async (): Promise<string[]> => {
  const [row] = await s.runtime.db.select().from(watches).where(eq(watches.id, id));
  return (await s.runtime.db.select().from(files).where(eq(files.root, row!.root)))
    .filter((f) => f.role === 'original')
    .map((f) => f.path)
    .sort();
};
const clip = (file: string, frames = ++frame): string => makeClip(file, { audio: [], frames });
let frame = 4;

describe('what is new', () => {
  test('is taken in once it is whole, into bins like its folders; never before, and never twice', async () => {
    clip(inIt('one.mp4'));
    clip(inIt('Day 1', 'two.mp4'));
    expect(await look(10)).toBe(1500);
    expect(await held()).toEqual([]);
    await look(1400);
    expect(await held()).toEqual([]);
    expect(await look(200)).toBe(null);
    expect(await held()).toEqual(['Day 1/two.mp4', 'one.mp4']);
    await settle();
    expect(await held()).toHaveLength(2);
    const names = await s.runtime.db
      .select({ bin: bins.name, parent: bins.parent, clip: clips.original })
      .from(binned)
      .innerJoin(bins, eq(bins.id, binned.bin))
      .innerJoin(clips, eq(clips.id, binned.clip));
    expect(names.filter((n) => ['one', 'two'].includes(n.clip)).map((n) => [n.bin, n.clip])).toEqual(
      expect.arrayContaining([
        [path.basename(at), 'one'],
        ['Day 1', 'two'],
      ]),
    );
  });

  test('a file that grows by hand, by a program that holds it open, and under a name of its own until it is whole', async () => {
    const source = readFileSync(clip(path.join(s.dir, 'source.mp4')));
    // By hand: half of it, still for long; its container is not complete.
    put(inIt('half.mp4'), source.subarray(0, source.length / 2));
    await settle();
    await settle();
    expect(await held()).toEqual([]);
    appendFileSync(inIt('half.mp4'), source.subarray(source.length / 2));
    await settle();
    expect(await held()).toEqual(['half.mp4']);
    // All of it is there, and a program has it open for writing.
    const other = readFileSync(clip(path.join(s.dir, 'other.mp4')));
    const fd = openSync(inIt('open.mp4'), 'w');
    writeFileSync(fd, other);
    await settle();
    expect(await held()).toEqual(['half.mp4']);
    closeSync(fd);
    await settle();
    expect(await held()).toEqual(['half.mp4', 'open.mp4']);
    // As rsync writes: hidden, then renamed.
    const third = clip(path.join(s.dir, 'third.mp4'));
    copyFileSync(third, inIt('.third.mp4.Xy12Za'));
    await settle();
    expect(await held()).toHaveLength(2);
    renameSync(inIt('.third.mp4.Xy12Za'), inIt('third.mp4'));
    await settle();
    expect(await held()).toEqual(['half.mp4', 'open.mp4', 'third.mp4']);
  });

  test('a file that stays cut short is taken as it is in the end', async () => {
    const source = readFileSync(clip(path.join(s.dir, 'cut source.mp4')));
    put(inIt('cut.mp4'), source.subarray(0, source.length / 2));
    await settle();
    expect(await held()).toEqual([]);
    await look(31_000);
    expect(await held()).toEqual(['cut.mp4']);
  });

  test('written by dd, cp and an FFmpeg that is recording: none is taken early, none is missed', async () => {
    const source = clip(path.join(s.dir, 'big.mov'), 50);
    const running = [
      spawn('dd', [`if=${source}`, `of=${inIt('dd.mov')}`, 'bs=4k', 'oflag=dsync', 'status=none']),
      spawn('cp', [source, inIt('cp.mov')]),
      spawn(process.env.FFMPEG_PATH ?? 'ffmpeg', [
        ...['-nostdin', '-v', 'error', '-re', '-f', 'lavfi', '-i', 'testsrc2=size=64x36:rate=25:duration=3'],
        ...['-c:v', 'mpeg4', '-y', `file:${inIt('rec.mov')}`],
      ]),
    ];
    const ended = running.map((p) => new Promise<number>((r) => p.once('exit', () => r(performance.now()))));
    let recorded = Infinity;
    void ended[2]!.then((t) => {
      recorded = t;
    });
    const begun = performance.now();
    eyes = new Eyes(30_000, 400);
    while (performance.now() - begun < 15_000) {
      const [row] = await s.runtime.db.select().from(watches).where(eq(watches.id, id));
      const looked = performance.now();
      await lookOnce(s.runtime, row!, eyes, looked);
      const list = await held();
      if (list.includes('rec.mov')) {
        expect(recorded).toBeLessThanOrEqual(performance.now());
        break;
      }
      await new Promise((r) => setTimeout(r, 150));
    }
    await Promise.all(ended);
    // The two copies are one recording: the second is said to be.
    const list = await held();
    expect(list).toContain('rec.mov');
    expect(list.filter((f) => f !== 'rec.mov')).toHaveLength(1);
    expect((await finds()).filter((t) => /is in the job already/.test(t))).toHaveLength(1);
    const [rec] = await s.runtime.db.select().from(files).where(eq(files.path, 'rec.mov'));
    expect(rec!.size).toBe(readFileSync(inIt('rec.mov')).length);
  });

  test('copied by rsync, which writes under a name of its own: taken once it is whole, and once', async () => {
    const source = clip(path.join(s.dir, 'big.mp4'), 400);
    const { size } = statSync(source);
    const copying = spawn('rsync', ['--bwlimit=150', source, inIt('rsync.mp4')]);
    let done = false;
    const ended = new Promise<void>((r) => copying.once('exit', () => r())).then(() => {
      done = true;
    });
    let seen = 0;
    eyes = new Eyes(30_000, 400);
    while (!done) {
      await look(500);
      if (done) break;
      seen += readdirSync(at).some((f) => f.startsWith('.rsync.mp4.')) ? 1 : 0;
      expect(await held()).toEqual([]);
      await new Promise((r) => setTimeout(r, 100));
    }
    await ended;
    await settle();
    expect(seen).toBeGreaterThan(0);
    expect(await held()).toEqual(['rsync.mp4']);
    const [row] = await s.runtime.db.select().from(files).where(eq(files.path, 'rsync.mp4'));
    expect(row!.size).toBe(size);
    expect(await finds()).toHaveLength(1);
  });

  test('of more files than can be listed it says so, and of none that it is gone', async () => {
    clip(inIt('one.mp4'));
    await settle();
    const told = await finds();
    const before = walkLimits.entries;
    walkLimits.entries = 3;
    try {
      for (const n of ['two', 'three', 'four', 'five']) put(inIt('more', `${n}.txt`), 'x');
      await expect(look(10)).rejects.toThrow(/holds more than 3 files and folders/);
    } finally {
      walkLimits.entries = before;
    }
    expect(await finds()).toEqual(told);
    clip(inIt('six.mp4'));
    await settle();
    expect(await held()).toEqual(['one.mp4', 'six.mp4']);
  });

  test('a card counts as a whole: none of it is taken while any of it is still coming', async () => {
    const frames = ++frame;
    clip(inIt('CARD', 'DCIM', '100WHIMB', 'WHIM0001.MP4'), frames);
    clip(inIt('CARD', 'DCIM', '100WHIMB', 'WHIM0002.MP4'));
    await look(10);
    await look(1000);
    clip(inIt('CARD', 'DCIM', '100WHIMB', 'WHIM0003.MP4'));
    await look(1000);
    expect(await held()).toEqual([]);
    await look(1600);
    expect(await held()).toHaveLength(3);
    const [row] = await s.runtime.db.select().from(watches).where(eq(watches.id, id));
    const [card] = await s.runtime.db.select().from(cards).where(eq(cards.root, row!.root));
    expect(card).toMatchObject({ shape: 'dcf', folder: 'CARD' });
    // The same card dumped into another place: nothing is taken in twice.
    clip(inIt('AGAIN', 'DCIM', '100WHIMB', 'WHIM0001.MP4'), frames);
    await settle();
    expect(await held()).toHaveLength(3);
    expect((await finds()).some((t) => /AGAIN.*is in the job already: WHIM0001\.MP4/.test(t))).toBe(true);
  });

  test('all of it into one card that is told, whatever its folders', async () => {
    const told = { cardId: 'Z900', camera: 'Z', day: 3 };
    await setWatch(s.runtime, id, WatchOptions.parse({ into: told }));
    clip(inIt('X', 'one.mp4'));
    clip(inIt('Y', 'DCIM', '100WHIMB', 'WHIM0009.MP4'));
    await settle();
    clip(inIt('later.mp4'));
    await settle();
    expect(await held()).toEqual(['X/one.mp4', 'Y/DCIM/100WHIMB/WHIM0009.MP4', 'later.mp4']);
    const [row] = await s.runtime.db.select().from(watches).where(eq(watches.id, id));
    const rows = await s.runtime.db.select().from(cards).where(eq(cards.root, row!.root));
    expect(rows).toMatchObject([{ id: 'Z900', camera: 'Z', day: 3, folder: '' }]);
    expect(await s.runtime.db.$count(clips, eq(clips.card, 'Z900'))).toBe(3);
  });

  test('named from a place that is read only: a copy has the name, and the file it came from is no news', async () => {
    await setWatch(s.runtime, id, WatchOptions.parse({ next: { placing: 'name' } }));
    clip(inIt('N', 'one.mp4'));
    await settle();
    await s.runtime.queue.drain();
    await doNext(s.runtime, { place: placeNext, proxies: proxiesNext });
    expect(await held()).toEqual([]);
    const said = await finds();
    expect(said).toEqual([expect.stringMatching(/^1 clip taken in as/)]);
    await settle();
    await settle();
    expect(await finds()).toEqual(said);
    expect(readdirSync(inIt('N'))).toEqual(['one.mp4']);
    // Another one with the same contents is told as ever.
    copyFileSync(inIt('N', 'one.mp4'), inIt('two.mp4'));
    await settle();
    expect(await finds()).toEqual([...said, expect.stringMatching(/^two\.mp4 is in the job already: SLW_/)]);
  });

  test('links that lead round in a circle or out of it are not followed', async () => {
    clip(inIt('A', 'one.mp4'));
    symlinkSync(at, inIt('A', 'round'));
    symlinkSync(s.shelf, inIt('out'));
    symlinkSync(inIt('A', 'one.mp4'), inIt('another.mp4'));
    await settle();
    expect(await held()).toEqual(['A/one.mp4']);
    expect(eyes.folders().sort()).toEqual(['', 'A']);
  });

  test('folders that are left out, hidden files, and what is no footage are not taken', async () => {
    clip(inIt('My Proxies', 'a.mp4'));
    clip(inIt('.hidden', 'b.mp4'));
    copyFileSync(clip(path.join(s.dir, 'c.mp4')), inIt('.c.mp4'));
    put(inIt('notes.txt'), 'x'.repeat(100));
    put(inIt('false.mp4'), 'this is no video at all'.repeat(20));
    await settle();
    expect(await held()).toEqual([]);
    // Notes are no news.
    expect(await finds()).toEqual([expect.stringMatching(/^false\.mp4 is left out: /)]);
  });

  test('what was no footage is judged anew when the job’s file types are others; a double is still one', async () => {
    clip(inIt('one.mp4'));
    clip(path.join(s.dir, 'other.mp4'));
    renameSync(path.join(s.dir, 'other.mp4'), inIt('two.qqq'));
    copyFileSync(inIt('one.mp4'), inIt('double.mp4'));
    await settle();
    expect(await held()).toHaveLength(1);
    const told = (await finds()).length;
    const { intake } = await requireJob(s.runtime);
    await saveSettings(s.runtime, {
      intake: { ...intake, types: { ...intake.types, video: [...intake.types.video, 'qqq'] } },
    });
    const [row] = await s.runtime.db.select().from(watches).where(eq(watches.id, id));
    // Nothing changed in the folder itself.
    now += 1000;
    await lookOnce(s.runtime, row!, eyes, now, false, new Set());
    expect((await held()).filter((f) => f.endsWith('qqq'))).toEqual(['two.qqq']);
    expect((await finds()).length).toBe(told + 1);
    await saveSettings(s.runtime, { intake });
  });

  test('a folder that is called like a card of the job is a card of its own', async () => {
    clip(inIt('Q001', 'a.mp4'));
    await settle();
    clip(inIt('more', 'Q001', 'b.mp4'));
    await settle();
    const [row] = await s.runtime.db.select().from(watches).where(eq(watches.id, id));
    const rows = await s.runtime.db.select().from(cards).where(eq(cards.root, row!.root));
    expect(rows.map((c) => [c.id, c.folder]).sort()).toEqual([
      ['Q001', 'Q001'],
      ['Q002', 'more/Q001'],
    ]);
    // What comes later goes into the card its folder is.
    clip(inIt('more', 'Q001', 'c.mp4'));
    await settle();
    expect(await finds()).toContain('1 clip taken in as Q002: c');
  });

  test('only when it is asked for', async () => {
    await setWatch(s.runtime, id, WatchOptions.parse({ byItself: false, bins: false, leaveOut: [] }));
    clip(inIt('a.mp4'));
    await settle();
    expect(await held()).toEqual([]);
    await look(10, true);
    expect(await held()).toEqual(['a.mp4']);
  });
});

describe('what changes', () => {
  beforeEach(async () => {
    clip(inIt('A', 'one.mp4'));
    clip(inIt('A', 'two.mp4'));
    await settle();
    expect(await held()).toHaveLength(2);
  });

  test('moved and renamed outside: the clip is followed, and it is one clip still', async () => {
    const before = await s.runtime.db.$count(clips);
    mkdirSync(inIt('B'));
    renameSync(inIt('A', 'one.mp4'), inIt('B', 'renamed.mp4'));
    await settle();
    expect(await held()).toEqual(['A/two.mp4', 'B/renamed.mp4']);
    expect(await s.runtime.db.$count(clips)).toBe(before);
    expect(await finds()).toContain('renamed was moved outside: it is B/renamed.mp4 now');
  });

  test('gone and back is said; a folder that is away as a whole says nothing of what is in it', async () => {
    renameSync(inIt('A', 'one.mp4'), path.join(s.dir, 'kept.mp4'));
    await settle();
    expect(await finds()).toContainEqual(expect.stringMatching(/^A\/one\.mp4 of .* is gone from the disk$/));
    expect(await held()).toHaveLength(2);
    renameSync(path.join(s.dir, 'kept.mp4'), inIt('A', 'one.mp4'));
    await settle();
    expect(await finds()).toContainEqual(expect.stringMatching(/^A\/one\.mp4 of .* is back$/));
    const told = (await finds()).length;
    renameSync(at, `${at} away`);
    await settle();
    expect(eyes.here).toBe(false);
    expect((await finds()).length).toBe(told);
    renameSync(`${at} away`, at);
    await settle();
    expect(eyes.here).toBe(true);
    expect((await finds()).length).toBe(told);
  });

  test('replaced by another of the same name: it is read again; touched without change it is one clip still', async () => {
    const before = await s.runtime.db.$count(clips);
    clip(inIt('A', 'one.mp4'), 60);
    await settle();
    expect(await finds()).toContainEqual(
      expect.stringMatching(/^\d clips? of .* changed on disk: read again$/),
    );
    utimesSync(inIt('A', 'two.mp4'), new Date(), new Date());
    await settle();
    expect(await s.runtime.db.$count(clips)).toBe(before);
    expect(await held()).toHaveLength(2);
  });

  test('what comes later to a clip, as its sidecar, is added to it', async () => {
    const [row] = await s.runtime.db.select().from(watches).where(eq(watches.id, id));
    expect(readdirSync(inIt('A'))).toHaveLength(2);
    put(inIt('A', 'one.xml'), '<x/>');
    clip(inIt('A', 'three.mp4'));
    await settle();
    const of = await s.runtime.db.select().from(files).where(eq(files.root, row!.root));
    expect(of.map((f) => f.path).sort()).toEqual(['A/one.mp4', 'A/one.xml', 'A/three.mp4', 'A/two.mp4']);
    const one = of.find((f) => f.path === 'A/one.mp4')!;
    expect(of.find((f) => f.path === 'A/one.xml')!.clip).toBe(one.clip);
  });
});

test('a place that is another folder by now is listened to there, though the one before is there still', async () => {
  const keeper = new WatchKeeper(s.runtime);
  keeper.begin();
  const until = async (what: () => Promise<boolean>) => {
    for (const end = Date.now() + 20_000; !(await what()); await new Promise((r) => setTimeout(r, 50)))
      if (Date.now() > end) throw new Error(`it did not come to pass: ${(await held()).join(', ')}`);
  };
  try {
    clip(inIt('one.mp4'));
    await until(async () => (await held()).length === 1);
    const copied = path.join(path.dirname(at), `copy ${made}`);
    cpSync(at, copied, { recursive: true, preserveTimestamps: true });
    const [row] = await s.runtime.db.select().from(watches).where(eq(watches.id, id));
    await changeRoot(s.runtime, row!.root, { path: copied });
    // The look that the change brings about is over.
    await new Promise((r) => setTimeout(r, 2500));
    clip(path.join(copied, 'late.mp4'));
    await until(async () => (await held()).includes('late.mp4'));
  } finally {
    await keeper.end();
  }
});

(mayMount ? describe : describe.skip)('on a volume that comes and goes', () => {
  const drives = new RealMounts();
  afterAll(() => drives.end());

  test('pulled, with its empty folder left behind: nothing on it is gone, and back again nothing is news', async () => {
    const image = drives.image('camera', 'CAMERA');
    at = drives.mount('drive', image);
    makeClip(inIt('A', 'one.mp4'), { audio: [], frames: ++frame });
    const root = await addRoot(s.runtime, { kind: 'source', path: at });
    ({ id } = await watchFolder(s.runtime, { root: root.id, path: '' }));
    await settle();
    expect(await held()).toEqual(['A/one.mp4']);
    const told = await finds();
    // Nobody has looked yet where the places are: the look itself has to see it.
    drives.unmount(at);
    await settle();
    expect(eyes.here).toBe(false);
    expect(await finds()).toEqual(told);
    drives.mount('drive', image);
    await settle();
    expect(eyes.here).toBe(true);
    expect(await finds()).toEqual(told);
  });
});

(mayMountExfat() ? describe : describe.skip)('on a volume that ignores case', () => {
  const drives = new RealMounts();
  afterAll(() => drives.end());

  test('a file and a folder that got other letters are followed, and are no further recordings', async () => {
    at = drives.exfat('card');
    clip(inIt('one.mp4'));
    clip(inIt('Day 1', 'two.mp4'));
    const root = await addRoot(s.runtime, { kind: 'source', path: at });
    ({ id } = await watchFolder(s.runtime, { root: root.id, path: '' }));
    await settle();
    renameSync(inIt('one.mp4'), inIt('ONE.mp4'));
    renameSync(inIt('Day 1'), inIt('DAY 1'));
    await settle();
    expect(await held()).toEqual(['DAY 1/two.mp4', 'ONE.mp4']);
    expect((await finds()).slice(1).sort()).toEqual([
      'ONE was moved outside: it is ONE.mp4 now',
      'two was moved outside: it is DAY 1/two.mp4 now',
    ]);
  });
});

describe('watching', () => {
  test('a folder in a watched one is refused, and so is what Sort Shelf writes to', async () => {
    const [row] = await s.runtime.db.select().from(watches).where(eq(watches.id, id));
    mkdirSync(inIt('inner'));
    await expect(watchFolder(s.runtime, { root: row!.root, path: 'inner' })).rejects.toMatchObject({
      title: 'Clash',
    });
    await expect(watchFolder(s.runtime, { root: 'proxies', path: '' })).rejects.toThrow(
      /nothing new comes in/,
    );
    await dropWatch(s.runtime, id);
    await watchFolder(s.runtime, { root: row!.root, path: 'inner' });
    rmSync(inIt('inner'), { recursive: true });
  });
});
