import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { parse } from 'csv-parse/sync';
import { execFileSync } from 'node:child_process';
import {
  appendFileSync,
  chmodSync,
  existsSync,
  readFileSync,
  readdirSync,
  realpathSync,
  renameSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import type { FieldId } from '../../core/facts/catalogue';
import { FactFile } from '../../core/facts/shapes';
import { facts, readings, said, shown } from './tables';
import { files } from '../cards/tables';
import { jobs } from '../jobs/tables';
import { work } from '../platform/work/tables';
import { alone, type TaskContext } from '../platform/work/context';
import { tagLimits, readTags } from '../reading/tagReader';
import { hashTree, makeClip, put, type TestShelf, testShelf, TEST_JOB } from '../testing/media';
import { clocksView, dropClock, setClock } from './clocks';
import { extract } from './extract';
import { logView } from '../overview/logbook';
import { correctClips, sayOfClips, undoSaid } from './correct';
import { sideBySide, statedView } from './facts';
import { dropFieldSet, fieldSetsView, importFieldSets, saveFieldSet } from './fieldSets';
import { beginJob } from '../jobs/jobs';
import { changeSettings } from './settings';
import { readClips } from './readClips';
import { factPage } from './table';
import { workOutAll } from './workOut';
import { look } from '../intake/look';
import { readFolder } from './readFolder';
import { addRoot } from '../places/roots';
import { roots } from '../places/tables';
import { scanClips } from '../intake/scanClips';
import { forgetCard, takeIn } from '../intake/takeIn';
import { clipViews } from '../cards/clipViews';
import { statementsOf } from '../cards/statements';
import { wallView } from '../overview/wall';

let s: TestShelf;
let source: string;
let rootId: string;
const at = (...p: string[]) => path.join(source, ...p);
/** All clips of the table by their names, each with the words of these fields. */
const table = async (...fields: FieldId[]): Promise<Record<string, (string | undefined)[]>> =>
  Object.fromEntries(
    (
      await factPage(s.runtime, { fields, words: '', only: [], sorting: null, offset: 0, limit: 500 })
    ).clips.map((c) => [c.name, c.cells.map((x) => x?.[0])]),
  );
const words = async (field: FieldId, name: string) => (await table(field))[name]![0];
const idOf = async (name: string) => (await clipViews(s.runtime)).find((v) => v.original === name)!.id;

const SIDECAR =
  '<Clip><CreationDate value="2026-05-06T09:44:38+00:00"/><Device manufacturer="Skerry" modelName="One" serialNo="77"/><Lens model="Prime" focalLength="35"/></Clip>';

beforeAll(async () => {
  s = await testShelf();
  source = path.join(s.dir, 'cards');
  // Camera C's clock is an hour slow; B's is right.
  const b = (name: string, time: string, more = {}) =>
    makeClip(at('B001', 'CLIP', `${name}.MP4`), {
      created: `2026-05-06T${time}Z`,
      start: `${time}:00`,
      ...more,
    });
  b('T0001', '10:44:39');
  b('T0002', '13:20:18', { rate: '100' });
  b('T0003', '15:00:00', { rate: '30000/1001', start: '15:00:00;00' });
  const c = (name: string, time: string) =>
    makeClip(at('C001', 'CLIP', `${name}.MP4`), { created: `2026-05-06T${time}Z`, start: null });
  c('S0001', '09:44:38');
  c('S0002', '12:20:17');
  put(at('C001', 'CLIP', 'S0001.XML'), SIDECAR);
  put(at('C001', 'CLIP', 'S0002.XML'), `<!DOCTYPE x [<!ENTITY a "b">]>${SIDECAR}`);
  makeClip(at('A001', 'A001_C001', 'A001_C001.MOV'), {
    created: '2026-05-06T16:00:00Z',
    start: '23:59:59:20',
  });
  put(
    at('A001', 'A001_C001', 'A001_C001.cdl'),
    '<ColorCorrection id="A001_C001"><SOPNode><Slope>1.1 1 0.9</Slope></SOPNode></ColorCorrection>',
  );
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  rootId = (await addRoot(s.runtime, { kind: 'source', path: realpathSync(source) })).id;
  await takeIn(s.runtime, {
    root: rootId,
    path: '',
    cards: [
      ['A001', 'A'],
      ['B001', 'B'],
      ['C001', 'C'],
    ].map(([folder, camera]) => ({
      folder: folder!,
      camera: camera!,
      cardId: folder!,
      day: 2,
      date: '2026-05-06',
    })),
  });
  await s.runtime.queue.drain();
});
afterAll(() => s.close());

describe('the table', () => {
  test('clips in shooting order, each field with its words and source; the rate of the edit is what most clips have', async () => {
    const t = await table('start', 'rate', 'speed', 'model', 'slope', 'fileName', 'iso');
    expect(Object.keys(t)).toEqual(['S0001', 'T0001', 'S0002', 'T0002', 'T0003', 'A001_C001']);
    expect(t.T0002!.slice(1, 3)).toEqual(['100 fps', '25%']);
    expect(t.T0003![0]).toBe('15:00:00;00');
    expect([t.S0001![3], t.A001_C001![4], t.T0001![5], t.T0001![6]]).toEqual([
      'One',
      '1.1 1 0.9',
      'T0001.MP4',
      undefined,
    ]);
    expect((await s.runtime.db.select().from(jobs))[0]!.rate).toEqual({ num: 25, den: 1 });
  });

  test('findings: a foreign rate, a timecode past midnight, none at all, a sidecar that cannot be read', async () => {
    const views = await clipViews(s.runtime);
    const of = (name: string) =>
      views
        .find((v) => v.original === name)!
        .problems.map((p) => p.text)
        .join(' ');
    expect(of('T0001')).toBe('');
    expect(of('T0002')).toBe('');
    expect(of('T0003')).toContain('29.97 fps does not belong to a job at 25');
    expect(of('A001_C001')).toContain('past midnight');
    expect(of('S0001')).toContain('time of day stands in');
    expect(of('S0002')).toContain('The sidecar S0002.XML is not valid XML');
  });

  test('side by side: what differs is marked, with every source', async () => {
    const side = await sideBySide(s.runtime, [await idOf('T0001'), await idOf('T0002')]);
    const row = (field: string) => side.rows.find((r) => r.field === field)!;
    expect([row('rate').differs, row('codec').differs]).toEqual([true, false]);
    expect(row('rate').cells.map((c) => c!.shown[0])).toEqual(['25 fps', '100 fps']);
    await expect(sideBySide(s.runtime, ['gone'])).rejects.toMatchObject({ title: 'Not found' });
  });

  test('who states what', async () => {
    const { cameras, rows } = await statedView(s.runtime);
    expect(cameras.map((c) => [c.label, c.clips])).toEqual([
      ['A', 1],
      ['B', 3],
      ['C', 2],
    ]);
    expect(rows.find((r) => r.field === 'lensModel')!.cells).toMatchObject({
      A: { stated: 0 },
      C: { stated: 1, of: 2, sources: ['sidecar'] },
    });
    expect(rows.find((r) => r.field === 'slope')!.cells.A).toMatchObject({
      stated: 1,
      of: 1,
      sources: ['look'],
    });
  });
});

test('a card whose folder says nothing is placed by its camera’s numbers', async () => {
  const more = path.join(s.dir, 'more');
  makeClip(path.join(more, 'offloaded', 'CLIP', 'T0004.MP4'), { created: '2026-05-06T17:00:00Z' });
  makeClip(path.join(more, 'offloaded', 'CLIP', 'T0005.MP4'), { created: '2026-05-06T17:10:00Z' });
  const { id } = await addRoot(s.runtime, { kind: 'source', path: realpathSync(more) });
  const [card] = (await look(s.runtime, id, 'offloaded')).cards;
  expect(card!.suggestion).toMatchObject({
    camera: { value: 'B', because: 'its numbers go on after T0003, the last of B001' },
    cardId: { value: 'B002', because: 'its numbers come after T0003, the last of B001' },
    day: { value: 2 },
  });
});

describe('corrections', () => {
  test('what the person says goes before what was read, of many clips at once, and can be taken back', async () => {
    const ids = [await idOf('T0001'), await idOf('T0002')];
    await correctClips(s.runtime, { clips: ids, set: [{ field: 'reel', value: 'B007' }] });
    expect(await words('reel', 'T0002')).toBe('B007');
    // It survives another reading.
    await s.runtime.queue.add('read', ids);
    await s.runtime.queue.drain();
    expect(await words('reel', 'T0002')).toBe('B007');
    await correctClips(s.runtime, { clips: ids, set: [{ field: 'reel', value: '' }] });
    expect(await words('reel', 'T0002')).toBe('B001');
  });

  test('what was said is taken back, and said again; what was said otherwise since stays', async () => {
    const [one, two] = [await idOf('T0001'), await idOf('T0002')];
    const scenes = async () => [await words('scene', 'T0001'), await words('scene', 'T0002')];
    await correctClips(s.runtime, { clips: [one], set: [{ field: 'scene', value: '12' }] });
    // One had another scene, the other none.
    const filled = await sayOfClips(s.runtime, {
      said: [one, two].map((clip) => ({ clip, field: 'scene' as const, value: '14B' })),
    });
    expect(filled).toMatchObject({ changed: 2, text: 'Filled in scene of 2 clips' });
    expect(await scenes()).toEqual(['14B', '14B']);
    const undone = await undoSaid(s.runtime, filled.undo!);
    expect(undone.text).toBe('Undone: Filled in scene of 2 clips');
    expect(await scenes()).toEqual(['12', undefined]);
    const again = await undoSaid(s.runtime, undone.undo!);
    expect(again.text).toBe('Filled in scene of 2 clips');
    expect(await scenes()).toEqual(['14B', '14B']);
    await correctClips(s.runtime, { clips: [two], set: [{ field: 'scene', value: '15' }] });
    const part = await undoSaid(s.runtime, again.undo!);
    expect(part.text).toBe('Undone: Filled in scene of 2 clips (1 value changed since stays as it is)');
    expect(await scenes()).toEqual(['12', '15']);
    expect((await logView(s.runtime)).entries[0]!.text).toBe(part.text);
    // Once, and only where it was done.
    await expect(undoSaid(s.runtime, again.undo!)).rejects.toThrow('This can no longer be undone');
    await expect(undoSaid(s.runtime.inJob('other'), part.undo!)).rejects.toThrow('can no longer be undone');
    // What changes nothing has no way back; what cannot be taken back any more says so.
    const same = await correctClips(s.runtime, { clips: [two], set: [{ field: 'scene', value: '15' }] });
    expect(same.undo).toBeNull();
    const last = await correctClips(s.runtime, {
      clips: [one, two],
      set: [{ field: 'scene', value: '' }],
    });
    await correctClips(s.runtime, { clips: [one, two], set: [{ field: 'scene', value: '16' }] });
    expect(await undoSaid(s.runtime, last.undo!)).toEqual({
      ...{ text: 'Nothing is left to be undone: it was changed since.', undo: null },
    });
    await correctClips(s.runtime, { clips: [one, two], set: [{ field: 'scene', value: '' }] });
  });

  test('what is no value of the field is refused with how to write it; nothing is changed', async () => {
    await expect(
      correctClips(s.runtime, {
        clips: [await idOf('T0001')],
        set: [{ field: 'start', value: '14:22:05:25' }],
      }),
    ).rejects.toMatchObject({
      message: expect.stringContaining('is not a valid start timecode for T0001'),
      about: { next: expect.stringContaining('14:22:05:00') },
    });
  });

  test('clips move to another card, camera and day; an emptied card goes; a clash is refused', async () => {
    const before = hashTree(source);
    const id = await idOf('A001_C001');
    await expect(
      correctClips(s.runtime, {
        clips: [id],
        set: [],
        card: { id: 'B001', camera: 'A', day: 2, date: null },
      }),
    ).rejects.toMatchObject({ title: 'Clash' });
    await correctClips(s.runtime, {
      clips: [id],
      set: [],
      card: { id: 'A005', camera: 'A', day: 3, date: '2026-05-07' },
    });
    expect((await wallView(s.runtime)).cards.map((c) => c.id)).toEqual(['A005', 'B001', 'C001']);
    expect((await clipViews(s.runtime, 'A005'))[0]!.problems.map((p) => p.text)).toContainEqual(
      'Recorded on 2026-05-06, but A005 is of day 3, 2026-05-07.',
    );
    await correctClips(s.runtime, {
      clips: [id],
      set: [],
      card: { id: 'A001', camera: 'A', day: 2, date: '2026-05-06' },
    });
    expect(hashTree(source)).toEqual(before);
  });

  test('an order of trust of one’s own turns the choice, and back', async () => {
    const model = () => words('recordedAt', 'S0001');
    await changeSettings(s.runtime, { trust: { recordedAt: ['fileTime'] } });
    expect(await model()).not.toBe('2026-05-06 09:44:38');
    await changeSettings(s.runtime, { trust: {} });
    expect(await model()).toBe('2026-05-06 09:44:38');
  });
});

describe('clocks', () => {
  test('the slow one is found without being told; set right, names and facts follow, and what was read stays', async () => {
    const { suspicions } = await clocksView(s.runtime);
    expect(suspicions).toMatchObject([{ camera: 'C', fromDay: 2, seconds: 3600, kind: 'others', of: 2 }]);
    expect(suspicions[0]!.meetings.map((m) => m.otherName).sort()).toEqual(['T0001', 'T0002']);
    const statements = async () =>
      (await statementsOf(s.runtime.db, [await idOf('S0001')])).values().next().value;
    const read = await statements();
    const { id } = await setClock(s.runtime, {
      camera: 'C',
      fromDay: 2,
      toDay: 2,
      seconds: 3600,
      note: 'by the others',
    });
    expect(await words('recordedAt', 'S0001')).toBe('2026-05-06 10:44:38');
    expect((await clipViews(s.runtime, 'C001'))[0]!.start).toBe('10:44:38:00');
    expect((await clocksView(s.runtime)).suspicions).toEqual([]);
    expect(await statements()).toEqual(read);
    await expect(
      setClock(s.runtime, { camera: 'C', fromDay: 1, toDay: 3, seconds: 60, note: '' }),
    ).rejects.toMatchObject({ title: 'Clash' });
    await dropClock(s.runtime, id);
    expect(await words('recordedAt', 'S0001')).toBe('2026-05-06 09:44:38');
    await expect(dropClock(s.runtime, id)).rejects.toMatchObject({ title: 'Not found' });
  });
});

describe('extraction', () => {
  test('a card to CSV and JSON, its looks beside it under the clips’ names; twice never in one place', async () => {
    const wanted = {
      from: { kind: 'card' as const, card: 'A001' },
      fields: ['start' as const, 'rate' as const, 'slope' as const, 'fileName' as const],
      formats: ['csv' as const, 'json' as const],
      looks: true,
    };
    const done = await extract(s.runtime, wanted);
    expect(done.files).toEqual(['facts.csv', 'facts.json', 'Looks/A001_C001.cdl']);
    expect(done.one!.map((o) => [o.term, o.value])).toContainEqual(['Start timecode', '23:59:59:20']);
    const csv = parse(readFileSync(path.join(done.place, 'facts.csv')), { bom: true });
    expect(csv).toEqual([
      ['Clip', 'Card', 'Start timecode', 'Frame rate', 'Slope', 'File name'],
      ['A001_C001', 'A001', '23:59:59:20', '25', '1.1 1 0.9', 'A001_C001.MOV'],
    ]);
    const json = FactFile.parse(JSON.parse(readFileSync(path.join(done.place, 'facts.json'), 'utf8')));
    expect(json.clips[0]!.chosen.start).toEqual({ value: '23:59:59:20', source: 'timecodeTrack' });
    expect(readFileSync(path.join(done.place, 'Looks', 'A001_C001.cdl'))).toEqual(
      readFileSync(at('A001', 'A001_C001', 'A001_C001.cdl')),
    );
    const again = await extract(s.runtime, wanted);
    expect(again.folder).toBe(`${done.folder}-2`);
  });

  test('a look whose place is offline is named, and the facts are there', async () => {
    await s.runtime.db.insert(roots).values({ id: 'far', kind: 'source', name: 'Far', path: '/nowhere/far' });
    const isLook = eq(files.role, 'look');
    const [at] = await s.runtime.db.select().from(files).where(isLook);
    await s.runtime.db.update(files).set({ root: 'far' }).where(isLook);
    const done = await extract(s.runtime, {
      from: { kind: 'card' as const, card: 'A001' },
      fields: ['slope' as const],
      formats: ['csv' as const],
      looks: true,
    });
    await s.runtime.db.update(files).set({ root: at!.root }).where(isLook);
    expect(done.files).toEqual(['facts.csv']);
    expect(done.faults).toEqual([
      { name: 'A001_C001', why: expect.stringMatching(/cdl.*“Far” is not there/) },
    ]);
    expect(readFileSync(path.join(done.place, 'facts.csv'), 'utf8')).toContain('1.1 1 0.9');
  });

  test('a folder that is in no job; damaged files in it are named, the rest is there', async () => {
    const other = path.join(s.dir, 'other');
    makeClip(path.join(other, 'good.mp4'));
    put(path.join(other, 'cut.mp4'), readFileSync(path.join(other, 'good.mp4')).subarray(0, 3000));
    const root = await addRoot(s.runtime, { kind: 'source', path: realpathSync(other) });
    const before = hashTree(other);
    const done = await extract(s.runtime, {
      from: { kind: 'folder', root: root.id, path: '' },
      fields: null,
      formats: ['csv'],
      looks: true,
    });
    expect(done.clips).toBe(2);
    expect(done.faults).toMatchObject([{ name: 'cut', why: expect.stringContaining('cut short') }]);
    const [head, ...rows] = parse(readFileSync(path.join(done.place, 'facts.csv')), { bom: true });
    expect(rows.find((r) => r[0] === 'good')![head!.indexOf('Start timecode')]).toBe('14:22:05:00');
    expect(hashTree(other)).toEqual(before);
    expect((await clipViews(s.runtime)).some((v) => v.original === 'good')).toBe(false);
    // Read once: what was kept is what the second reading gives, but for a file that has changed.
    await s.runtime.db.update(readings).set({ notes: ['kept'] });
    expect((await readFolder(s.runtime, root.id, '')).map((c) => [c.fault === null, c.notes])).toEqual([
      [false, ['kept']],
      [true, ['kept']],
    ]);
    utimesSync(path.join(other, 'good.mp4'), new Date(), new Date('2026-05-07T12:00:00Z'));
    expect((await readFolder(s.runtime, root.id, '')).map((c) => [c.fault === null, c.notes])).toEqual([
      [false, ['kept']],
      [true, []],
    ]);
    await expect(
      extract(s.runtime, {
        from: { kind: 'folder', root: root.id, path: '../..' },
        fields: null,
        formats: ['csv'],
        looks: true,
      }),
    ).rejects.toMatchObject({ title: 'Refused' });
  });

  test('says how far it is; one that is stopped leaves nothing behind', async () => {
    const handover = path.join(s.dir, 'home', 'handover');
    const before = readdirSync(handover).length;
    const wanted = { from: { kind: 'all' as const }, fields: null, formats: ['json' as const], looks: true };
    const told: number[] = [];
    const task: TaskContext = { ...alone(), progress: (done, total) => told.push(done, total) };
    await expect(extract(s.runtime, wanted, { ...task, stopped: () => true })).rejects.toMatchObject({
      code: 'STOPPED',
    });
    expect(readdirSync(handover).length).toBe(before);
    expect((await extract(s.runtime, wanted, task)).clips).toBe(6);
    expect(told).toEqual([0, 6]);
  });

  test('of the table as it is narrowed', async () => {
    const filter = { words: 't000', only: [{ field: 'rate' as const, value: '25 fps' }] };
    const done = await extract(s.runtime, {
      from: { kind: 'table', filter },
      fields: ['rate'],
      formats: ['csv'],
      looks: false,
    });
    expect(parse(readFileSync(path.join(done.place, 'facts.csv')), { bom: true })).toEqual([
      ['Clip', 'Card', 'Frame rate'],
      ['T0001', 'B001', '25'],
    ]);
  });

  test('nothing to extract is said', async () => {
    await expect(
      extract(s.runtime, {
        from: { kind: 'card', card: 'Z999' },
        fields: null,
        formats: ['csv'],
        looks: true,
      }),
    ).rejects.toMatchObject({ title: 'Refused' });
    expect(existsSync(path.join(s.dir, 'home', 'handover'))).toBe(true);
    expect(
      readdirSync(path.join(s.dir, 'home', 'handover')).filter(
        (f) => !f.startsWith('SLW facts') && f !== '.sort-shelf',
      ),
    ).toEqual([]);
  });
});

test('field sets are kept by name, replaced, imported and forgotten; the shipped ones stay', async () => {
  const { id } = await saveFieldSet(s.runtime, { name: 'Mine', fields: ['start', 'iso'] });
  await saveFieldSet(s.runtime, { name: 'Mine', fields: ['iso'] });
  expect((await fieldSetsView(s.runtime)).filter((f) => !f.shipped)).toEqual([
    { id, name: 'Mine', fields: ['iso'], shipped: false },
  ]);
  await expect(saveFieldSet(s.runtime, { name: 'at a GLANCE', fields: ['iso'] })).rejects.toMatchObject({
    title: 'Refused',
  });
  expect(
    await importFieldSets(s.runtime, {
      kind: 'sort-shelf field sets',
      sets: [
        { name: 'Theirs', fields: ['model'] },
        { name: 'At a glance', fields: ['model'] },
      ],
    }),
  ).toEqual({ added: 1 });
  await dropFieldSet(s.runtime, id);
  await expect(dropFieldSet(s.runtime, id)).rejects.toMatchObject({ title: 'Not found' });
  expect((await fieldSetsView(s.runtime)).filter((f) => !f.shipped).map((f) => f.name)).toEqual(['Theirs']);
});

test('a scan reads again what has changed, and only that; what is gone is named', async () => {
  expect(await scanClips(s.runtime, null)).toEqual({
    same: 6,
    again: 0,
    missing: [],
    unseen: 0,
    offline: [],
  });
  const later = new Date('2026-05-09T00:00:00Z');
  writeFileSync(at('C001', 'CLIP', 'S0002.XML'), SIDECAR.replace('One', 'Two'));
  utimesSync(at('C001', 'CLIP', 'S0002.XML'), later, later);
  expect(await scanClips(s.runtime, null)).toEqual({
    same: 5,
    again: 1,
    missing: [],
    unseen: 0,
    offline: [],
  });
  await s.runtime.queue.drain();
  expect(await words('model', 'S0002')).toBe('Two');
  expect(await scanClips(s.runtime, 'C001')).toEqual({
    same: 2,
    again: 0,
    missing: [],
    unseen: 0,
    offline: [],
  });
});

test('a scan says of a drive that is away that it was not looked at, not that its files are missing', async () => {
  const drive = path.join(s.dir, 'away drive');
  makeClip(path.join(drive, 'CLIP', 'T0009.MP4'), { frames: 5 });
  const { id: root } = await addRoot(s.runtime, { kind: 'source', path: realpathSync(drive) });
  const card = { folder: '', camera: 'D', cardId: 'D009', day: 1, date: null };
  await takeIn(s.runtime, { root, path: '', cards: [card], singles: [] });
  await s.runtime.queue.drain();
  expect(await scanClips(s.runtime, 'D009')).toMatchObject({ same: 1, unseen: 0 });
  renameSync(drive, `${drive} unplugged`);
  const seen = { same: 0, again: 0, missing: [], unseen: 1, offline: ['away drive'] };
  expect(await scanClips(s.runtime, 'D009')).toEqual(seen);
  // Its card was taken out, and another one with the same names is there: that is not the clip.
  makeClip(path.join(drive, 'CLIP', 'T0009.MP4'), { frames: 9 });
  await s.runtime.db.update(files).set({ onCard: 'its card' }).where(eq(files.root, root));
  expect(await scanClips(s.runtime, 'D009')).toEqual(seen);
  await forgetCard(s.runtime, 'D009');
});

test('a word of a person that is no value, as a record may have it, says nothing, and the clip is there', async () => {
  const id = await idOf('T0001');
  const { database } = s.runtime;
  await database.query(
    `insert into said (clip, field, value) values ('${id}', 'aperture', '{"type": "number", "number": null}'), ('${id}', 'scene', '{"type": "text", "text": "7"}')`,
  );
  s.runtime.events.changed('clips');
  expect((await table('aperture', 'scene')).T0001).toEqual([undefined, '7']);
  await database.query(`delete from said where clip = '${id}'`);
  s.runtime.events.changed('clips');
});

test('what cannot be kept of one clip takes nothing from the others read with it, and can be read again', async () => {
  const { database } = s.runtime;
  const id = await idOf('S0002');
  await database.query(`
    create function refuse() returns trigger language plpgsql as $$ begin raise exception 'the row is refused'; end $$;
    create trigger refuse before update on clips for each row when (new.id = '${id}') execute function refuse();`);
  const ids = (await clipViews(s.runtime)).map((v) => v.id);
  await s.runtime.db.delete(facts).where(eq(facts.field, 'rate'));
  expect(await s.runtime.queue.add('read', ids)).toBe(6);
  await s.runtime.queue.drainKind('read');
  const failed = await s.runtime.db.select().from(work).where(eq(work.state, 'failed'));
  expect(failed.map((w) => [w.clip, w.kind])).toEqual([[id, 'read']]);
  expect(failed[0]!.fault).toContain('refused');
  s.runtime.events.changed('clips');
  expect(await words('rate', 'T0001')).toBe('25 fps');
  await database.query('drop trigger refuse on clips; drop function refuse;');
  expect(await s.runtime.queue.retry(failed.map((w) => w.id))).toBe(1);
  await s.runtime.queue.drain();
  expect(await s.runtime.db.select().from(work).where(eq(work.state, 'failed'))).toEqual([]);
});

test('what was not worked out when Sort Shelf ended is at its next start', async () => {
  await s.runtime.db
    .update(facts)
    .set({ chosen: false, words: '', number: null })
    .where(eq(facts.field, 'rate'));
  await s.runtime.db.update(shown).set({ workedOut: 0, brief: null });
  await workOutAll(s.runtime);
  expect(await words('rate', 'T0002')).toBe('100 fps');
  expect((await clipViews(s.runtime)).find((v) => v.original === 'T0002')).toMatchObject({
    frames: expect.any(Number),
    codec: 'H.264',
  });
});

test('what the person corrects while the clip is being read is not overwritten by the reading', async () => {
  const id = await idOf('T0002');
  const reading = readClips(s.runtime, [{ id: 'w', subject: id }]);
  await correctClips(s.runtime, { clips: [id], set: [{ field: 'scene', value: '14b' }] });
  await reading;
  expect(await s.runtime.db.select().from(said)).toMatchObject([
    { clip: id, field: 'scene', value: { type: 'text', text: '14b' } },
  ]);
  const stated = (await statementsOf(s.runtime.db, [id])).get(id)!;
  expect(stated.at(-1)).toEqual({
    field: 'scene',
    value: { type: 'text', text: '14b' },
    source: 'person',
  });
  expect(stated.length).toBeGreaterThan(5);
  expect(await words('scene', 'T0002')).toBe('14b');
  await correctClips(s.runtime, { clips: [id], set: [{ field: 'scene', value: '' }] });
});

test('clips are read, corrected, renamed and worked out at the same time: none waits for ever, none fails, the last word counts', async () => {
  const { runtime } = s;
  const ids = (await clipViews(runtime)).map((v) => v.id);
  for (let n = 0; n < 6; n++) {
    const failed = await readClips(
      runtime,
      ids.map((subject) => ({ id: `w${subject}`, subject })),
    );
    expect(failed.size).toBe(0);
    const clock = { camera: 'B', fromDay: 2, toDay: 2, seconds: 60 + n, note: '' };
    const [again, , , set] = await Promise.all([
      readClips(runtime, ids.map((subject) => ({ id: `v${subject}`, subject })).reverse()),
      correctClips(runtime, { clips: ids, set: [{ field: 'scene', value: `s${n}` }] }),
      runtime.db.update(files).set({ suffix: `_${n}` }),
      setClock(runtime, clock),
      workOutAll(runtime),
      table('scene'),
    ]);
    expect(again.size).toBe(0);
    expect(Object.values(await table('scene'))).toEqual(ids.map(() => [`s${n}`]));
    expect(await words('recordedAt', 'T0001')).toBe(`2026-05-06 10:45:${39 + n}`);
    await dropClock(runtime, set.id);
  }
  await runtime.db.update(files).set({ suffix: '' });
  await correctClips(runtime, { clips: ids, set: [{ field: 'scene', value: '' }] });
  expect(await runtime.db.$count(said)).toBe(0);
});

describe('a reader that hangs or dies', () => {
  const still = () =>
    put(
      path.join(s.dir, 'hang', `x${Math.random()}.jpg`),
      readFileSync(path.join(process.env.SORT_SHELF_FOOTAGE!, 'drawer/D001/DCIM/101WHIMB/WHIM0101.JPG')),
    );
  const pids = (): number[] => {
    try {
      return execFileSync('pgrep', ['-f', '-P', String(process.pid), 'exiftool'], { encoding: 'utf8' })
        .split('\n')
        .filter(Boolean)
        .map(Number);
    } catch {
      return [];
    }
  };

  test('killed, the next file is read by a new one', async () => {
    expect(Number((await readTags(still())).ImageWidth)).toBeGreaterThan(0);
    expect(pids().length).toBeGreaterThan(0);
    for (const pid of pids()) process.kill(pid, 'SIGKILL');
    // The file it was reading may be lost to it; the one after is not.
    await readTags(still()).catch(() => null);
    expect(Number((await readTags(still())).ImageWidth)).toBeGreaterThan(0);
  });

  test('stopped, its file is marked when its time is over, and the next is read', async () => {
    const before = tagLimits.milliseconds;
    tagLimits.milliseconds = 1500;
    try {
      await tagLimits.restart();
      expect(Number((await readTags(still())).ImageWidth)).toBeGreaterThan(0);
      for (const pid of pids()) process.kill(pid, 'SIGSTOP');
      await expect(readTags(still())).rejects.toMatchObject({ title: 'Unreadable' });
    } finally {
      for (const pid of pids()) process.kill(pid, 'SIGKILL');
      tagLimits.milliseconds = before;
      await tagLimits.restart();
    }
    expect(Number((await readTags(still())).ImageWidth)).toBeGreaterThan(0);
  });

  test('names with a line’s end or beginning like an option are read like others', async () => {
    for (const name of ['a\nb.jpg', '-execute.jpg', '#x.jpg']) {
      const file = put(path.join(s.dir, 'names', name), readFileSync(still()));
      expect(Number((await readTags(file)).ImageWidth)).toBeGreaterThan(0);
    }
  });

  test('a file that may not be read says so', async () => {
    const file = still();
    appendFileSync(file, 'x');
    chmodSync(file, 0o000);
    // Root may read everything: then there is nothing to refuse.
    if (process.getuid?.() !== 0) await expect(readTags(file)).rejects.toMatchObject({ title: 'Unreadable' });
    else expect(Number((await readTags(file)).ImageWidth)).toBeGreaterThan(0);
  });
});
