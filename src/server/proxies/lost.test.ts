import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { copyFileSync, mkdirSync, renameSync, rmSync, utimesSync } from 'node:fs';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import { placesOf } from '../cards';
import { files } from '../cards/tables';
import { beginJob } from '../jobs/jobs';
import { jobs } from '../jobs/tables';
import { log } from '../logbook/tables';
import { addRoot } from '../places/roots';
import { walkLimits } from '../platform/files/walk';
import { inJob } from '../services';
import { hashTree, makeClip, put, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { takeInCard } from '../testing/takeInCard';
import { adopt } from './adopt';
import { lookForLost, takeFound } from './findLost';
import { provePairs } from './provePairs';
import { proxiesView } from './views';
import { watchAllPairs, watchPairs } from './watchPairs';

// Originals and proxies that are moved, renamed, changed or unplugged outside.

let s: TestShelf;
let at: string;
let uploads: string;
const NOTHING = { lost: 0, found: 0, changed: 0 };
const lineOf = async (name: string) =>
  (await proxiesView(s.runtime)).pairs.find((p) => String(p.name) === name && p.file !== null)!;
const move = (from: string, to: string) => {
  mkdirSync(path.dirname(to), { recursive: true });
  renameSync(from, to);
};
const inShelf = (name: string) => path.join(s.shelf, 'In', name);
const inUploads = (name: string) => path.join(at, name);
const foundOf = async () =>
  (await lookForLost(s.runtime)).found.map((f) => [f.lost.role, f.lost.was, f.at.path, f.by]);

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  at = path.join(s.dir, 'uploads');
  const names = ['T0001', 'T0002', 'T0003', 'T0004'];
  for (const [i, name] of names.entries()) {
    const of = { frames: 10 + 2 * i, start: `10:0${i}:00:00` };
    makeClip(inShelf(`${name}.MP4`), of);
    makeClip(inUploads(`${name}.mov`), { ...of, scaledTo: '160:90', codec: ['-c:v', 'mjpeg'], audio: [2] });
  }
  put(inShelf('T0002M01.XML'), '<NonRealTimeMeta/>');
  await takeInCard(s);
  uploads = (await addRoot(s.runtime, { kind: 'source', path: at })).id;
  const { clips } = await proxiesView(s.runtime);
  await adopt(s.runtime, {
    root: uploads,
    pairs: clips.map((c) => ({ path: `${c.name}.mov`, clip: c.clip })),
  });
  await s.runtime.queue.drainKind('prove');
});
afterAll(() => s.close());

describe('files of pairs', () => {
  test('that are as they were are not compared again', async () => {
    expect((await proxiesView(s.runtime)).pairs.map((p) => p.state)).toEqual(Array(4).fill('proven'));
    expect(await watchPairs(s.runtime)).toEqual(NOTHING);
  });

  test('one that is gone makes its pair lost, which says where it is missing; once it is back the pair is as it was', async () => {
    const { checkedAt } = await lineOf('T0001');
    move(inUploads('T0001.mov'), path.join(s.dir, 'aside.mov'));
    expect(await watchPairs(s.runtime)).toEqual({ ...NOTHING, lost: 1 });
    expect(await lineOf('T0001')).toMatchObject({
      state: 'lost',
      reason: 'the proxy is not at its place',
    });
    expect(await watchPairs(s.runtime)).toEqual(NOTHING);
    // Proving it again says the same, and not that it does not match.
    await provePairs(s.runtime, [(await lineOf('T0001')).clip]);
    expect((await lineOf('T0001')).state).toBe('lost');
    move(path.join(s.dir, 'aside.mov'), inUploads('T0001.mov'));
    expect(await watchPairs(s.runtime)).toEqual({ ...NOTHING, found: 1 });
    expect(await lineOf('T0001')).toMatchObject({ state: 'proven', reason: '' });
    expect(Date.parse((await lineOf('T0001')).checkedAt!)).toBeGreaterThanOrEqual(Date.parse(checkedAt!));
  });

  test('of an archived job are left alone', async () => {
    move(inUploads('T0001.mov'), path.join(s.dir, 'aside.mov'));
    await s.runtime.db.update(jobs).set({ putAwayAt: new Date() });
    await watchAllPairs(s.runtime);
    expect((await lineOf('T0001')).state).toBe('proven');
    await s.runtime.db.update(jobs).set({ putAwayAt: null });
    await watchAllPairs(s.runtime);
    expect((await lineOf('T0001')).state).toBe('lost');
    move(path.join(s.dir, 'aside.mov'), inUploads('T0001.mov'));
    await watchAllPairs(s.runtime);
    const said = (await s.runtime.db.select({ text: log.text }).from(log)).map((l) => l.text);
    expect(said).toEqual(
      expect.arrayContaining(['Not at its place: T0001.mov', 'At its place again: T0001.mov']),
    );
  });

  test('on a drive that is not there nothing is lost, and proving leaves the pairs as they were', async () => {
    renameSync(at, `${at}-unplugged`);
    expect(await watchPairs(s.runtime)).toEqual(NOTHING);
    // What is there is not called all of it.
    expect((await lookForLost(s.runtime)).offline).toEqual(['uploads']);
    await provePairs(s.runtime, [(await lineOf('T0001')).clip]);
    expect((await lineOf('T0001')).state).toBe('proven');
    renameSync(`${at}-unplugged`, at);
  });

  test('one that was replaced is compared anew, and does not match', async () => {
    move(inUploads('T0004.mov'), path.join(s.dir, 'T0004.mov'));
    makeClip(inUploads('T0004.mov'), { frames: 9, start: '10:03:00:00', scaledTo: '160:90' });
    expect(await watchPairs(s.runtime)).toEqual({ ...NOTHING, changed: 1 });
    await s.runtime.queue.drainKind('prove');
    expect(await lineOf('T0004')).toMatchObject({
      state: 'mismatched',
      reason: expect.stringContaining('frame count: original 16, proxy 9'),
    });
    expect(await watchPairs(s.runtime)).toEqual(NOTHING);
    rmSync(inUploads('T0004.mov'));
    move(path.join(s.dir, 'T0004.mov'), inUploads('T0004.mov'));
    expect(await watchPairs(s.runtime)).toEqual({ ...NOTHING, changed: 1 });
    await s.runtime.queue.drainKind('prove');
    expect((await lineOf('T0004')).state).toBe('proven');
  });

  test('an original that was replaced is read again, and its pair compared with what it is now', async () => {
    move(inShelf('T0003.MP4'), path.join(s.dir, 'T0003.MP4'));
    makeClip(inShelf('T0003.MP4'), { frames: 20, start: '10:02:00:00' });
    expect(await watchPairs(s.runtime)).toEqual({ ...NOTHING, changed: 1 });
    await s.runtime.queue.drainKind('read');
    await s.runtime.queue.drainKind('rest');
    expect(await lineOf('T0003')).toMatchObject({
      state: 'mismatched',
      reason: expect.stringContaining('frame count: original 20, proxy 14'),
    });
    rmSync(inShelf('T0003.MP4'));
    move(path.join(s.dir, 'T0003.MP4'), inShelf('T0003.MP4'));
    expect((await watchPairs(s.runtime)).changed).toBe(1);
    await s.runtime.queue.drainKind('read');
    await s.runtime.queue.drainKind('rest');
    await s.runtime.queue.drainKind('filmstrip');
    expect((await lineOf('T0003')).state).toBe('proven');
  });
});

describe('lost files', () => {
  test('are found by their contents under another name and folder, a sidecar by size and time; nothing is moved', async () => {
    move(inUploads('T0001.mov'), inUploads('old/wheel.mov'));
    move(inShelf('T0002.MP4'), path.join(s.shelf, 'Elsewhere/T0002.MP4'));
    move(inShelf('T0002M01.XML'), path.join(s.shelf, 'Elsewhere/T0002M01.XML'));
    // As long, and something else; and of the same time.
    put(path.join(s.shelf, 'Elsewhere/T0002M02.XML'), '<NonRealTimeMetb/>');
    await watchPairs(s.runtime);
    expect((await lineOf('T0002')).reason).toBe('the original is not at its place');
    const before = [hashTree(s.shelf), hashTree(at)];
    expect(await foundOf()).toEqual([
      ['original', 'In/T0002.MP4', 'Elsewhere/T0002.MP4', 'contents'],
      ['sidecar', 'In/T0002M01.XML', 'Elsewhere/T0002M01.XML', 'sizeAndTime'],
      ['proxy', 'T0001.mov', 'old/wheel.mov', 'contents'],
    ]);
    expect([hashTree(s.shelf), hashTree(at)]).toEqual(before);
  });

  test('one that became another meanwhile is refused, the others are used from where they are; their pairs are proven as before', async () => {
    const { found } = await lookForLost(s.runtime);
    const xml = path.join(s.shelf, 'Elsewhere/T0002M01.XML');
    utimesSync(xml, 1, 1);
    const wanted = found.map((f) => ({ file: f.lost.file, root: f.at.root, path: f.at.path }));
    expect(await takeFound(s.runtime, { files: wanted })).toEqual({
      taken: 2,
      refused: [
        {
          file: 'Elsewhere/T0002M01.XML',
          why: expect.stringContaining('is not the file that was lost'),
        },
      ],
    });
    expect([(await lineOf('T0001')).state, (await lineOf('T0002')).state]).toEqual(['proven', 'proven']);
    const { file } = await lineOf('T0001');
    expect((await placesOf(s.runtime.db, file!)).map((p) => [p.path, p.until === null])).toEqual([
      ['old/wheel.mov', true],
      ['T0001.mov', false],
    ]);
    // Twice is refused: it is at its place.
    expect((await takeFound(s.runtime, { files: wanted })).taken).toBe(0);
  });

  test('one that is at two places, or of which there are two, is left to a person; a copy of a file that is there is none', async () => {
    copyFileSync(inUploads('T0003.mov'), inUploads('another T0003.mov'));
    move(inUploads('T0004.mov'), inUploads('once/T0004.mov'));
    copyFileSync(inUploads('once/T0004.mov'), inUploads('twice.mov'));
    await watchPairs(s.runtime);
    const view = await lookForLost(s.runtime);
    expect(view.found).toEqual([]);
    expect(view.open.map((o) => [o.lost.was, o.places.map((p) => p.path).sort()])).toEqual([
      ['T0004.mov', ['once/T0004.mov', 'twice.mov']],
    ]);
    expect(view.none.map((n) => n.was)).toEqual(['In/T0002M01.XML']);
    expect([view.offline, view.inPart]).toEqual([[], []]);
    const { entries } = walkLimits;
    walkLimits.entries = 2;
    expect((await lookForLost(s.runtime)).inPart).toContain('uploads');
    walkLimits.entries = entries;
    const [{ lost, places }] = view.open as [(typeof view.open)[number]];
    expect(
      await takeFound(s.runtime, {
        files: [{ file: lost.file, root: places[0]!.root, path: places[0]!.path }],
      }),
    ).toEqual({ taken: 1, refused: [] });
    // The copy that was chosen has a time of its own: it is compared anew.
    await s.runtime.queue.drainKind('prove');
    expect((await lineOf('T0004')).state).toBe('proven');
  });

  test('one that is known by size and time only has its pair proven anew, by its contents', async () => {
    const { file } = await lineOf('T0001');
    await s.runtime.db.update(files).set({ sample: null }).where(eq(files.id, file!));
    move(inUploads('old/wheel.mov'), inUploads('new/wheel.mov'));
    const { found } = await lookForLost(s.runtime);
    expect(found.map((f) => [f.at.path, f.by])).toEqual([['new/wheel.mov', 'sizeAndTime']]);
    await takeFound(s.runtime, {
      files: found.map((f) => ({ file: f.lost.file, root: f.at.root, path: f.at.path })),
    });
    expect((await lineOf('T0001')).state).toBe('unproven');
    await s.runtime.queue.drainKind('prove');
    expect((await lineOf('T0001')).state).toBe('proven');
  });

  test('a place that is another file’s is not taken, and a file of another job’s neither', async () => {
    move(inUploads('T0003.mov'), inUploads('gone.mov'));
    rmSync(inUploads('another T0003.mov'));
    const { clip, file } = await lineOf('T0003');
    const other = { ...(await s.runtime.db.select().from(files).where(eq(files.id, file!)))[0]! };
    await s.runtime.db.insert(files).values({ ...other, id: 'other', clip, path: 'gone.mov' });
    expect((await lookForLost(s.runtime)).found).toEqual([]);
    const wanted = { files: [{ file: file!, root: uploads, path: 'gone.mov' }] };
    expect((await takeFound(s.runtime, wanted)).refused[0]!.why).toContain('is a file of a clip already');
    expect((await takeFound(inJob(s.runtime, 'none'), wanted)).refused[0]!.why).toContain(
      'no longer of a clip of the job',
    );
  });
});
