import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { eq } from 'drizzle-orm';
import { readFileSync, utimesSync } from 'node:fs';
import path from 'node:path';
import { newBlock } from '../../core/naming/blocks';
import { DEFAULT_FOLDER_PLAN } from '../../core/naming/convention';
import { namingRequest } from '../../core/naming/shapes';
import { clips, files } from '../cards/tables';
import { sayOfClips } from '../facts';
import { beginJob } from '../jobs';
import { layer } from '../platform/files/fileSystem';
import { frozen } from '../testing/frozenServer';
import { hashTree, put, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { storeShelved } from '../testing/shelve';
import { applyNaming, planNaming, recoverPlans, undoPlan } from '.';
import { plans, steps } from './tables';

// Stills of one row: as many bytes each, and all of one time on a volume that counts in two seconds. Where their names move on, only
// the plan tells which of them is at a name.

let s: TestShelf;
beforeEach(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
});
afterEach(async () => {
  layer.refuseLinks = false;
  await s.close();
});

const STEMS = ['T1', 'T2', 'T3'];

test.each([
  ['a chain', ['T2', 'T3', 'T4'], false],
  ['a chain, without links', ['T2', 'T3', 'T4'], true],
  ['a ring', ['T2', 'T3', 'T1'], false],
  ['a ring, without links', ['T2', 'T3', 'T1'], true],
] as const)('alike files whose names move on in %s', async (_, names, refuseLinks) => {
  layer.refuseLinks = refuseLinks;
  for (const stem of STEMS)
    utimesSync(put(path.join(s.shelf, 'Card', `${stem}.DNG`), `the picture ${stem}`), 1e9, 1e9);
  const ids = await storeShelved(s.runtime, 'Card');
  await sayOfClips(s.runtime, {
    said: STEMS.map((stem, i) => ({ clip: ids.get(stem)!, field: 'givenName' as const, value: names[i]! })),
  });
  const request = namingRequest({
    convention: { name: 'Test', blocks: [newBlock('listed')], changes: [] },
    folderPlan: { ...DEFAULT_FOLDER_PLAN, levels: [[newBlock('words', 'w', { text: 'Card' })]] },
  });
  const before = hashTree(s.shelf);
  const were = await s.runtime.db.select().from(files);
  /** What each clip's file holds, where the database knows it to be. */
  const held = async () =>
    (
      await s.runtime.db
        .select({ stem: clips.original, path: files.path })
        .from(files)
        .innerJoin(clips, eq(clips.id, files.clip))
    )
      .map((f) => [f.path, readFileSync(path.join(s.shelf, f.path), 'utf8'), `the picture ${f.stem}`])
      .sort();
  const wanted = STEMS.map((stem, i) => {
    const text = `the picture ${stem}`;
    return [`Card/${names[i]}.DNG`, text, text];
  }).sort();
  let tried = 0;
  for (let after = 0, came = true; came; after++, tried++) {
    const at = `after change ${after}`;
    const { preview } = await planNaming(s.runtime, request);
    expect(preview.stops).toBe(0);
    came = await frozen(
      s.runtime,
      (r) => applyNaming(r, { ...request, fingerprint: preview.fingerprint }),
      after,
    );
    const [plan] = await s.runtime.db.select().from(plans).where(eq(plans.kind, 'name'));
    // A power cut took what the database had not written out: names are flushed before.
    await s.runtime.db.update(plans).set({ state: 'doing', endedAt: null });
    await s.runtime.db.update(steps).set({ state: 'waiting' });
    for (const way of [' as it was', ''])
      for (const f of were)
        await s.runtime.db
          .update(files)
          .set({ path: f.path + way })
          .where(eq(files.id, f.id));
    expect(await recoverPlans(s.runtime)).toEqual([]);
    const faults = (await s.runtime.db.select().from(steps)).filter((x) => x.fault !== null);
    expect([at, faults.map((x) => x.fault)]).toEqual([at, []]);
    expect([at, await held()]).toEqual([at, wanted]);
    await undoPlan(s.runtime, plan!.id);
    expect([at, hashTree(s.shelf)]).toEqual([at, before]);
    await s.runtime.db.delete(plans);
  }
  expect(tried).toBeGreaterThan(10);
});
