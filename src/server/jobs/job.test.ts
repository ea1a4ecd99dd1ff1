import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { linkSync, mkdirSync, renameSync, rmSync, symlinkSync, truncateSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import path from 'node:path';
import { and, eq } from 'drizzle-orm';
import { namingRequest } from '../../core/naming/shapes';
import type { Looked } from '../../core/intake/shapes';
import type { NamingRequest } from '../../core/naming/shapes';
import { files } from '../cards/tables';
import { plans, steps } from '../naming/tables';
import { FFMPEG } from '../platform/media/tools';
import { hashTree, makeClip, put, sizeOf, testShelf, type TestShelf, TEST_JOB } from '../testing/media';
import { applyNaming, recoverPlans, undoPlan } from '../naming';
import { browse } from '../intake/browse';
import { beginJob } from './jobs';
import { planNaming } from '../naming/naming';
import { addRoot } from '../places/roots';
import { look } from '../intake/look';
import { forgetCard, takeIn } from '../intake/takeIn';
import { cardDetail, wallView } from '../overview/wall';
import { clipDetail } from '../overview/clipDetail';
import { clipViews } from '../cards/clipViews';
import { logView } from '../overview/logbook';
import { proxiesView } from '../proxies/views';

let s: TestShelf;
const at = (...p: string[]) => path.join(s.shelf, ...p);
const choices = (l: Looked) =>
  l.cards.map((c) => ({
    folder: c.folder,
    camera: c.suggestion.camera.value,
    cardId: c.suggestion.cardId.value,
    day: c.suggestion.day.value,
    date: c.suggestion.date.value,
  }));
const name = async (extra: Partial<NamingRequest> = {}) => {
  const { preview } = await planNaming(s.runtime, namingRequest(extra));
  return applyNaming(s.runtime, { ...namingRequest(extra), fingerprint: preview.fingerprint });
};

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  for (const [day, card] of [
    ['05', 'B001'],
    ['06', 'B002'],
  ] as const) {
    for (const n of [1, 2, 4]) {
      const stem = `T000${n}`;
      makeClip(at('Offloaded', card, 'CLIP', `${stem}.MP4`), {
        start: `1${n}:00:00:00`,
        created: `2026-05-${day}T1${n}:00:00Z`,
        frames: 10,
      });
      put(
        at('Offloaded', card, 'CLIP', `${stem}.XML`),
        `<C><Tc tcFps="25"><E frameCount="0" value="0000001${n}"/></Tc><Device modelName="Tarn T5"/></C>`,
      );
      if (n !== 4)
        makeClip(at('Offloaded', card, 'SUB', `${stem}_px.MP4`), {
          start: `1${n}:00:00:00`,
          scaledTo: '160:90',
          frames: 10,
        });
    }
  }
  put(at('Offloaded', 'B001', 'CARD.IDX'), 'x');
});
afterAll(() => s.close());

describe('the whole job on two cards whose names clash', () => {
  let before: Record<string, string>;

  test('look says what is there and stores nothing', async () => {
    before = hashTree(s.shelf);
    const l = await look(s.runtime, 'shelf', 'Offloaded');
    expect(l.cards.map((c) => [c.folder, c.shape.id, c.clips.length, c.proxySuffix, c.model])).toEqual([
      ['B001', 'clip-and-sub', 3, '_px', 'Tarn T5'],
      ['B002', 'clip-and-sub', 3, '_px', 'Tarn T5'],
    ]);
    expect(
      l.cards.map((c) => [
        c.suggestion.camera.value,
        c.suggestion.cardId.value,
        c.suggestion.day.value,
        c.suggestion.date.value,
      ]),
    ).toEqual([
      ['B', 'B001', 1, '2026-05-05'],
      ['B', 'B002', 2, '2026-05-06'],
    ]);
    expect(l.cards[0]!.aside).toMatchObject([{ path: 'CARD.IDX' }]);
    expect(l.cards[0]!.gaps).toMatchObject([{ from: 'T0003', to: 'T0003' }]);
    expect((await wallView(s.runtime)).cards).toEqual([]);
    expect((await browse(s.runtime, 'shelf', '')).folders).toMatchObject([
      { name: 'Offloaded', footage: 10 },
    ]);
  });

  test('taking in reads the facts, adopts the camera-made proxies and leaves the disk alone', async () => {
    const l = await look(s.runtime, 'shelf', 'Offloaded');
    await takeIn(s.runtime, { root: 'shelf', path: 'Offloaded', cards: choices(l) });
    await s.runtime.queue.drain();
    const clips = await clipViews(s.runtime, 'B001');
    expect(
      clips.map((c) => [c.original, c.state, c.start, c.frames, c.pair.state, c.pair.made, c.filmstrip]),
    ).toEqual([
      ['T0001', 'read', '11:00:00:00', 10, 'proven', false, true],
      ['T0002', 'read', '12:00:00:00', 10, 'proven', false, true],
      ['T0004', 'read', '14:00:00:00', 10, 'missing', false, true],
    ]);
    expect((await clipDetail(s.runtime, clips[0]!.id)).facts.find((f) => f.field === 'start')).toMatchObject({
      value: '11:00:00:00',
      source: 'timecode track',
    });
    expect(hashTree(s.shelf)).toEqual(before);
    expect((await look(s.runtime, 'shelf', 'Offloaded')).cards.map((c) => c.already)).toEqual([
      ['B001'],
      ['B002'],
    ]);
    await expect(
      takeIn(s.runtime, { root: 'shelf', path: 'Offloaded', cards: choices(l) }),
    ).rejects.toMatchObject({ title: 'Clash' });
  });

  test('a plan that is out of date is not applied', async () => {
    await expect(applyNaming(s.runtime, { ...namingRequest(), fingerprint: 'old' })).rejects.toMatchObject({
      title: 'Clash',
    });
    expect(hashTree(s.shelf)).toEqual(before);
  });

  test('every file of every family stands where the plan said, byte for byte, and undo puts it back', async () => {
    const { plan } = await planNaming(s.runtime, namingRequest());
    const adopted = plan.steps.find((x) => x.from.path.endsWith('T0002_px.MP4'))!;
    const frames = (p: string) =>
      execFileSync(FFMPEG(), ['-v', 'error', '-i', at(p), '-f', 'framemd5', 'pipe:1'], { encoding: 'utf8' });
    const pictures = frames(adopted.from.path);
    const result = await name();
    expect(result).toMatchObject({ state: 'done', done: 16, failed: [] });
    // FFmpeg's framemd5: every decoded frame of picture and sound of the adopted proxy is the same under its new name.
    expect(frames(adopted.to.path)).toBe(pictures);
    const after = hashTree(s.shelf);
    const expected = Object.fromEntries(
      Object.entries(before).map(([p, h]) => [plan.steps.find((x) => x.from.path === p)?.to.path ?? p, h]),
    );
    expect(after).toEqual(expected);
    expect(Object.keys(after)).toContain('SLW/D2_2026-05-06/B/B002/Proxy/SLW_D2_B002_001_25p_px.MP4');
    expect(Object.keys(after).filter((p) => p.startsWith('Offloaded'))).toEqual(['Offloaded/B001/CARD.IDX']);

    const undone = await undoPlan(s.runtime, result.planId);
    expect(undone).toMatchObject({ state: 'done', done: 16 });
    expect(hashTree(s.shelf)).toEqual(before);
    await expect(undoPlan(s.runtime, result.planId)).rejects.toMatchObject({ title: 'Refused' });
    expect((await clipViews(s.runtime)).every((c) => !c.named)).toBe(true);
  });

  test('missing proxies are made, proven, and follow their clip through naming and undo', async () => {
    const needs = (await proxiesView(s.runtime)).clips.filter((c) => c.needed);
    expect(needs.map((n) => n.because)).toEqual([
      expect.stringContaining('coded between frames'),
      expect.stringContaining('coded between frames'),
    ]);
    await s.runtime.queue.add(
      'proxy',
      needs.map((n) => n.clip),
    );
    await s.runtime.queue.drain();
    expect((await clipViews(s.runtime)).map((c) => c.pair.state)).toEqual(Array(6).fill('proven'));
    expect(Object.keys(hashTree(s.proxies)).sort()).toEqual([
      'not-named/SLW/B001/T0004.mp4',
      'not-named/SLW/B002/T0004.mp4',
    ]);
    const { planId } = await name();
    expect(Object.keys(hashTree(s.proxies))).toContain('SLW/D1_2026-05-05/B/B001/SLW_D1_B001_003_25p.mp4');
    await undoPlan(s.runtime, planId);
    expect(Object.keys(hashTree(s.proxies)).sort()).toEqual([
      'not-named/SLW/B001/T0004.mp4',
      'not-named/SLW/B002/T0004.mp4',
    ]);
    expect(hashTree(s.shelf)).toEqual(before);
  });

  test('a proxy made while its clip was named goes back with it', async () => {
    const [clip] = (await clipViews(s.runtime, 'B001')).filter((c) => c.original === 'T0004');
    await s.runtime.db.delete(files).where(eq(files.id, clip!.pair.file!));
    rmSync(path.join(s.proxies, 'not-named/SLW/B001/T0004.mp4'));
    const { planId } = await name();
    await s.runtime.queue.add('proxy', [clip!.id]);
    await s.runtime.queue.drain();
    expect(Object.keys(hashTree(s.proxies))).toContain('SLW/D1_2026-05-05/B/B001/SLW_D1_B001_003_25p.mp4');
    await undoPlan(s.runtime, planId);
    expect(Object.keys(hashTree(s.proxies)).sort()).toEqual([
      'not-named/SLW/B001/T0004.mp4',
      'not-named/SLW/B002/T0004.mp4',
    ]);
  });

  test('what stands on the shelf already is a clash, said before anything moves, and never overwritten', async () => {
    const stranger = put(at('SLW/D1_2026-05-05/B/B001/slw_d1_b001_001_25p.mp4'), 'not ours');
    const { preview } = await planNaming(s.runtime, namingRequest());
    expect(preview.stops).toBe(1);
    expect(preview.rows[0]!.problems).toMatchObject([{ level: 'stop', code: 'exists' }]);
    await expect(name()).rejects.toMatchObject({ title: 'Refused' });
    const left = preview.rows[0]!.clipId;
    const { planId } = await name({ without: [left] });
    expect(hashTree(s.shelf)['Offloaded/B001/CLIP/T0001.MP4']).toBe(before['Offloaded/B001/CLIP/T0001.MP4']);
    await undoPlan(s.runtime, planId);
    rmSync(stranger);
    rmSync(at('SLW'), { recursive: true, force: true });
    expect(hashTree(s.shelf)).toEqual(before);
  });

  test('a family whose file was changed meanwhile stays together where it was; the others go on', async () => {
    const { preview } = await planNaming(s.runtime, namingRequest());
    renameSync(at('Offloaded/B001/SUB/T0001_px.MP4'), at('away.mp4'));
    const result = await applyNaming(s.runtime, { ...namingRequest(), fingerprint: preview.fingerprint });
    expect(result.state).toBe('partly');
    expect(result.failed).toEqual([
      { file: 'Offloaded/B001/SUB/T0001_px.MP4', fault: 'T0001_px.MP4 is no longer there.' },
    ]);
    const names = Object.keys(hashTree(s.shelf));
    expect(names).toContain('Offloaded/B001/CLIP/T0001.MP4');
    expect(names).toContain('Offloaded/B001/CLIP/T0001.XML');
    expect(names.filter((p) => p.startsWith('SLW/')).length).toBe(13);
    // The way back meets a fault too: one file has gone away; its family stays, and can still be taken back later.
    const [first] = names.filter((p) => p.endsWith('D2_B002_001_25p.XML'));
    renameSync(at(first!), at('away.xml'));
    expect(await undoPlan(s.runtime, result.planId)).toMatchObject({
      state: 'partly',
      failed: [{ file: first }],
    });
    expect(Object.keys(hashTree(s.shelf)).filter((p) => p.startsWith('SLW/')).length).toBe(2);
    renameSync(at('away.xml'), at(first!));
    expect(await undoPlan(s.runtime, result.planId)).toMatchObject({ state: 'done', done: 3 });
    renameSync(at('away.mp4'), at('Offloaded/B001/SUB/T0001_px.MP4'));
    expect(hashTree(s.shelf)).toEqual(before);
  });

  test.each<[string, (from: string, to: string) => void]>([
    ['not begun', () => undefined],
    ['half done: both names on one file', (from, to) => linkSync(from, to)],
    ['done but not yet written down', (from, to) => renameSync(from, to)],
  ])('a plan killed with its step %s is finished at the next start', async (_, crash) => {
    const { planId } = await name();
    await undoPlan(s.runtime, planId);
    // The state a killed server leaves: the plan under way, a step begun, the disk somewhere between.
    await s.runtime.db.update(plans).set({ state: 'doing' }).where(eq(plans.id, planId));
    await s.runtime.db.update(steps).set({ state: 'waiting' }).where(eq(steps.plan, planId));
    const all = await s.runtime.db.select().from(steps).where(eq(steps.plan, planId));
    const first = all.find((x) => x.fromRoot === 'shelf');
    await s.runtime.db
      .update(steps)
      .set({ state: 'doing' })
      .where(and(eq(steps.plan, planId), eq(steps.number, first!.number)));
    mkdirSync(path.dirname(at(first!.toPath)), { recursive: true });
    crash(at(first!.fromPath), at(first!.toPath));
    await recoverPlans(s.runtime);
    expect(Object.keys(hashTree(s.shelf)).filter((p) => p.startsWith('SLW/')).length).toBe(16);
    expect((await logView(s.runtime)).entries[0]).toMatchObject({ kind: 'recovery' });
    await undoPlan(s.runtime, planId);
    expect(hashTree(s.shelf)).toEqual(before);
  });
});

describe('a source may only be read', () => {
  test('its clips are copied to the shelf, verified, and undo removes only the copies', async () => {
    const card = path.join(s.dir, 'stick', 'A001');
    makeClip(path.join(card, 'A001_C001', 'A001_C001.MOV'), {
      audio: [1, 1],
      created: '2026-05-05T08:00:00Z',
      start: '08:00:00:00',
    });
    put(path.join(card, 'A001_C001', 'A001_C001.cdl'), '<ColorDecisionList/>');
    const root = await addRoot(s.runtime, { kind: 'source', path: path.join(s.dir, 'stick') });
    const source = hashTree(card);
    const shelf = hashTree(s.shelf);
    const l = await look(s.runtime, root.id, '');
    await takeIn(s.runtime, { root: root.id, path: '', cards: choices(l) });
    await s.runtime.queue.drain();
    const result = await name({ cards: ['A001'] });
    const after = hashTree(s.shelf);
    expect(after['SLW/D1_2026-05-05/A/A001/SLW_D1_A001_001_25p.MOV']).toBe(source['A001_C001/A001_C001.MOV']);
    expect(after['SLW/D1_2026-05-05/A/A001/SLW_D1_A001_001_25p.cdl']).toBe(source['A001_C001/A001_C001.cdl']);
    expect(hashTree(card)).toEqual(source);
    await undoPlan(s.runtime, result.planId);
    expect(hashTree(s.shelf)).toEqual(shelf);
    expect(hashTree(card)).toEqual(source);
  });

  test('roots may not overlap', async () => {
    await expect(addRoot(s.runtime, { kind: 'source', path: s.shelf })).rejects.toMatchObject({
      title: 'Refused',
    });
    await expect(
      addRoot(s.runtime, { kind: 'source', path: path.join(s.dir, 'home') }),
    ).rejects.toMatchObject({ title: 'Refused' });
    await expect(
      addRoot(s.runtime, { kind: 'source', path: path.join(s.dir, 'none') }),
    ).rejects.toMatchObject({ title: 'Not found' });
    await expect(addRoot(s.runtime, { kind: 'source', path: 'relative' })).rejects.toMatchObject({
      title: 'Refused',
    });
  });
});

describe('bad input', () => {
  test('each fault is said where it is, the rest goes on', async () => {
    const odd = [`it's "one".mp4`, '-rf.mp4', 'wheel 🌊.mp4', 'two\nlines.mp4'];
    for (const o of odd) makeClip(at('Odd', o), { created: '2026-05-07T10:00:00Z' });
    put(at('Odd', 'empty.MP4'), '');
    put(at('Odd', 'text.MP4'), 'dear diary');
    const cut = makeClip(at('Odd', 'cut.mov'), { frames: 100, created: '2026-05-07T10:00:00Z' });
    truncateSync(cut, Math.floor(sizeOf(cut) / 2));
    symlinkSync('/etc/hostname', at('Odd', 'link.MP4'));
    const before = hashTree(s.shelf);
    const l = await look(s.runtime, 'shelf', 'Odd');
    const reasons = Object.fromEntries(l.cards[0]!.aside.map((a) => [a.path, a.reason]));
    expect(reasons['empty.MP4']).toContain('has no bytes');
    expect(reasons['text.MP4']).toContain('is text, not video');
    expect(reasons['link.MP4']).toContain('link');
    expect(reasons['cut.mov']).toContain('cut short');
    expect(l.cards[0]!.clips.map((c) => c.stem).sort()).toEqual([
      '-rf',
      'cut',
      `it's "one"`,
      'two\nlines',
      'wheel 🌊',
    ]);

    await takeIn(s.runtime, {
      root: 'shelf',
      path: 'Odd',
      cards: [{ folder: '', camera: 'X', cardId: 'X001', day: 3, date: '2026-05-07' }],
    });
    await s.runtime.queue.drain();
    const card = await cardDetail(s.runtime, 'X001');
    expect(
      card.views
        .filter((c) => c.state === 'read')
        .map((c) => c.original)
        .sort(),
    ).toEqual(['-rf', `it's "one"`, 'two\nlines', 'wheel 🌊']);
    expect(card.views.find((c) => c.original === 'cut')!.problems[0]).toMatchObject({
      level: 'stop',
      text: expect.stringContaining('cut short') as unknown,
    });

    await s.runtime.queue.add(
      'proxy',
      card.views.map((v) => v.id),
    );
    await s.runtime.queue.drain();
    const { work } = await proxiesView(s.runtime);
    expect(
      work
        .filter((w) => w.card === 'X001')
        .map((w) => [w.clipName, w.state])
        .sort(),
    ).toEqual([
      ['-rf', 'done'],
      ['cut', 'failed'],
      [`it's "one"`, 'done'],
      ['two\nlines', 'done'],
      ['wheel 🌊', 'done'],
    ]);
    const result = await name({ cards: ['X001'] });
    expect(result).toMatchObject({ state: 'done', done: 8 });
    expect(hashTree(s.shelf)['Odd/cut.mov']).toBe(before['Odd/cut.mov']);
    await undoPlan(s.runtime, result.planId);
    expect(hashTree(s.shelf)).toEqual(before);
  });

  test.each([
    ['a folder that vanished', 'Gone', 'Not found'],
    ['a path that climbs out', '../..', 'Refused'],
    ['a link out of the root', 'out', 'Refused'],
  ])('%s', async (_, folder, title) => {
    if (folder === 'out') symlinkSync(s.dir, at('out'));
    await expect(look(s.runtime, 'shelf', folder)).rejects.toMatchObject({ title });
    await expect(browse(s.runtime, 'shelf', folder)).rejects.toMatchObject({ title });
    await expect(
      takeIn(s.runtime, {
        root: 'shelf',
        path: folder,
        cards: [{ folder: '', camera: 'Z', cardId: 'Z001', day: 1, date: null }],
      }),
    ).rejects.toMatchObject({ title });
  });

  test('an empty folder holds no card', async () => {
    mkdirSync(at('Empty'));
    expect(await look(s.runtime, 'shelf', 'Empty')).toMatchObject({ cards: [], aside: [] });
    await expect(
      takeIn(s.runtime, {
        root: 'shelf',
        path: 'Empty',
        cards: [{ folder: '', camera: 'Z', cardId: 'Z001', day: 1, date: null }],
      }),
    ).rejects.toMatchObject({ title: 'Not found' });
  });

  test('a card taken in by mistake is forgotten: the disk is left alone, and it can be taken in anew', async () => {
    const before = hashTree(s.shelf);
    const { planId } = await name({ cards: ['X001'] });
    await expect(forgetCard(s.runtime, 'X001')).rejects.toMatchObject({ title: 'Refused' });
    await undoPlan(s.runtime, planId);
    await forgetCard(s.runtime, 'X001');
    expect(hashTree(s.shelf)).toEqual(before);
    await expect(cardDetail(s.runtime, 'X001')).rejects.toMatchObject({ title: 'Not found' });
    await takeIn(s.runtime, {
      root: 'shelf',
      path: 'Odd',
      cards: [{ folder: '', camera: 'Y', cardId: 'Y001', day: 3, date: '2026-05-07' }],
    });
    expect((await cardDetail(s.runtime, 'Y001')).views).toHaveLength(5);
    await expect(forgetCard(s.runtime, 'X001')).rejects.toMatchObject({ title: 'Not found' });
  });

  test('a card id or a day that is taken is said', async () => {
    makeClip(at('More/x.mp4'), { created: '2026-05-09T10:00:00Z' });
    const take = (cardId: string, day: number) =>
      takeIn(s.runtime, {
        root: 'shelf',
        path: 'More',
        cards: [{ folder: '', camera: 'X', cardId, day, date: '2026-05-09' }],
      });
    await expect(take('B001', 9)).rejects.toThrow('There is a card B001');
    await expect(take('X009', 1)).rejects.toThrow('Day 1 is 2026-05-05');
  });
});
