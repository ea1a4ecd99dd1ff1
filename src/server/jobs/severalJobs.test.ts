import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { sql } from 'drizzle-orm';
import { PgDialect } from 'drizzle-orm/pg-core';
import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { namingRequest } from '../../core/naming/shapes';
import { Replay } from '../../core/records/replay';
import { addWork } from '../cards/addWork';
import { clipViews } from '../cards/clipViews';
import { clipFile } from '../cards/clipFiles';
import { setClock, clocksView, openSuspicions } from '../facts/clocks';
import { correctClips } from '../facts/correct';
import { sideBySide, statedView } from '../facts/facts';
import { factLines, factPage } from '../facts/table';
import { extract } from '../facts/extract';
import { look } from '../intake/look';
import { forgetCard, takeIn } from '../intake/takeIn';
import { scanClips } from '../intake/scanClips';
import { applyNaming, undoPlan } from '../naming';
import { planNaming } from '../naming/naming';
import { clipDetail } from '../overview/clipDetail';
import { logView, planDetail } from '../overview/logbook';
import { cardDetail, wallView } from '../overview/wall';
import { actOnWork } from '../proxies/actOnWork';
import { proxiesView, workSummary } from '../proxies/views';
import { exportJob } from '../records/exportJob';
import { TABLES } from '../records/recorded';
import type { InJob } from '../runtime';
import { hashTree, makeClip, testShelf, type TestShelf } from '../testing/media';
import { viewFrame } from '../viewing/viewClip';
import { jobView } from './job';
import { beginJob, jobByCode, jobList, putAway } from './jobs';
import { removeJob } from '../removal';

// Two jobs whose cards, clips, days and cameras bear the same names, beside one another in one library.

let s: TestShelf;
let slw: InJob;
let ebb: InJob;
const at = (...p: string[]) => path.join(s.shelf, ...p);
const request = namingRequest();
const name = async (r: InJob) => {
  const { preview } = await planNaming(r, request);
  return applyNaming(r, { ...request, fingerprint: preview.fingerprint });
};
const take = (r: InJob, folder: string, date: string) =>
  takeIn(r, {
    root: 'shelf',
    path: folder,
    cards: [{ folder: '', camera: 'B', cardId: 'B001', day: 1, date }],
  });

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, 'slw');
  await beginJob(s.runtime, { name: 'Ebb', code: 'EBB', zoneMinutes: 0 }, 'ebb');
  [slw, ebb] = [s.runtime.inJob('slw'), s.runtime.inJob('ebb')];
  for (const [folder, day, clips] of [
    ['First', '05', 2],
    ['Second', '06', 3],
  ] as const)
    for (let n = 1; n <= clips; n++)
      makeClip(at(folder, `T000${n}.MP4`), {
        start: `1${n}:00:00:00`,
        created: `2026-05-${day}T1${n}:00:00Z`,
        frames: 5 + n,
      });
  await take(slw, 'First', '2026-05-05');
  await take(ebb, 'Second', '2026-05-06');
  await s.runtime.queue.drain();
});
afterAll(() => s.close());

describe('two jobs of the same labels', () => {
  test('each shows its own, and counts its own', async () => {
    expect((await clipViews(slw, 'B001')).length).toBe(2);
    expect((await clipViews(ebb, 'B001')).length).toBe(3);
    expect((await clipViews(slw)).length).toBe(2);
    expect((await wallView(slw)).cards).toMatchObject([{ id: 'B001', clips: 2 }]);
    expect((await wallView(ebb)).cards).toMatchObject([{ id: 'B001', clips: 3 }]);
    expect((await cardDetail(ebb, 'B001')).views.length).toBe(3);
    expect((await jobView(slw)).days).toEqual([{ number: 1, date: '2026-05-05' }]);
    expect((await jobView(ebb)).days).toEqual([{ number: 1, date: '2026-05-06' }]);
    expect((await jobView(ebb)).cameras).toEqual([{ label: 'B', model: null }]);
    const asked = { fields: ['start' as const], words: '', only: [] };
    expect((await factLines(ebb, { words: '', only: [], by: 'card' })).groups).toEqual([
      { value: 'B001', clips: 3 },
    ]);
    for (const sorting of [null, { by: 'start' as const, down: true }, { by: 'name' as const, down: false }])
      expect((await factPage(ebb, { ...asked, sorting, offset: 0, limit: 9 })).clips.length).toBe(3);
    expect((await statedView(slw)).cameras).toMatchObject([{ label: 'B', clips: 2 }]);
    expect((await proxiesView(slw)).clips.filter((c) => c.needed).length).toBe(2);
    expect((await logView(slw)).entries.map((e) => e.text)).toEqual(
      expect.arrayContaining(['Created the job Slack Water (SLW)', 'Took in B001: 2 clips, in place']),
    );
    expect((await logView(slw)).entries.map((e) => e.text).join()).not.toContain('Ebb');
    expect(await scanClips(slw, null)).toMatchObject({ same: 2, again: 0, missing: [] });
    expect(await scanClips(ebb, 'B001')).toMatchObject({ same: 3, again: 0, missing: [] });
    expect(await jobList(s.runtime)).toMatchObject([
      { code: 'EBB', days: 1, cards: 1, clips: 3 },
      { code: 'SLW', days: 1, cards: 1, clips: 2 },
    ]);
  });

  test('a clip, a plan or work of another job is not there', async () => {
    const [other] = await clipViews(ebb);
    await expect(clipDetail(slw, other!.id)).rejects.toMatchObject({ title: 'Not found' });
    await expect(clipFile(slw, other!.id, 'original')).rejects.toMatchObject({ title: 'Not found' });
    await expect(viewFrame(slw, other!.id, 'original', 0, 100)).rejects.toThrow('no longer in the job');
    await expect(sideBySide(slw, [other!.id])).rejects.toMatchObject({ title: 'Not found' });
    await expect(
      correctClips(slw, { clips: [other!.id], set: [{ field: 'comment', value: 'x' }] }),
    ).rejects.toMatchObject({ title: 'Not found' });
    expect(await addWork(slw, 'proxy', [other!.id])).toEqual({ added: 0 });
    await addWork(ebb, 'proxy', [other!.id]);
    expect((await workSummary(slw)).proxies).toEqual([]);
    const [open] = (await workSummary(ebb)).proxies;
    expect(await actOnWork(slw, { action: 'cancel', work: [open!.id] })).toEqual({ changed: 0 });
    expect(await actOnWork(ebb, { action: 'cancel', work: [open!.id] })).toEqual({ changed: 1 });
  });

  test('a clock that is set in one is not set in the other', async () => {
    await setClock(slw, { camera: 'B', fromDay: 1, toDay: 1, seconds: 3600, note: '' });
    expect((await clocksView(slw)).clocks.length).toBe(1);
    expect((await clocksView(ebb)).clocks).toEqual([]);
    expect((await clipViews(slw))[0]!.recordedAt).toBe('2026-05-05T12:00:00');
    expect((await clipViews(ebb))[0]!.recordedAt).toBe('2026-05-06T11:00:00');
    expect(await openSuspicions(ebb)).toEqual([]);
  });

  test('names, proxies and the way back of one leave the other alone', async () => {
    const before = hashTree(s.shelf);
    const ids = async (r: InJob) => (await clipViews(r)).map((c) => c.id);
    await addWork(slw, 'proxy', await ids(slw));
    await addWork(ebb, 'proxy', await ids(ebb));
    await s.runtime.queue.drain();
    expect(Object.keys(hashTree(s.proxies)).sort()).toEqual([
      'not-named/EBB/B001/T0001.mp4',
      'not-named/EBB/B001/T0002.mp4',
      'not-named/EBB/B001/T0003.mp4',
      'not-named/SLW/B001/T0001.mp4',
      'not-named/SLW/B001/T0002.mp4',
    ]);
    const first = await name(slw);
    expect((await clipViews(ebb)).some((c) => c.named)).toBe(false);
    const second = await name(ebb);
    expect(Object.keys(hashTree(s.shelf)).sort()).toEqual([
      'EBB/D1_2026-05-06/B/B001/EBB_D1_B001_001_25p.MP4',
      'EBB/D1_2026-05-06/B/B001/EBB_D1_B001_002_25p.MP4',
      'EBB/D1_2026-05-06/B/B001/EBB_D1_B001_003_25p.MP4',
      'SLW/D1_2026-05-05/B/B001/SLW_D1_B001_001_25p.MP4',
      'SLW/D1_2026-05-05/B/B001/SLW_D1_B001_002_25p.MP4',
    ]);
    await expect(undoPlan(slw, second.planId)).rejects.toMatchObject({ title: 'Not found' });
    await expect(planDetail(slw, second.planId)).rejects.toMatchObject({ title: 'Not found' });
    await undoPlan(slw, first.planId);
    expect((await clipViews(ebb)).every((c) => c.named)).toBe(true);
    await undoPlan(ebb, second.planId);
    expect(hashTree(s.shelf)).toEqual(before);
  });

  test('footage that another job has is not taken in, and the other is named', async () => {
    await expect(take(slw, 'Second', '2026-05-06')).rejects.toThrow('as B001 of the job “Ebb”');
    expect((await look(slw, 'shelf', 'Second')).cards[0]!.already).toEqual(['B001 of the job “Ebb”']);
  });

  test('an extraction holds the clips of its job', async () => {
    expect(
      await extract(ebb, { from: { kind: 'all' }, fields: ['start'], formats: ['csv'], looks: false }),
    ).toMatchObject({ clips: 3, folder: expect.stringMatching(/^EBB /) });
  });
});

describe('the list of jobs', () => {
  test('a code is one job’s, in whatever case', async () => {
    await expect(beginJob(s.runtime, { name: 'Other', code: 'slw' })).rejects.toMatchObject({
      title: 'Clash',
    });
    expect((await jobByCode(s.runtime, 'ebb')).name).toBe('Ebb');
    await expect(jobByCode(s.runtime, 'NOPE')).rejects.toThrow('There is no job NOPE here');
  });

  test('a job is not put away while something of it is under way', async () => {
    const [clip] = await clipViews(slw);
    await s.runtime.queue.add('read', [clip!.id]);
    await expect(putAway(slw, true)).rejects.toThrow('reading is under way');
    await expect(removeJob(slw)).rejects.toThrow('reading is under way');
    await putAway(ebb, true);
    expect((await jobView(ebb)).putAwayAt).not.toBeNull();
    await s.runtime.queue.drain();
    await putAway(slw, true);
    await putAway(slw, false);
    expect((await jobView(slw)).putAwayAt).toBeNull();
    expect((await logView(slw)).entries.slice(0, 2).map((e) => e.text)).toEqual([
      'Reopened the job',
      'Archived the job',
    ]);
    await putAway(ebb, false);
  });

  test('an export is the job, the whole of it, and nothing of another', async () => {
    const replay = new Replay(TABLES);
    const file = await exportJob(ebb);
    for (const line of readFileSync(file, 'utf8').trim().split('\n')) replay.line(line);
    const exported = replay.tables();
    for (const t of TABLES) {
      const all = await s.runtime.db.execute<{ row: Record<string, unknown> }>(
        sql.raw(`select ${t.row ?? 'to_jsonb(t)'} as row from ${t.name} t`),
      );
      const mine = all.rows
        .map((r) => r.row)
        .filter((r) => ('job' in r ? r.job === 'ebb' : t.name !== 'jobs' || r.id === 'ebb'));
      const rows = exported.get(t.name)!;
      expect(rows.filter((r) => r.job === 'slw')).toEqual([]);
      if ('job' in (mine[0] ?? {}) || t.ofJob === 'true' || t.name === 'jobs')
        expect([...rows].map((r) => JSON.stringify(r)).sort()).toEqual(
          mine.map((r) => JSON.stringify(r)).sort(),
        );
    }
    // Five clips have an original each; two steps a clip were done, the proxy's and its own.
    expect(exported.get('files')!.length).toBe(6);
    expect(exported.get('pairs')!.length).toBe(3);
    expect(exported.get('steps')!.length).toBe(12);
  });

  test('what is changed while it is exported is in it as it is in the end', async () => {
    const [card, late] = [randomUUID(), randomUUID()];
    const physical = (id: string) =>
      sql`insert into physical_cards (id, label, root, folder, whole_volume, outside, cannot, first_seen, last_seen) values (${id}, 'B001', 'shelf', 'B001', true, '[]', '[]', now(), now())`;
    const run = (query: ReturnType<typeof sql>) => s.runtime.db.execute(query);
    for (const id of [card, late]) {
      await run(physical(id));
      await run(
        sql`insert into card_files (card, number, path, size, modified) values (${id}, 1, 'CLIP/1.MP4', 1, 1)`,
      );
      await run(
        sql`insert into card_readings (card, number, kind, value, at) values (${id}, 1, 'xxh3', '1', now())`,
      );
    }
    await run(sql`update cards set physical = ${card} where job = 'ebb'`);
    for (const id of ['kept', 'gone'])
      await run(sql`insert into bins (id, job, name) values (${id}, 'ebb', ${id})`);
    // The logbook is read last of all; what comes before it is read already.
    let changed = 0;
    const db = Object.create(s.runtime.db) as typeof s.runtime.db;
    db.execute = ((query: ReturnType<typeof sql>) => {
      if (changed > 0 || !new PgDialect().sqlToQuery(query).sql.includes('from log t'))
        return s.runtime.db.execute(query);
      changed++;
      return (async () => {
        await run(sql`update cards set physical = ${late} where job = 'ebb'`);
        await run(sql`update bins set name = 'renamed' where id = 'kept'`);
        await run(sql`delete from bins where id = 'gone'`);
        await run(sql`insert into bins (id, job, name) values ('new', 'ebb', 'new')`);
        return s.runtime.db.execute(query);
      })();
    }) as typeof db.execute;
    const lines = readFileSync(await exportJob(Object.assign(Object.create(ebb) as InJob, { db })), 'utf8')
      .trim()
      .split('\n');
    expect(changed).toBe(1);
    const replay = new Replay(TABLES);
    for (const line of lines) replay.line(line);
    const rows = (table: string) => replay.tables().get(table)!;
    expect(rows('bins').map((b) => b.name)).toEqual(['renamed', 'new']);
    expect(rows('physical_cards').map((c) => c.id)).toEqual([late]);
    expect([rows('card_files'), rows('card_readings')].flat().map((f) => f.card)).toEqual([late, late]);
    expect(rows('cards').map((c) => c.physical)).toEqual([late]);
    // One that ends before what was changed meanwhile is none.
    const cut = new Replay(TABLES);
    for (const line of lines.slice(0, lines.findIndex((l) => l.startsWith('{"upTo"')) + 1)) cut.line(line);
    expect(cut.mark).toBeNull();
    await run(sql`update cards set physical = null where job = 'ebb'`);
    await run(sql`delete from bins`);
    await run(sql`delete from physical_cards`);
  });

  test('a job that is removed is gone; its files stay, and the other job has all it had', async () => {
    const files = { ...hashTree(s.shelf), ...hashTree(s.proxies) };
    const other = await clipViews(slw);
    await removeJob(ebb);
    expect({ ...hashTree(s.shelf), ...hashTree(s.proxies) }).toEqual(files);
    expect(await clipViews(slw)).toEqual(other);
    await expect(clipViews(ebb)).rejects.toThrow('This job no longer exists');
    expect(await jobList(s.runtime)).toMatchObject([{ code: 'SLW' }]);
    for (const t of ['days', 'cameras', 'clocks', 'cards', 'clips', 'plans', 'work', 'offloads'])
      expect((await s.runtime.db.execute(sql.raw(`select 1 from ${t} where job = 'ebb'`))).rows.length).toBe(
        0,
      );
    expect((await logView(slw)).entries[0]!.text).toBe(
      'Removed the job Ebb (EBB); its files stay where they are',
    );
    // Its code and its footage are free again.
    await beginJob(s.runtime, { name: 'Ebb', code: 'EBB', zoneMinutes: 0 }, 'again');
    const again = s.runtime.inJob('again');
    await take(again, 'Second', '2026-05-06');
    await s.runtime.queue.drain();
    expect((await clipViews(again)).length).toBe(3);
    await forgetCard(again, 'B001');
  });

  test('one that was removed in another tab says so', async () => {
    await removeJob(s.runtime.inJob('again'));
    await expect(jobView(s.runtime.inJob('again'))).rejects.toThrow('This job no longer exists');
  });
});
