import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { eq } from 'drizzle-orm';
import {
  existsSync,
  lstatSync,
  mkdirSync,
  readFileSync,
  renameSync,
  rmSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import { newBlock } from '../../core/naming/blocks';
import { type Convention, DEFAULT_FOLDER_PLAN, type FolderPlan } from '../../core/naming/convention';
import { namingRequest, type NamingRequest } from '../../core/naming/shapes';
import { WatchOptions } from '../../core/watch';
import { Change } from '../../core/choose';
import { clips, files } from '../cards/tables';
import { changeChoice } from '../choose';
import { keyworded } from '../choose/tables';
import { sayOfClips } from '../facts';
import { beginJob } from '../jobs';
import { alone } from '../platform/work/context';
import { addRoot } from '../places';
import { hashTree, put, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { mayMountExfat, RealMounts } from '../testing/realMounts';
import { watches } from '../watch/tables';
import { storeShelved } from '../testing/shelve';
import { layer } from '../platform/files/fileSystem';
import { applyNaming, changedClips, planNaming, recoverPlans, undoPlan } from '.';
import { conventionsView, dropConvention, importConventions, keepConvention } from './library';
import { undoable } from './planStore';
import { plans, steps } from './tables';

let s: TestShelf;
beforeEach(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
});
afterEach(() => s.close());

/** Lays families of a card on the shelf: an original of its own bytes, its sidecar, its camera-made proxy. */
const lay = (folder: string, stems: readonly string[], root = s.shelf): void => {
  for (const stem of stems)
    for (const name of [`${stem}.MP4`, `${stem}.XML`, `${stem}_px.MP4`])
      put(path.join(root, folder, name), `${folder} ${name}`);
};
const named = (...blocks: Convention['blocks']): Convention => ({ name: 'Test', blocks, changes: [] });
const plain = named(newBlock('card'), newBlock('counter', 'n', { digits: 3 }));
const flat: FolderPlan = { ...DEFAULT_FOLDER_PLAN, levels: [[newBlock('card')]] };
const apply = async (given: Partial<NamingRequest> = {}) => {
  const request = namingRequest({ convention: plain, folderPlan: flat, ...given });
  const { preview } = await planNaming(s.runtime, request);
  return applyNaming(s.runtime, { ...request, fingerprint: preview.fingerprint });
};
const tree = (root = s.shelf) => Object.keys(hashTree(root)).sort();
const placed = async () => (await s.runtime.db.select().from(files)).map((f) => `${f.root}:${f.path}`).sort();

/** Two roots of one computer are on one volume here: they are told apart. */
const tellApart = (): void => {
  const volumeOf = s.runtime.devices.volumeOf.bind(s.runtime.devices);
  s.runtime.devices.volumeOf = async (p) => {
    const v = await volumeOf(p);
    return v && { ...v, id: p.startsWith(s.proxies) ? 'another' : v.id };
  };
};
const toProxies = { folderPlan: { ...flat, roles: {}, root: 'proxies' } };

test('a name with two counters that start again for the same is applied, and its numbers stay', async () => {
  lay('Card', ['T1', 'T2']);
  await storeShelved(s.runtime, 'Card');
  const own = { orderBy: 'cameraName' };
  const convention = named(newBlock('counter', 'a', own), newBlock('counter', 'b', { ...own, start: 50 }));
  expect((await apply({ convention })).failed).toEqual([]);
  expect(tree().filter((f) => f.endsWith('.MP4') && !f.includes('Proxy'))).toEqual([
    'B001/001_050.MP4',
    'B001/002_051.MP4',
  ]);
  const again = await planNaming(s.runtime, namingRequest({ convention, folderPlan: flat }));
  expect(again.preview.steps).toBe(0);
});

test('a name of keywords follows those the clip has now; a plan made before they changed is not applied', async () => {
  lay('Card', ['T1', 'T2']);
  await storeShelved(s.runtime, 'Card');
  const ids = (await s.runtime.db.select().from(clips).orderBy(clips.original)).map((c) => c.id);
  const change = async (c: object) => changeChoice(s.runtime, Change.parse(c));
  await change({ do: 'addKeyword', clips: [ids[1]], name: 'low water' });
  // What a part of it is called is not what it is called.
  const [low] = await s.runtime.db.select().from(keyworded);
  await change({ do: 'addKeyword', clips: ids, name: 'gate' });
  await s.runtime.db.insert(keyworded).values({ ...low!, clip: ids[0]!, range: 'part' });
  s.runtime.events.changed('choose');
  const convention = named(newBlock('original'), newBlock('keyword', 'k', { most: 5 }));
  const names = () => tree().filter((f) => f.endsWith('.MP4') && !f.includes('Proxy'));
  const request = namingRequest({ convention, folderPlan: flat });
  const before = await planNaming(s.runtime, request);
  await change({ do: 'addKeyword', clips: [ids[0]], name: 'wheel' });
  await expect(
    applyNaming(s.runtime, { ...request, fingerprint: before.preview.fingerprint }),
  ).rejects.toThrow(/changed|out of date/);
  expect((await apply({ convention })).failed).toEqual([]);
  expect(names()).toEqual(['B001/1_gate-wheel.MP4', 'B001/2_gate-low-water.MP4']);
});

test('clips of which a file changed or went away since it was read are told of; what is offline is not', async () => {
  const drive = path.join(s.dir, 'drive');
  lay('Card', ['T1', 'T2', 'T3']);
  lay('Card', ['T1'], drive);
  const { id } = await addRoot(s.runtime, { kind: 'shelf', path: drive });
  const ids = await storeShelved(s.runtime, 'Card');
  await storeShelved(s.runtime, 'Card', { root: id, card: 'B002' });
  expect(await changedClips(s.runtime)).toEqual([]);
  utimesSync(path.join(s.shelf, 'Card/T1.XML'), 1000, 1000);
  writeFileSync(path.join(s.shelf, 'Card/T1.MP4'), 'other bytes');
  rmSync(path.join(s.shelf, 'Card/T3_px.MP4'));
  renameSync(drive, `${drive} away`);
  const told = await changedClips(s.runtime);
  expect(told.sort((a, b) => a.text.localeCompare(b.text))).toEqual([
    { clip: ids.get('T1'), text: expect.stringMatching(/^changed since it was read: T1\.(MP4|XML)$/) },
    { clip: ids.get('T3'), text: 'no longer where it was read: T3_px.MP4' },
  ]);
});

test('folders that a plan emptied go, but not those that are watched, or that the job is to have', async () => {
  const folders = ['New/Wheel', 'New/Boats', 'SLW/Sound', 'Card'];
  for (const [n, folder] of folders.entries()) {
    lay(folder, ['T1']);
    await storeShelved(s.runtime, folder, { card: `B00${n + 1}` });
  }
  await s.runtime.db.insert(watches).values({
    id: 'w',
    job: TEST_JOB,
    root: 'shelf',
    path: 'New/Wheel',
    options: WatchOptions.parse({}),
  });
  const there = () => folders.filter((folder) => existsSync(path.join(s.shelf, folder)));
  const { planId, failed } = await apply({ folderPlan: { ...flat, skeleton: ['{job}/Sound'] } });
  expect(failed).toEqual([]);
  expect(there()).toEqual(['New/Wheel', 'SLW/Sound']);
  expect((await undoPlan(s.runtime, planId)).failed).toEqual([]);
  expect(there()).toEqual(folders);
  expect(tree()).toHaveLength(folders.length * 3);
});

describe('ways to a place', () => {
  test('to another volume: copied, verified, and then gone from where it was; and back', async () => {
    lay('Card', ['T1', 'T2']);
    await storeShelved(s.runtime, 'Card');
    const before = hashTree(s.shelf);
    tellApart();
    const roles = { ...flat.roles, cameraProxy: { folder: 'Light', at: 'top' as const, root: 'proxies' } };
    const { planId, failed } = await apply({ folderPlan: { ...flat, roles } });
    expect(failed).toEqual([]);
    expect(tree()).toEqual([
      'B001/B001_001.MP4',
      'B001/B001_001.XML',
      'B001/B001_002.MP4',
      'B001/B001_002.XML',
    ]);
    expect(tree(s.proxies)).toEqual(['Light/B001/B001_001_px.MP4', 'Light/B001/B001_002_px.MP4']);
    expect(readFileSync(path.join(s.proxies, 'Light/B001/B001_001_px.MP4'), 'utf8')).toBe('Card T1_px.MP4');
    expect((await undoPlan(s.runtime, planId)).failed).toEqual([]);
    expect(hashTree(s.shelf)).toEqual(before);
    expect(tree(s.proxies)).toEqual([]);
    expect((await placed())[0]).toBe('shelf:Card/T1.MP4');
  });

  test('a file that changes while it is carried to another volume stays, and so does what was copied of it', async () => {
    put(path.join(s.shelf, 'Card/T1.MP4'), 'as it was');
    await storeShelved(s.runtime, 'Card');
    tellApart();
    layer.tell = (op) => {
      if (op.op === 'flushFolder' && op.file.startsWith(s.proxies))
        writeFileSync(path.join(s.shelf, 'Card/T1.MP4'), 'as it is now, longer');
    };
    const { failed } = await apply(toProxies).finally(() => {
      layer.tell = null;
    });
    expect(failed[0]!.fault).toContain('has changed');
    expect(readFileSync(path.join(s.shelf, 'Card/T1.MP4'), 'utf8')).toBe('as it is now, longer');
    expect(readFileSync(path.join(s.proxies, 'B001/B001_001.MP4'), 'utf8')).toBe('as it was');
    expect(await placed()).toEqual(['shelf:Card/T1.MP4']);
  });

  test('a file that somebody removes while it is carried to another volume is there, and known there', async () => {
    put(path.join(s.shelf, 'Card/T1.MP4'), 'as it was');
    await storeShelved(s.runtime, 'Card');
    tellApart();
    layer.tell = (op) => {
      if (op.op === 'flushFolder' && op.file.startsWith(s.proxies))
        rmSync(path.join(s.shelf, 'Card/T1.MP4'), { force: true });
    };
    const { failed } = await apply(toProxies).finally(() => {
      layer.tell = null;
    });
    expect(failed).toEqual([]);
    expect(readFileSync(path.join(s.proxies, 'B001/B001_001.MP4'), 'utf8')).toBe('as it was');
    expect(await placed()).toEqual(['proxies:B001/B001_001.MP4']);
  });

  test('after a crash, another file of the same size is not taken for the one that was carried', async () => {
    put(path.join(s.shelf, 'Card/T1.MP4'), 'as it was');
    await storeShelved(s.runtime, 'Card');
    tellApart();
    const { planId } = await apply(toProxies);
    const at = path.join(s.proxies, 'B001/B001_001.MP4');
    writeFileSync(at, 'another!!');
    utimesSync(at, 1e9, 1e9);
    await s.runtime.db.update(plans).set({ state: 'doing' }).where(eq(plans.id, planId));
    await s.runtime.db.update(steps).set({ state: 'doing' }).where(eq(steps.plan, planId));
    await recoverPlans(s.runtime);
    const [step] = await s.runtime.db.select().from(steps).where(eq(steps.plan, planId));
    expect(step).toMatchObject({ state: 'failed', fault: expect.stringContaining('at neither its old nor') });
    expect(readFileSync(at, 'utf8')).toBe('another!!');
  });

  test('a second name: the old one stays, both are one file, and only the new one goes again', async () => {
    lay('Card', ['T1']);
    await storeShelved(s.runtime, 'Card');
    const before = hashTree(s.shelf);
    const { planId, failed } = await apply({ folderPlan: { ...flat, manner: 'link' } });
    expect(failed).toEqual([]);
    const [old, fresh] = ['Card/T1.MP4', 'B001/B001_001.MP4'].map(
      (p) => lstatSync(path.join(s.shelf, p)).ino,
    );
    expect(old).toBe(fresh);
    expect((await undoPlan(s.runtime, planId)).failed).toEqual([]);
    expect(hashTree(s.shelf)).toEqual(before);
    expect((await placed())[0]).toBe('shelf:Card/T1.MP4');
  });

  (mayMountExfat() ? test : test.skip)(
    'on a volume that ignores case, names and folders get the letters of the plan, and theirs back',
    async () => {
      const drives = new RealMounts();
      try {
        const drive = drives.exfat('drive');
        const root = await addRoot(s.runtime, { kind: 'shelf', path: drive });
        lay('Card', ['T1', 'T2'], drive);
        await storeShelved(s.runtime, 'Card', { root: root.id });
        const inLetters = (letters: 'asTheyAre' | 'lower') => {
          const card = { ...newBlock('card'), letters };
          return {
            convention: named(card, newBlock('counter', 'n', { digits: 3 })),
            folderPlan: { ...flat, levels: [[card]], root: root.id },
          };
        };
        await apply(inLetters('asTheyAre'));
        const upper = tree(drive);
        expect(upper).toContain('B001/B001_001.MP4');
        const lower = await apply(inLetters('lower'));
        expect(tree(drive)).toEqual(upper.map((f) => f.replaceAll('B001', 'b001')).sort());
        expect(await placed()).toEqual(tree(drive).map((f) => `${root.id}:${f}`));
        await undoPlan(s.runtime, lower.planId);
        expect(tree(drive)).toEqual(upper);
        // A folder by whose letters a file is still known keeps them.
        const [one] = (await planNaming(s.runtime, namingRequest(inLetters('lower')))).preview.rows;
        await apply({ ...inLetters('lower'), without: [one!.clipId] });
        expect(tree(drive).filter((f) => f.startsWith('b001'))).toEqual([]);
      } finally {
        drives.end();
      }
    },
  );

  test('a second name that has become another file is left alone', async () => {
    lay('Card', ['T1']);
    await storeShelved(s.runtime, 'Card');
    const { planId } = await apply({ folderPlan: { ...flat, manner: 'link' } });
    rmSync(path.join(s.shelf, 'B001/B001_001.MP4'));
    put(path.join(s.shelf, 'B001/B001_001.MP4'), 'somebody else');
    const { failed } = await undoPlan(s.runtime, planId);
    expect(failed[0]!.fault).toContain('no longer the same file');
    expect(readFileSync(path.join(s.shelf, 'B001/B001_001.MP4'), 'utf8')).toBe('somebody else');
    // The family stayed together.
    expect(tree()).toContain('B001/B001_001.XML');
  });

  test('copied: both are there, and the copy goes again', async () => {
    lay('Card', ['T1']);
    await storeShelved(s.runtime, 'Card');
    const before = hashTree(s.shelf);
    const { planId } = await apply({ folderPlan: { ...flat, manner: 'copy' } });
    expect(tree()).toHaveLength(6);
    await undoPlan(s.runtime, planId);
    expect(hashTree(s.shelf)).toEqual(before);
  });

  test('names change places, and differ in case only', async () => {
    lay('Card', ['a', 'b', 'c']);
    const ids = await storeShelved(s.runtime, 'Card');
    const say = (of: Record<string, string>) =>
      sayOfClips(s.runtime, {
        said: Object.entries(of).map(([k, value]) => ({
          clip: ids.get(k)!,
          field: 'givenName' as const,
          value,
        })),
      });
    const listed = {
      convention: named(newBlock('listed')),
      folderPlan: { ...flat, levels: [[newBlock('words', 'w', { text: 'Card' })]] },
    };
    await say({ a: 'b', b: 'a', c: 'C' });
    const before = hashTree(s.shelf);
    const { planId, failed } = await apply(listed);
    expect(failed).toEqual([]);
    const text = (n: string) => readFileSync(path.join(s.shelf, 'Card', n), 'utf8');
    expect([text('a.MP4'), text('b.XML'), text('C.MP4')]).toEqual(['Card b.MP4', 'Card a.XML', 'Card c.MP4']);
    // Of two that changed places, one cannot go back alone: its name is the other's now.
    const one = await undoPlan(s.runtime, planId, undefined, [ids.get('a')!]);
    expect(one.failed[0]!.fault).toContain('is there already');
    expect([text('a.MP4'), text('b.MP4')]).toEqual(['Card b.MP4', 'Card a.MP4']);
    expect((await undoPlan(s.runtime, planId)).failed).toEqual([]);
    expect(hashTree(s.shelf)).toEqual(before);
  });
});

describe('the way back', () => {
  test('of chosen clips, then of the rest', async () => {
    lay('Card', ['T1', 'T2', 'T3']);
    const ids = await storeShelved(s.runtime, 'Card');
    const before = hashTree(s.shelf);
    const { planId } = await apply();
    await undoPlan(s.runtime, planId, undefined, [ids.get('T2')!]);
    expect(tree().filter((p) => p.endsWith('.MP4') && !p.includes('_px'))).toEqual([
      'B001/B001_001.MP4',
      'B001/B001_003.MP4',
      'Card/T2.MP4',
    ]);
    // It has no number from that plan any more; the others keep theirs, so its own is free for it.
    expect(
      (await planNaming(s.runtime, namingRequest({ convention: plain, folderPlan: flat }))).preview.rows.map(
        (r) => r.stem,
      ),
    ).toEqual(['B001_001', 'B001_002', 'B001_003']);
    expect((await undoPlan(s.runtime, planId)).failed).toEqual([]);
    expect(hashTree(s.shelf)).toEqual(before);
    await expect(undoPlan(s.runtime, planId)).rejects.toMatchObject({ title: 'Refused' });
  });

  test('also where a later plan renamed other clips; of those it did rename, it says so', async () => {
    lay('Card', ['T1', 'T2', 'T3']);
    const ids = await storeShelved(s.runtime, 'Card');
    const before = hashTree(s.shelf);
    const first = await apply();
    const other = named(newBlock('words', 'w', { text: 'X' }), newBlock('original'));
    const second = await apply({ convention: other, clips: [ids.get('T3')!] });
    expect(
      (await undoable(s.runtime, [first.planId])).filter((u) => u.back === 'renamed').map((u) => u.clip),
    ).toEqual([ids.get('T3')]);
    await undoPlan(s.runtime, first.planId);
    expect(tree().filter((p) => p.endsWith('.XML'))).toEqual(['B001/X_3.XML', 'Card/T1.XML', 'Card/T2.XML']);
    await expect(undoPlan(s.runtime, first.planId)).rejects.toMatchObject({
      about: { next: expect.stringContaining('renamed again') },
    });
    await undoPlan(s.runtime, second.planId);
    expect((await undoPlan(s.runtime, first.planId)).failed).toEqual([]);
    expect(hashTree(s.shelf)).toEqual(before);
  });

  test('a file that changed since is left alone with its family, the others go back', async () => {
    lay('Card', ['T1', 'T2']);
    await storeShelved(s.runtime, 'Card');
    const { planId } = await apply();
    writeFileSync(path.join(s.shelf, 'B001/B001_001.XML'), 'edited');
    const { failed } = await undoPlan(s.runtime, planId);
    expect(failed).toHaveLength(1);
    expect(failed[0]!.fault).toContain('has changed');
    expect(tree()).toEqual([
      'B001/B001_001.MP4',
      'B001/B001_001.XML',
      'B001/Proxy/B001_001_px.MP4',
      'Card/T2.MP4',
      'Card/T2.XML',
      'Card/T2_px.MP4',
    ]);
  });
});

describe('numbers', () => {
  test('stay with their clips when an earlier card comes late', async () => {
    lay('Second', ['T5', 'T6']);
    await storeShelved(s.runtime, 'Second', { card: 'B002' });
    const convention = named(
      newBlock('camera'),
      newBlock('counter', 'n', { per: ['camera'], orderBy: 'cameraName' }),
    );
    await apply({ convention });
    lay('First', ['T1', 'T2']);
    await storeShelved(s.runtime, 'First', { card: 'B001' });
    const stems = async (late: string) =>
      (
        await planNaming(
          s.runtime,
          namingRequest({
            convention: named(
              newBlock('camera'),
              newBlock('counter', 'n', { per: ['camera'], orderBy: 'cameraName', late }),
            ),
            folderPlan: flat,
          }),
        )
      ).preview.rows.map((r) => `${r.original} ${r.stem}`);
    expect(await stems('after')).toEqual(['T1 B_003', 'T2 B_004', 'T5 B_001', 'T6 B_002']);
    expect(await stems('letters')).toEqual(['T1 B_000a', 'T2 B_000b', 'T5 B_001', 'T6 B_002']);
    expect(await stems('renumber')).toEqual(['T1 B_001', 'T2 B_002', 'T5 B_003', 'T6 B_004']);
  });

  test('of a clip that left the job is free, and said', async () => {
    lay('Card', ['T1', 'T2', 'T3']);
    const ids = await storeShelved(s.runtime, 'Card');
    await apply();
    await s.runtime.db.delete(clips).where(eq(clips.id, ids.get('T2')!));
    const { summary } = await planNaming(s.runtime, namingRequest({ convention: plain, folderPlan: flat }));
    expect(summary).toMatchObject({ steps: 0, gaps: [{ number: 2, reason: 'removed' }] });
  });
});

describe('rules', () => {
  test('clips of a scope take a convention and folders of their own', async () => {
    lay('Card', ['T1']);
    lay('Other', ['A1']);
    await storeShelved(s.runtime, 'Card');
    await storeShelved(s.runtime, 'Other', { camera: 'A', card: 'A001' });
    await apply({
      rules: [
        {
          id: 'a',
          scope: { kinds: [], cameras: ['A'], cards: [], rates: [] },
          convention: named(newBlock('words', 'w', { text: 'Wide' }), newBlock('counter')),
          folderPlan: { ...flat, levels: [[newBlock('words', 'w', { text: 'Main' })]] },
        },
      ],
    });
    expect(tree().filter((p) => p.endsWith('.XML'))).toEqual(['B001/B001_001.XML', 'Main/Wide_001.XML']);
  });
});

describe('what goes wrong meanwhile', () => {
  test('a folder of the plan is read-only, or a file: nothing of those families moves', async () => {
    lay('Card', ['T1', 'T2']);
    await storeShelved(s.runtime, 'Card');
    put(path.join(s.shelf, 'B001'), 'a file in the way of the folder');
    const { failed, done } = await apply();
    expect(done).toBe(0);
    expect(failed.map((f) => f.fault)).toEqual([
      'B001 is a file: there can be no folder of that name.',
      'B001 is a file: there can be no folder of that name.',
    ]);
    rmSync(path.join(s.shelf, 'B001'));
    expect(tree().filter((p) => p.startsWith('Card/'))).toHaveLength(6);
  });

  test('a file another program renamed is said, its family stays, the rest goes on', async () => {
    lay('Card', ['T1', 'T2']);
    await storeShelved(s.runtime, 'Card');
    renameSync(path.join(s.shelf, 'Card/T1.XML'), path.join(s.shelf, 'Card/elsewhere.XML'));
    const { failed, done } = await apply();
    expect(done).toBe(3);
    expect(failed[0]).toMatchObject({
      file: 'Card/T1.XML',
      fault: expect.stringContaining('no longer there'),
    });
    expect(existsSync(path.join(s.shelf, 'Card/T1.MP4'))).toBe(true);
  });

  test('stopped in the middle of a family: what of it was moved goes back, what is whole stays', async () => {
    // Fifty moves are done at once: the seventeenth family is cut in two by the end of the first fifty.
    lay(
      'Card',
      Array.from({ length: 20 }, (_, i) => `T${String(i + 1).padStart(2, '0')}`),
    );
    await storeShelved(s.runtime, 'Card');
    const request = namingRequest({ convention: plain, folderPlan: flat });
    const { preview } = await planNaming(s.runtime, request);
    let asked = 0;
    const result = await applyNaming(
      s.runtime,
      { ...request, fingerprint: preview.fingerprint },
      { ...alone(), stopped: () => ++asked > 1 },
    );
    expect(result.state).toBe('partly');
    expect(result.done).toBe(48);
    expect(tree().filter((p) => p.startsWith('B001/'))).toHaveLength(48);
    expect(tree().filter((p) => p.startsWith('Card/T17'))).toHaveLength(3);
    expect(await placed()).toEqual(tree().map((p) => `shelf:${p}`));
    expect((await undoPlan(s.runtime, result.planId)).failed).toEqual([]);
    expect(tree().every((p) => p.startsWith('Card/'))).toBe(true);
  });

  test('two people apply at once: one plan is done, the other finds its list out of date', async () => {
    lay('Card', ['T1', 'T2']);
    await storeShelved(s.runtime, 'Card');
    const results = await Promise.allSettled([
      apply(),
      apply({ convention: named(newBlock('words', 'w', { text: 'Y' }), newBlock('counter')) }),
    ]);
    expect(results.map((r) => r.status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(tree()).toHaveLength(6);
  });

  test('a name that is taken after the look is not overwritten', async () => {
    lay('Card', ['T1', 'T2']);
    await storeShelved(s.runtime, 'Card');
    const request = namingRequest({ convention: plain, folderPlan: flat });
    const { preview } = await planNaming(s.runtime, request);
    mkdirSync(path.join(s.shelf, 'B001'));
    put(path.join(s.shelf, 'B001/B001_002.MP4'), 'somebody else');
    await expect(
      applyNaming(s.runtime, { ...request, fingerprint: preview.fingerprint }),
    ).rejects.toMatchObject({
      title: 'Refused',
    });
    expect(readFileSync(path.join(s.shelf, 'B001/B001_002.MP4'), 'utf8')).toBe('somebody else');
  });
});

test('the library keeps conventions, and refuses what is none', async () => {
  const kept = { convention: { ...plain, name: 'Mine' }, folderPlan: flat };
  const { id } = await keepConvention(s.runtime, kept);
  expect((await conventionsView(s.runtime)).filter((k) => !k.ready)).toEqual([{ ...kept, id, ready: false }]);
  await expect(
    keepConvention(s.runtime, { ...kept, convention: { ...plain, name: 'picture' } }),
  ).rejects.toMatchObject({ title: 'Refused' });
  const ready = (await conventionsView(s.runtime)).filter((k) => k.ready);
  expect(ready.length).toBeGreaterThan(4);
  expect(
    await importConventions(s.runtime, {
      format: 'sort-shelf-conventions',
      version: 1,
      conventions: [ready[0]!, { ...kept, convention: { ...plain, name: 'Theirs' } }],
    }),
  ).toEqual({ added: 1 });
  await dropConvention(s.runtime, id);
  await expect(dropConvention(s.runtime, id)).rejects.toMatchObject({ title: 'Not found' });
});
