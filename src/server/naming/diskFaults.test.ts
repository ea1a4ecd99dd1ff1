import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { rmSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { newBlock } from '../../core/naming/blocks';
import { DEFAULT_FOLDER_PLAN, type FolderPlan } from '../../core/naming/convention';
import { namingRequest, type PlanResult } from '../../core/naming/shapes';
import { files } from '../cards/tables';
import { beginJob } from '../jobs';
import { layer } from '../platform/files/fileSystem';
import { FAILS, whileUnreadable, withFailingChange } from '../testing/failingDisk';
import { hashTree, put, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { storeShelved } from '../testing/shelve';
import { applyNaming, planNaming, undoPlan } from '.';
import { sampleOf } from '../platform/files/hash';
import { rootsNow, settle, settleFault } from './doStep';
import { undoablePlans } from './planStore';

// Each change to the disk of a plan fails in turn. Whatever fails, each file is whole where it is known to be, nothing else lies about, and
// the plan can be made and applied once more.

let s: TestShelf;
beforeEach(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
});
afterEach(async () => {
  layer.refuseLinks = false;
  await s.close();
});

const FOLDERS: FolderPlan = { ...DEFAULT_FOLDER_PLAN, levels: [[newBlock('card')]] };
const convention = {
  name: 'Test',
  blocks: [newBlock('card'), newBlock('counter', 'n', { digits: 3 })],
  changes: [],
};
const apply = async (folderPlan: FolderPlan) => {
  const request = namingRequest({ convention, folderPlan });
  const { preview } = await planNaming(s.runtime, request);
  expect(preview.stops).toBe(0);
  return applyNaming(s.runtime, { ...request, fingerprint: preview.fingerprint });
};
/** Everything on the disk, by root and path. */
const onDisk = () => {
  const of = (root: string, at: string) =>
    Object.entries(hashTree(at)).map(([p, hash]) => [`${root}:${p}`, hash] as const);
  return Object.fromEntries([...of('shelf', s.shelf), ...of('proxies', s.proxies)].sort());
};
const known = async () => (await s.runtime.db.select().from(files)).map((f) => `${f.root}:${f.path}`).sort();

test.each([
  ['one file', 'move', 'shelf', false],
  ['one file, without links', 'move', 'shelf', true],
  ['a family', 'move', 'shelf', false],
  ['a family, without links', 'move', 'shelf', true],
  ['one file to another volume', 'move', 'proxies', false],
  ['a family to another volume', 'move', 'proxies', false],
  ['a copy', 'copy', 'shelf', false],
  ['a second name', 'link', 'shelf', false],
] as const)('%s', async (what, manner, root, refuseLinks) => {
  for (const name of what.startsWith('a family') ? ['T1.MP4', 'T1.XML'] : ['T1.MP4'])
    put(path.join(s.shelf, 'Card', name), `bytes of ${name}`);
  await storeShelved(s.runtime, 'Card');
  if (root === 'proxies') {
    // Two roots of one computer are on one volume here: they are told apart.
    const volumeOf = s.runtime.devices.volumeOf.bind(s.runtime.devices);
    s.runtime.devices.volumeOf = async (p) => {
      const v = await volumeOf(p);
      return v && { ...v, id: p.startsWith(s.proxies) ? 'another' : v.id };
    };
  }
  layer.refuseLinks = refuseLinks;
  const plan = { ...FOLDERS, roles: {}, root, manner };
  const before = onDisk();
  const originals = Object.values(before).sort();
  let tried = 0;
  for (const how of FAILS)
    for (let number = 0, came = true; came; number++, tried++) {
      const at = `${how}, change ${number}`;
      let done: PlanResult | undefined;
      came = await withFailingChange(number, how, async () => {
        done = await apply(plan);
      });
      const now = onDisk();
      if (manner === 'move') {
        expect([at, Object.keys(now)]).toEqual([at, await known()]);
        expect([at, Object.values(now).sort()]).toEqual([at, originals]);
      } else expect([at, now]).toEqual([at, expect.objectContaining(before)]);
      // What could not be done is done now, and all of it can be taken back.
      const applied = [done!];
      if (done!.failed.length > 0) applied.unshift(await apply(plan));
      expect([at, applied[0]!.failed]).toEqual([at, []]);
      const open = await undoablePlans(s.runtime);
      for (const { planId } of applied.filter((a) => open.has(a.planId)))
        expect([at, (await undoPlan(s.runtime, planId)).failed]).toEqual([at, []]);
      expect([at, onDisk()]).toEqual([at, before]);
    }
  expect(tried).toBeGreaterThan(1);
});

test('a copy that cannot be read is not taken for one that has gone', async () => {
  const copy = path.join(s.shelf, 'Copy/T1.MP4');
  for (const folder of ['Card', 'Copy']) put(path.join(s.shelf, folder, 'T1.MP4'), 'bytes of T1.MP4');
  const roots = await rootsNow(s.runtime, []);
  const at = (folder: string) => ({ root: 'shelf', path: `${folder}/T1.MP4` });
  const step = { kind: 'uncopy', fileId: 'f', clipId: 'c', from: at('Copy'), to: at('Card') } as const;
  const fault = Object.assign(new Error('EIO: i/o error'), { code: 'EIO' });
  const settled = () => settleFault(roots, { ...step, size: 15, modified: 0 }, fault);
  await expect(whileUnreadable(copy, settled)).rejects.toThrow('EIO');
  rmSync(copy);
  await settled();
});

test('what was carried is known by what it holds where another file is as large and as old', async () => {
  const to = put(path.join(s.shelf, 'Other/T1.DNG'), 'the picture A');
  const step = {
    ...({ kind: 'carry', fileId: 'f', clipId: 'c', size: 13 } as const),
    from: { root: 'shelf', path: 'Card/T1.DNG' },
    to: { root: 'shelf', path: 'Other/T1.DNG' },
    modified: Math.round(statSync(to).mtimeMs),
    sample: await sampleOf(to, 13),
  };
  const roots = await rootsNow(s.runtime, []);
  expect(await settle(roots, step)).toEqual({ state: 'done', fault: null });
  writeFileSync(to, 'the picture B');
  utimesSync(to, step.modified / 1000, step.modified / 1000);
  expect(await settle(roots, step)).toMatchObject({ state: 'failed' });
});
