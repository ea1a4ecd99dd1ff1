import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import {
  appendFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import type { NewOffload } from '../../core/offload/shapes';
import type { Faults } from '../../core/offload/standIns';
import { HASH_WORDS, type ChosenHash } from '../../core/hashLists/hashes';
import { checkAgain, checkAnyFolder } from '../../server/custody/checks';
import { receipt, wipeView } from '../../server/custody/wipe';
import { files } from '../../server/cards/tables';
import { offloadFiles } from '../../server/offload/tables';
import { walkLimits } from '../../server/platform/files/walk';
import { whileUnreadable } from '../../server/testing/failingDisk';
import { makeClip, put, type TestShelf } from '../../server/testing/media';
import { look } from '../../server/intake/look';
import { actOnOffload } from '../../server/offload/act';
import { beginOffload } from '../../server/offload/begin';
import { offloadDetail } from '../../server/offload/views';
import { addRoot } from '../../server/places/roots';
import { actOnWork } from '../../server/proxies/actOnWork';
import { forgetCard, takeIn } from '../../server/intake/takeIn';
import { clipViews } from '../../server/cards/clipViews';
import { logView } from '../../server/overview/logbook';
import { type CopyingShelf, copyingShelf, footage, SLOW, until } from './copyingShelf';
import { actOnStandIn } from './standIns';

// The copying of cards from stand-in slots to stand-in drives, which do wrong what they are told to.

let r: CopyingShelf;
let s: TestShelf;
let standIns: string;
let roots: Record<string, string>;
const reader = (...p: string[]) => r.reader(...p);
const drive = (name: string, ...p: string[]) => r.drive(name, ...p);
const card = (of: Record<string, number>): string => r.card(of);
const tell = (of: string, faults: Partial<Faults>) => r.tell(of, faults);
const calm = () => r.calm();
const wanted = (id: string, extra: Partial<NewOffload> = {}) => r.wanted(id, extra);
const begin = (id: string, extra: Partial<NewOffload> = {}) => r.begin(id, extra);
const view = (id: string) => r.view(id);
/** Bytes that are on a drive. */
const used = (name: string): number =>
  Number(
    execFileSync(
      'sh',
      ['-c', 'find "$0" -type f -printf "%s\\n" | awk \'{n+=$1} END {print n+0}\'', drive(name)],
      { encoding: 'utf8' },
    ),
  );
/** As `diff -r` sees it: nothing where a copy is what the card is. */
const differs = (id: string, name: string): string => {
  try {
    return execFileSync(
      'diff',
      [
        '-r',
        '--no-dereference',
        '--exclude=ascmhl',
        path.relative(s.dir, reader(id)),
        path.relative(s.dir, drive(name, 'SLW/Day 1', id)),
      ],
      { encoding: 'utf8', cwd: s.dir },
    );
  } catch (e) {
    return String((e as { stdout: string }).stdout);
  }
};
const parts = (folder: string): string[] =>
  readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((n) => n.endsWith('.part'));

beforeAll(async () => {
  r = await copyingShelf();
  ({ shelf: s, standIns, roots } = r);
});
afterEach(() => calm());
afterAll(() => s.close());

describe('from the card to two safe copies and the shelf', () => {
  let id: string;
  test('every byte arrives, under the convention on the shelf, and the card may be wiped', async () => {
    id = card({});
    for (const n of [1, 2]) {
      makeClip(reader(id, 'CLIP', `T000${n}.MP4`), {
        start: `1${n}:00:00:00`,
        created: `2026-05-05T1${n}:00:00Z`,
        frames: 5,
      });
      put(reader(id, 'CLIP', `T000${n}.XML`), '<C><Device modelName="Tarn T5"/></C>');
    }
    put(reader(id, 'CARD.IDX'), 'index');
    mkdirSync(reader(id, 'EMPTY'));
    const offload = await begin(id, { shelf: true, date: '2026-05-05' });
    await s.runtime.queue.drain();
    await s.runtime.queue.idle('copy');
    expect(await view(offload)).toMatchObject({
      state: 'done',
      files: 5,
      verified: 5,
      failed: 0,
      fault: null,
    });
    for (const name of ['North', 'South']) expect(differs(id, name)).toBe('');
    expect(existsSync(drive('North', 'SLW/Day 1', id, 'EMPTY'))).toBe(true);
    const clips = await clipViews(s.runtime, id);
    expect(clips.map((c) => [c.original, c.named, c.state])).toEqual([
      ['T0001', true, 'read'],
      ['T0002', true, 'read'],
    ]);
    const originals = await s.runtime.db.select().from(files).where(eq(files.role, 'original'));
    expect(originals.map((f) => f.root)).toEqual(['shelf', 'shelf']);
    for (const f of originals)
      expect(
        readFileSync(path.join(s.shelf, f.path)).equals(
          readFileSync(path.join(reader(), f.takenPath!.replace(/^Incoming\//, ''))),
        ),
      ).toBe(true);
    expect(await wipeView(s.runtime, id)).toMatchObject({
      verdict: 'yes',
      scope: 'volume',
      files: 5,
      reasons: [],
    });
    const r = await receipt(s.runtime, id);
    expect(r.list.every((f) => f.copies === 2 && f.kind === 'xxh128')).toBe(true);
    expect(
      (await logView(s.runtime)).entries.some(
        (l) =>
          l.kind === 'copy' && l.text.includes(`Copied ${id} to North, South, the shelf: 5 files verified`),
      ),
    ).toBe(true);
  });

  test('what the hash list says is what xxhsum says (Debian’s xxhash)', async () => {
    const folder = drive('North', 'SLW/Day 1', id);
    const rows = await s.runtime.db.select().from(offloadFiles);
    expect(rows.length).toBeGreaterThanOrEqual(5);
    const theirs = execFileSync('xxhsum', ['-q', '-H2', ...rows.map((r) => r.path)], {
      cwd: folder,
      encoding: 'utf8',
    })
      .trim()
      .split('\n')
      .map((l) => l.split(/\s+/)[0]);
    expect(theirs).toEqual(rows.map((r) => r.hash));
    const list = readdirSync(path.join(folder, 'ascmhl')).find((n) => n.startsWith('0001_'))!;
    const text = readFileSync(path.join(folder, 'ascmhl', list), 'utf8');
    for (const hash of theirs) expect(text).toContain(`>${hash}</xxh128>`);
  });

  test('offered again, under another name too, it is known by its contents', async () => {
    const twin = 'UNTITLED';
    execFileSync('cp', ['-rp', reader(id), reader(twin)]);
    rmSync(reader(id), { recursive: true });
    const [again] = (await look(s.runtime, roots['Reader 1']!, '')).cards;
    expect(again).toMatchObject({ folder: twin, same: { card: id, clips: 2, of: 2 } });
    makeClip(reader(twin, 'CLIP', 'T0003.MP4'), {
      start: '13:00:00:00',
      created: '2026-05-05T13:00:00Z',
      frames: 5,
    });
    const [more] = (await look(s.runtime, roots['Reader 1']!, '')).cards;
    expect(more).toMatchObject({ same: { card: id, clips: 2, of: 3 } });
    expect(more!.clips.map((c) => c.here?.card ?? null)).toEqual([id, id, null]);
  });
});

test.each([
  ['xxh64', ['xxhsum', '-q', '-H1']],
  ['md5', ['md5sum']],
  ['sha1', ['sha1sum']],
] as [ChosenHash, string[]][])(
  '%s as the program of that name gives it',
  async (hash, [program, ...args]) => {
    const id = card({ 'CLIP/T0001.MP4': 300_001, 'CLIP/T0002.MP4': 16 });
    const offload = await begin(id, { hash, safe: [roots.North!] });
    await s.runtime.queue.idle('copy');
    expect((await view(offload)).state).toBe('done');
    for (const f of (await offloadDetail(s.runtime, offload)).list) {
      expect(
        execFileSync(program!, [...args, f.path], { encoding: 'utf8', cwd: reader(id) }).split(/\s+/)[0],
      ).toBe(f.hash);
    }
    expect(HASH_WORDS[hash]).toBeTruthy();
  },
);

describe('a card or reader that fails', () => {
  test('a file that can be read at the third try is copied, and it is said', async () => {
    const id = card({ 'CLIP/T0001.MP4': 200_000, 'CLIP/T0002.MP4': 200_000 });
    tell('Reader 1', { failRead: { file: 'T0002', times: 2 } });
    const offload = await begin(id);
    await s.runtime.queue.idle('copy');
    calm();
    expect(await view(offload)).toMatchObject({ state: 'done', failed: 0 });
    expect((await offloadDetail(s.runtime, offload)).list.find((f) => f.note)).toMatchObject({
      path: 'CLIP/T0002.MP4',
      note: 'It could be read at the 3rd try only (EIO).',
    });
    expect(differs(id, 'North')).toBe('');
  });

  test('a file that cannot be read is named, the rest is copied, the card may not be wiped; it can be tried again', async () => {
    const id = card({ 'CLIP/T0001.MP4': 200_000, 'CLIP/T0002.MP4': 200_000, 'CLIP/T0003.MP4': 2_500_000 });
    tell('Reader 1', { failRead: { file: 'T0002', times: 1000 } });
    const offload = await begin(id);
    await s.runtime.queue.idle('copy');
    expect(await view(offload)).toMatchObject({
      state: 'partly',
      verified: 2,
      failed: 1,
      fault: '1 file could not be copied.',
    });
    expect((await offloadDetail(s.runtime, offload)).list[0]).toMatchObject({
      path: 'CLIP/T0002.MP4',
      state: 'failed',
      fault: 'cannot be read (EIO), tried 3 times',
    });
    expect(differs(id, 'South')).toMatch(/^Only in .*: T0002\.MP4\n$/);
    const answer = await wipeView(s.runtime, id);
    expect(answer).toMatchObject({ may: false });
    expect(answer.because).toContain('CLIP/T0002.MP4: cannot be read (EIO)');
    expect(answer.reasons[0]).toMatchObject({ files: ['CLIP/T0002.MP4'], way: { do: 'retry' } });
    expect(parts(drive('North'))).toEqual([]);
    calm();
    await actOnOffload(s.runtime, offload, { action: 'retry' });
    await s.runtime.queue.idle('copy');
    expect(await view(offload)).toMatchObject({ state: 'done', verified: 3, failed: 0, fault: null });
    expect(differs(id, 'South')).toBe('');
    expect((await wipeView(s.runtime, id)).may).toBe(true);
  });

  test.each(['first', 'second'])(
    'a file that could not be read when its card was offered for the %s time is one clip, though the card is copied twice',
    async (time) => {
      const id = card({ 'CLIP/T0001.MP4': 200_000, 'CLIP/T0002.MP4': 200_000 });
      const beginBadly = () => whileUnreadable(reader(id, 'CLIP/T0002.MP4'), () => begin(id));
      await (time === 'first' ? beginBadly() : begin(id));
      await s.runtime.queue.idle('copy');
      for (const name of ['North', 'South']) rmSync(drive(name, 'SLW/Day 1', id), { recursive: true });
      const clipsOf = async () => (await clipViews(s.runtime)).filter((c) => c.card === id).map((c) => c.id);
      const before = await clipsOf();
      const offload = await (time === 'first' ? begin(id) : beginBadly());
      await s.runtime.queue.idle('copy');
      expect(await view(offload)).toMatchObject({ state: 'done', verified: 2, fault: null });
      expect(before).toHaveLength(2);
      expect(await clipsOf()).toEqual(before);
      expect((await wipeView(s.runtime, id)).may).toBe(true);
    },
  );

  test('a card gets no folder that another card’s copy or another job’s footage was in, though nothing is there now', async () => {
    const one = card({ 'CLIP/T0001.MP4': 200_000 });
    const plain = { pattern: 'Cards', safe: [roots.North!, roots.South!] };
    await begin(one, plain);
    await s.runtime.queue.idle('copy');
    // The drives were emptied for the next job.
    for (const name of ['North', 'South']) rmSync(drive(name, 'Cards'), { recursive: true });
    const two = card({ 'CLIP/T0001.MP4': 200_000, 'CLIP/T0002.MP4': 100_000 });
    const second = await begin(two, plain);
    await s.runtime.queue.idle('copy');
    expect(await view(second)).toMatchObject({ state: 'done', fault: null });
    for (const name of ['North', 'South']) {
      expect(readdirSync(drive(name)).filter((n) => n.startsWith('Cards'))).toEqual(['Cards-2']);
      expect(readdirSync(drive(name, 'Cards-2/CLIP'))).toEqual(['T0001.MP4', 'T0002.MP4']);
    }
    // Its own folder a card gets again.
    for (const name of ['North', 'South']) rmSync(drive(name, 'Cards-2'), { recursive: true });
    const again = await begin(two, plain);
    await s.runtime.queue.idle('copy');
    expect(await view(again)).toMatchObject({ state: 'done', fault: null });
    expect((await wipeView(s.runtime, two)).may).toBe(true);
    expect((await wipeView(s.runtime, one)).may).toBe(false);
    for (const name of ['North', 'South'])
      expect(readdirSync(drive(name)).filter((n) => n.startsWith('Cards'))).toEqual(['Cards-2']);
    // Nor one inside a copy, though that has gone, or around one.
    const three = card({ 'CLIP/T0001.MP4': 300_000 });
    await expect(begin(three, { ...plain, pattern: 'Cards/{card}' })).rejects.toThrow(
      `“North: Cards/${three}” would be inside a safe copy, “Cards”.`,
    );
    // A copying that has not come to its folder has it all the same, until it is cancelled.
    tell('Reader 1', { slow: 20_000 });
    const resting = await begin(three, { ...plain, pattern: 'Around' });
    await actOnOffload(s.runtime, resting, { action: 'pause' });
    calm();
    const folders = (name: string) =>
      readdirSync(drive(name))
        .filter((n) => n.startsWith('Around'))
        .sort();
    for (const name of ['North', 'South']) rmSync(drive(name, 'Around'), { recursive: true, force: true });
    const four = card({ 'CLIP/T0001.MP4': 400_000 });
    const fourth = await begin(four, { ...plain, pattern: 'Around' });
    await s.runtime.queue.idle('copy');
    expect([folders('North'), folders('South')]).toEqual([['Around-2'], ['Around-2']]);
    await actOnOffload(s.runtime, resting, { action: 'cancel' });
    const five = card({ 'CLIP/T0001.MP4': 500_000 });
    const fifth = await begin(five, { ...plain, pattern: 'Around/{card}' });
    await s.runtime.queue.idle('copy');
    for (const name of ['North', 'South']) rmSync(drive(name, 'Around'), { recursive: true });
    const six = card({ 'CLIP/T0001.MP4': 600_000 });
    const sixth = await begin(six, { ...plain, pattern: 'Around' });
    await s.runtime.queue.idle('copy');
    for (const id of [fourth, fifth, sixth]) expect((await view(id)).state).toBe('done');
    expect([folders('North'), folders('South')]).toEqual([
      ['Around-2', 'Around-3'],
      ['Around-2', 'Around-3'],
    ]);
  });

  test('in a reader, another card with the same names is not the one that was used in place there', async () => {
    const plug = (what: string, size: number) => {
      rmSync(reader(), { recursive: true });
      put(reader('CARD/CLIP/T0001.MP4'), footage(what, size));
    };
    const inPlace = (cardId: string) =>
      takeIn(s.runtime, {
        root: roots['Reader 1']!,
        path: '',
        cards: [{ folder: 'CARD', camera: 'B', cardId, day: 1, date: null }],
      });
    plug('one', 100_000);
    await inPlace('P001');
    const already = async () => (await look(s.runtime, roots['Reader 1']!, '')).cards[0]!.already;
    expect(await already()).toEqual(['P001']);
    plug('another', 200_000);
    expect(await already()).toEqual([]);
    await expect(inPlace('P002')).rejects.toThrow('“CARD” was taken in as P001, and holds other files now.');
    const offload = await begin('P002', { folder: 'CARD' });
    await s.runtime.queue.idle('copy');
    expect(await view(offload)).toMatchObject({ state: 'done', fault: null });
    const clipsOf = async (id: string) => (await clipViews(s.runtime)).filter((c) => c.card === id).length;
    expect([await clipsOf('P001'), await clipsOf('P002')]).toEqual([1, 1]);
  });

  test('a byte flipped at the first reading is found by the second', async () => {
    const id = card({ 'CLIP/T0001.MP4': 200_000, 'CLIP/T0002.MP4': 3_000_000 });
    tell('Reader 1', { flip: { file: 'T0002' } });
    const offload = await begin(id, { verification: 'contentsTwice' });
    await s.runtime.queue.idle('copy');
    calm();
    expect(await view(offload)).toMatchObject({ state: 'done', failed: 0 });
    expect((await offloadDetail(s.runtime, offload)).list.find((f) => f.note)).toMatchObject({
      path: 'CLIP/T0002.MP4',
      note: expect.stringContaining('other bytes at one reading'),
    });
    for (const name of ['North', 'South']) expect(differs(id, name)).toBe('');
  });

  test('small files that share a thread are read twice as well, one of them with a wrong byte', async () => {
    const id = card(
      Object.fromEntries(Array.from({ length: 20 }, (_, n) => [`CLIP/T00${10 + n}.MP4`, 3000 + n])),
    );
    tell('Reader 1', { flip: { file: 'T0015' } });
    const offload = await begin(id, { verification: 'contentsTwice' });
    await s.runtime.queue.idle('copy');
    calm();
    expect(await view(offload)).toMatchObject({ state: 'done', verified: 20, failed: 0 });
    expect((await offloadDetail(s.runtime, offload)).list.filter((f) => f.note).map((f) => f.path)).toEqual([
      'CLIP/T0015.MP4',
    ]);
    for (const name of ['North', 'South']) expect(differs(id, name)).toBe('');
    expect(parts(drive('North'))).toEqual([]);
    expect(await wipeView(s.runtime, id)).toMatchObject({ verdict: 'yes' });
  });

  test('pulled out in the middle, it waits and goes on where it was', async () => {
    const id = card(
      Object.fromEntries([0, 1, 2, 3, 4, 5, 6, 7, 8, 9].map((n) => [`CLIP/T000${n}.MP4`, 1_200_000])),
    );
    tell('Reader 1', SLOW);
    const offload = await begin(id);
    await until(async () => (await view(offload)).verified >= 1);
    mkdirSync(path.join(standIns, 'drawer'), { recursive: true });
    actOnStandIn({ action: 'pull', slot: 'Reader 1' });
    await s.runtime.queue.idle('copy');
    const waiting = await view(offload);
    expect(waiting).toMatchObject({ state: 'waiting', failed: 0 });
    expect(waiting.fault).toMatch(
      /^The card was pulled out of Reader 1\. Put it back: the copy continues with T000\d\.MP4\.$/,
    );
    expect(waiting.verified).toBeLessThan(10);
    expect(parts(drive('North'))).toEqual([]);
    calm();
    actOnStandIn({ action: 'plug', slot: 'Reader 1', card: id });
    await actOnOffload(s.runtime, offload, { action: 'resume' });
    await s.runtime.queue.idle('copy');
    expect(await view(offload)).toMatchObject({ state: 'done', verified: 10, failed: 0 });
    expect(differs(id, 'North')).toBe('');
  });

  test('a file that grows while it is copied is not taken as good', async () => {
    const id = card({ 'CLIP/T0001.MP4': 2_000_000, 'CLIP/T0002.MP4': 2_000_000, 'CLIP/T0003.MP4': 50_000 });
    tell('Reader 1', SLOW);
    const offload = await begin(id);
    appendFileSync(reader(id, 'CLIP/T0002.MP4'), 'more');
    // Same length, another time: also changed.
    utimesSync(reader(id, 'CLIP/T0003.MP4'), 1, 1);
    await s.runtime.queue.idle('copy');
    calm();
    const detail = await offloadDetail(s.runtime, offload);
    expect(detail.state).toBe('partly');
    expect(detail.list.filter((f) => f.state === 'failed').map((f) => [f.path, f.fault])).toEqual([
      [
        'CLIP/T0002.MP4',
        expect.stringContaining('still being written, or was changed. Wait until it is finished'),
      ],
      ['CLIP/T0003.MP4', expect.stringContaining('still being written, or was changed')],
    ]);
    expect(existsSync(drive('North', 'SLW/Day 1', id, 'CLIP/T0002.MP4'))).toBe(false);
  });
});

describe('a destination that fails', () => {
  test('too small for the card is refused before anything is copied, with the figures', async () => {
    const id = card({ 'CLIP/T0001.MP4': 2_000_000 });
    tell('South', { capacity: used('South') + 1_000_000 });
    await expect(begin(id)).rejects.toThrow(/^South needs 36 MB; 1\.0 MB are free\.$/);
    calm();
  });

  test('full in the middle, the copy pauses; without that drive it goes on, and the wipe page says what is missing', async () => {
    const id = card(Object.fromEntries([1, 2, 3, 4].map((n) => [`CLIP/T000${n}.MP4`, 2_000_000])));
    tell('Reader 1', SLOW);
    const offload = await begin(id);
    tell('South', { capacity: used('South') + 2_500_000 });
    await s.runtime.queue.idle('copy');
    expect(await view(offload)).toMatchObject({
      state: 'paused',
      failed: 0,
      fault: 'South is full. Fix that and resume, or continue without it.',
    });
    await expect(actOnOffload(s.runtime, offload, { action: 'drop', destination: 7 })).rejects.toThrow(
      'at least one destination',
    );
    await actOnOffload(s.runtime, offload, { action: 'drop', destination: 1 });
    await s.runtime.queue.idle('copy');
    calm();
    expect(await view(offload)).toMatchObject({ state: 'done', verified: 4 });
    expect(differs(id, 'North')).toBe('');
    expect(parts(drive('South'))).toEqual([]);
    expect(await wipeView(s.runtime, id)).toMatchObject({
      may: false,
      because: expect.stringMatching(
        /^\d files of 4 are in one verified copy only\. Make another on a different disk\.$/,
      ),
    });
  });

  test('one that cannot be written pauses it with the reason', async () => {
    const id = card({ 'CLIP/T0001.MP4': 100_000 });
    // A file where the card’s folder would be made: root writes through permissions, so these cannot be tested with them.
    put(drive('South', 'blocked'), 'x');
    // A folder that cannot be looked at is not taken for a free one.
    const deep = `${`${'x'.repeat(100)}/`.repeat(45)}{card}`;
    await expect(begin(id, { pattern: deep })).rejects.toMatchObject({
      ...{
        title: 'Refused',
        message: expect.stringMatching(/” in “North” cannot be looked at: the name is too long/),
      },
    });
    const offload = await begin(id, { pattern: 'blocked/{card}' });
    await s.runtime.queue.idle('copy');
    expect(await view(offload)).toMatchObject({
      state: 'paused',
      fault: expect.stringMatching(
        'South has a file where a folder has to be. Fix that and resume, or continue without it.',
      ),
    });
    rmSync(drive('South', 'blocked'));
    await actOnOffload(s.runtime, offload, { action: 'resume' });
    await s.runtime.queue.idle('copy');
    expect(await view(offload)).toMatchObject({ state: 'done', verified: 1 });
  });

  test('a place that cannot be written to for a reason of its own is said in words, with the code once', async () => {
    const id = card({ 'CLIP/T0001.MP4': 3_000_000, 'MORE/T0002.MP4': 2_000_000 });
    tell('Reader 1', SLOW);
    const offload = await begin(id);
    mkdirSync(drive('North', 'SLW/Day 1', id), { recursive: true });
    symlinkSync('MORE', drive('North', 'SLW/Day 1', id, 'MORE'));
    await s.runtime.queue.idle('copy');
    calm();
    expect((await offloadDetail(s.runtime, offload)).list[0]).toMatchObject({
      path: 'MORE/T0002.MP4',
      state: 'failed',
      fault: 'North: it is a link, or links lead in a circle (ELOOP), tried 3 times',
    });
  });

  test('a file that comes to stand at a copy’s place is left as it is', async () => {
    const id = card({ 'CLIP/T0001.MP4': 3_000_000, 'CLIP/T0002.MP4': 2_000_000 });
    tell('Reader 1', SLOW);
    const offload = await begin(id);
    const at = put(drive('North', 'SLW/Day 1', id, 'CLIP/T0002.MP4'), 'somebody’s');
    await s.runtime.queue.idle('copy');
    calm();
    expect(await view(offload)).toMatchObject({ state: 'partly', failed: 1 });
    expect(readFileSync(at, 'utf8')).toBe('somebody’s');
    expect((await offloadDetail(s.runtime, offload)).list[0]!.fault).toContain(
      'another file of this name is there already. It was left as it is.',
    );
  });

  test('inside the source, the same twice, no destination, nothing ticked: refused', async () => {
    const id = card({ 'CLIP/T0001.MP4': 1000 });
    await expect(begin(id, { safe: [roots.North!, roots.North!] })).rejects.toThrow('chosen twice');
    await expect(begin(id, { safe: [], shelf: false })).rejects.toThrow('No destination');
    await expect(begin(id, { clips: [], wholeCard: false })).rejects.toThrow('No clip is ticked');
    await expect(begin(id, { safe: ['shelf'] })).rejects.toThrow('is no place for safe copies');
    put(drive('North', 'cards', 'CLIP/T0001.MP4'), footage('x', 1000));
    const inside = { ...wanted('cards'), root: roots.North!, cardId: 'B900' };
    await expect(beginOffload(s.runtime, { ...inside, pattern: 'cards/{card}' })).rejects.toThrow(
      'copied into itself',
    );
    // A name that begins with two dots leads nowhere else.
    await expect(beginOffload(s.runtime, { ...inside, pattern: 'cards/..{card}/x' })).rejects.toThrow(
      'copied into itself',
    );
    for (const kind of ['source', 'safe'] as const) {
      mkdirSync(drive('North', '..d'), { recursive: true });
      await expect(addRoot(s.runtime, { kind, path: drive('North', '..d') })).rejects.toThrow(
        'overlaps the place “North”',
      );
    }
    rmSync(drive('North', '..d'), { recursive: true });
    rmSync(drive('North', 'cards'), { recursive: true });
  });
});

test('paused, resumed, cancelled: what was verified stays, nothing half is left', async () => {
  const id = card(
    Object.fromEntries(Array.from({ length: 16 }, (_, n) => [`CLIP/T00${10 + n}.MP4`, 1_100_000])),
  );
  tell('Reader 1', SLOW);
  const offload = await begin(id);
  await until(async () => (await view(offload)).verified >= 1);
  // It has ways of its own to be stopped, which leave no clip behind that was not copied.
  const [piece] = await s.runtime.queue.openFor('copy', offload);
  expect(await actOnWork(s.runtime, { action: 'cancel', work: [piece!.id] })).toEqual({ changed: 0 });
  await actOnOffload(s.runtime, offload, { action: 'pause' });
  const paused = await view(offload);
  expect(paused.state).toBe('paused');
  await expect(forgetCard(s.runtime, id)).rejects.toThrow(/being copied/);
  await actOnOffload(s.runtime, offload, { action: 'resume' });
  await until(async () => (await view(offload)).verified > paused.verified);
  await actOnOffload(s.runtime, offload, { action: 'cancel' });
  calm();
  const { state, verified } = await view(offload);
  expect(state).toBe('cancelled');
  expect(parts(drive('North'))).toEqual([]);
  const there = readdirSync(drive('North', 'SLW/Day 1', id, 'CLIP'));
  expect(there.length).toBeGreaterThanOrEqual(verified);
  for (const name of there)
    expect(
      readFileSync(drive('North', 'SLW/Day 1', id, 'CLIP', name)).equals(
        readFileSync(reader(id, 'CLIP', name)),
      ),
    ).toBe(true);
  // Clips that were not copied are on the card only, and leave the job.
  expect((await clipViews(s.runtime, id)).length).toBe(verified);
});

test('odd names: links and pipes are said, bytes that are no UTF-8 kept, case and Unicode twins, a path of 260 characters', async () => {
  const id = card({
    'CLIP/T0001.MP4': 1000,
    'Notes.txt': 10,
    'notes.txt': 11,
    'caf\u00e9.txt': 12,
    'cafe\u0301.txt': 13,
    [`${'deep folder/'.repeat(21)}end of it.txt`]: 14,
  });
  symlinkSync('/etc/hostname', reader(id, 'link.MP4'));
  execFileSync('mkfifo', [reader(id, 'pipe.MP4')]);
  writeFileSync(
    Buffer.concat([Buffer.from(`${reader(id)}/caf`), Buffer.from([0xe9]), Buffer.from('.txt')]),
    'latin',
  );
  const [looked] = (await look(s.runtime, roots['Reader 1']!, '')).cards;
  expect(looked!.names.join('\n')).toMatch(/otes\.txt and \S*otes\.txt differ only in case/);
  expect(looked!.names.join('\n')).toContain('caf\\xE9.txt is not UTF-8');
  expect(looked!.names.join('\n')).toMatch(/characters long: some systems stop at 260/);
  const offload = await begin(id);
  await s.runtime.queue.idle('copy');
  const done = await view(offload);
  expect(done).toMatchObject({ state: 'done', verified: 7, failed: 0 });
  expect(done.cannot.map((c) => c.path).sort()).toEqual(['link.MP4', 'pipe.MP4']);
  expect(
    differs(id, 'North')
      .split('\n')
      .filter((l) => l !== '')
      .map((l) => l.replace(/.*: /, '')),
  ).toEqual(['link.MP4', 'pipe.MP4']);
  expect((await wipeView(s.runtime, id)).notes.join(' ')).toContain('2 entries are no plain file');
});

describe('check again', () => {
  let id: string;
  const copy = async () => (await wipeView(s.runtime, id)).copies.find((c) => c.rootName === 'South')!;
  const check = async () => checkAgain(s.runtime, (await copy()).id);

  test('says same, changed, missing and new files each on its own, and adds a generation', async () => {
    id = card({ 'CLIP/T0001.MP4': 70_000, 'CLIP/T0002.MP4': 70_000, 'CLIP/T0003.MP4': 70_000 });
    await begin(id);
    await s.runtime.queue.idle('copy');
    expect(await check()).toMatchObject({
      same: 3,
      changed: [],
      missing: [],
      added: [],
      generation: 2,
      lists: [],
    });
    const spoilt = drive('South', 'SLW/Day 1', id, 'CLIP/T0002.MP4');
    const bytes = readFileSync(spoilt);
    bytes[40_000]! ^= 1;
    writeFileSync(spoilt, bytes);
    rmSync(drive('South', 'SLW/Day 1', id, 'CLIP/T0003.MP4'));
    put(drive('South', 'SLW/Day 1', id, 'CLIP/T0009.MP4'), 'new');
    expect(await check()).toMatchObject({
      same: 1,
      changed: ['CLIP/T0002.MP4'],
      missing: ['CLIP/T0003.MP4'],
      added: ['CLIP/T0009.MP4'],
      generation: 3,
    });
    // What was found wrong once is not believed the next time.
    expect(await check()).toMatchObject({
      changed: ['CLIP/T0002.MP4'],
      missing: ['CLIP/T0003.MP4'],
      generation: 4,
    });
    const answer = await wipeView(s.runtime, id);
    expect(answer.may).toBe(false);
    expect(answer.reasons.map((r) => r.text).join(' ')).toMatch(
      /1 file on South: .* does not hold the same bytes.*1 file on South: .* no longer there/,
    );
  });

  test('lists altered since are noticed by the chain', async () => {
    const lists = drive('North', 'SLW/Day 1', id, 'ascmhl');
    const name = readdirSync(lists).find((n) => n.startsWith('0001_'))!;
    writeFileSync(
      path.join(lists, name),
      readFileSync(path.join(lists, name), 'utf8').replace(/size="70000"/, 'size="70001"'),
    );
    const r = await checkAgain(
      s.runtime,
      (await wipeView(s.runtime, id)).copies.find((c) => c.rootName === 'North')!.id,
    );
    expect(r.lists.join(' ')).toContain('is not as the chain knows it');
  });

  test('a list made elsewhere, by md5sum', async () => {
    const folder = 'SLW/Day 1/' + id;
    const list = execFileSync('sh', ['-c', 'find CLIP -type f | sort | xargs md5sum'], {
      cwd: reader(id),
      encoding: 'utf8',
    });
    put(drive('South', 'lists', 'card.md5'), list);
    const r = await checkAnyFolder(s.runtime, { root: roots.South!, folder, list: 'lists/card.md5' });
    expect(r).toMatchObject({
      same: 1,
      changed: ['CLIP/T0002.MP4'],
      missing: ['CLIP/T0003.MP4'],
      generation: null,
    });
    expect(r.added).toEqual(['CLIP/T0009.MP4']);
    put(drive('South', 'lists', 'no.md5'), 'these are no sums');
    await expect(
      checkAnyFolder(s.runtime, { root: roots.South!, folder, list: 'lists/no.md5' }),
    ).rejects.toThrow('is not a hash list that Sort Shelf can read');
  });
});

describe('what is left on the card', () => {
  test('clips that were not ticked: two copies of the others are no leave to wipe it, until all of it is copied: to the same card', async () => {
    const id = card({ 'CLIP/T0001.MP4': 5000, 'CLIP/T0002.MP4': 5000, 'CARD.IDX': 10 });
    const first = await begin(id, { wholeCard: false, clips: ['CLIP/T0001.MP4'] });
    await s.runtime.queue.idle('copy');
    expect(await view(first)).toMatchObject({ state: 'done', files: 1, verified: 1 });
    expect(differs(id, 'North').trim().split('\n')).toHaveLength(2);
    const before = await wipeView(s.runtime, id);
    expect(before).toMatchObject({
      may: false,
      files: 3,
      because:
        '2 files of 3 were left on the card when it was copied, the first CARD.IDX. Copy the whole card to count them.',
    });
    expect(before.reasons[0]).toMatchObject({ files: ['CARD.IDX', 'CLIP/T0002.MP4'], way: { do: 'copy' } });
    expect((await offloadDetail(s.runtime, first)).list.map((f) => f.path)).toEqual(['CLIP/T0001.MP4']);
    const [looked] = (await look(s.runtime, roots['Reader 1']!, '')).cards;
    expect(looked).toMatchObject({
      known: { labels: [id], newFiles: 0, hash: 'xxh128' },
      suggestion: { cardId: { value: id } },
    });
    await expect(begin(id, { cardId: 'B900', clips: ['CLIP/T0002.MP4'] })).rejects.toThrow(
      `This card is in the job as ${id}.`,
    );
    await expect(begin(id, { hash: 'md5' })).rejects.toThrow('hashed by XXH3-128');
    // The second go completes the first: only what is in no copy yet is copied.
    const rest = await begin(id, { clips: ['CLIP/T0001.MP4', 'CLIP/T0002.MP4'] });
    await s.runtime.queue.idle('copy');
    expect(await view(rest)).toMatchObject({
      state: 'done',
      files: 2,
      physical: (await view(first)).physical,
    });
    expect(await wipeView(s.runtime, id)).toMatchObject({ verdict: 'yes', files: 3, reasons: [] });
    expect((await clipViews(s.runtime, id)).map((c) => c.original)).toEqual(['T0001', 'T0002']);
    await expect(begin(id)).rejects.toThrow('in verified copies there already');
  });

  test('a card with more than can be listed is not copied in part', async () => {
    const id = card({ 'CLIP/T0001.MP4': 5000, 'CLIP/T0002.MP4': 5000 });
    const before = walkLimits.entries;
    walkLimits.entries = 1;
    try {
      await expect(begin(id)).rejects.toThrow('holds more than 1 files and folders');
    } finally {
      walkLimits.entries = before;
    }
    expect(existsSync(drive('North', 'SLW/Day 1', id))).toBe(false);
  });
});
