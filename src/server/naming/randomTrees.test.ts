import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { and, eq } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import { lstatSync, rmSync } from 'node:fs';
import path from 'node:path';
import { BLOCKS, newBlock } from '../../core/naming/blocks';
import { type Convention, type FolderPlan, Manner, PLACED_ROLES } from '../../core/naming/convention';
import { namingRequest } from '../../core/naming/shapes';
import { randomFrom } from '../../core/platform/random';
import { cards, clips, files } from '../cards/tables';
import { sayOfClips } from '../facts';
import { beginJob } from '../jobs';
import { layer } from '../platform/files/fileSystem';
import { frozen } from '../testing/frozenServer';
import { hashTree, put, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { storeShelved } from '../testing/shelve';
import { applyNaming, planNaming, recoverPlans, undoPlan } from '.';
import { plans, steps } from './tables';

// Random trees of families, named by random conventions into random folders, some of the time after a crash at a random change to the
// disk: the server that was at it never goes on, another recovers what it left. Whatever happens, every byte is there; what was applied
// is where the plan said; and what is taken back is where it was. Seeds are fixed, so that a failure comes again.

const TREES = Number(process.env.SORT_SHELF_TREES ?? 40);
let s: TestShelf;
beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
});
afterAll(() => {
  layer.tell = null;
  layer.refuseLinks = false;
  return s.close();
});

const NAMES = [
  'T0001',
  'T0002',
  't0003',
  'wheel',
  'Mühle am Wehr',
  'Mu\u0308hle',
  '-rf',
  'a b',
  'x'.repeat(90),
  '日本',
];
const WORDS = ['Weir', 'Sluice gate', 'é', 'a', '12', ''];

type Random = () => number;
const pick = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random() * list.length)]!;

function conventionOf(random: Random): Convention {
  const row = Array.from({ length: 1 + Math.floor(random() * 4) }, (_, i) => {
    const kind = pick(random, BLOCKS).kind;
    return newBlock(kind, `${kind}-${i}`, kind === 'words' ? { text: pick(random, WORDS) } : {}, {
      before: pick(random, ['_', '-', ' ', '']),
      letters: pick(random, ['asTheyAre', 'upper', 'lower'] as const),
    });
  });
  if (random() < 0.7) row.push(newBlock('counter', 'n', { per: [], orderBy: 'cameraName' }));
  return { name: 'Random', blocks: row, changes: [] };
}

function folderPlanOf(random: Random): FolderPlan {
  const manners = Manner.options.filter((m) => !(layer.refuseLinks && m === 'link'));
  const level = () => [newBlock(pick(random, ['job', 'day', 'camera', 'card', 'original'] as const), 'l')];
  return {
    levels: Array.from({ length: Math.floor(random() * 4) }, level),
    roles: Object.fromEntries(
      PLACED_ROLES.filter(() => random() < 0.3).map((r) => [
        r,
        {
          folder: pick(random, ['', 'Data', 'A/B']),
          at: pick(random, ['clip', 'top'] as const),
          root: pick(random, [null, null, 'proxies']),
        },
      ]),
    ),
    root: null,
    manner: random() < 0.75 ? 'move' : pick(random, manners),
    skeleton: [],
  };
}

/** Contents of both roots: text and how many names it has, places apart. */
const contents = (): string[] => [s.shelf, s.proxies].flatMap((root) => Object.values(hashTree(root))).sort();
const EMPTY = createHash('sha256').digest('hex');
const unique = (list: readonly string[]): string[] => [...new Set(list)];

const standAsKept = async (): Promise<void> => {
  const roots: Record<string, string> = { shelf: s.shelf, proxies: s.proxies };
  for (const f of await s.runtime.db.select().from(files))
    expect(lstatSync(path.join(roots[f.root]!, f.path)).size).toBe(f.size);
};

test(`${TREES} random trees: applied, interrupted, undone; no byte is lost or changed`, async () => {
  let [applied, interrupted, refused, undone] = [0, 0, 0, 0];
  for (let seed = 1; seed <= TREES; seed++) {
    const random = randomFrom(seed);
    // Every other one is on a volume that has no links, as exFAT.
    layer.refuseLinks = seed % 2 === 0;
    const stems = NAMES.filter(() => random() < 0.5);
    if (stems.length === 0) stems.push('T0001');
    for (const stem of stems) {
      put(path.join(s.shelf, 'In', `${stem}.MP4`), `${seed} ${stem} original`);
      if (random() < 0.6) put(path.join(s.shelf, 'In', `${stem}.XML`), `${seed} ${stem} sidecar`);
      if (random() < 0.4) put(path.join(s.shelf, 'In', `${stem}_px.MP4`), `${seed} ${stem} proxy`);
    }
    const ids = await storeShelved(s.runtime, 'In', { card: `B${String(seed).padStart(3, '0')}` });
    const said = [...ids.values()].flatMap((clip) =>
      (['scene', 'place', 'givenName'] as const)
        .filter(() => random() < 0.5)
        .map((field) => ({ clip, field, value: pick(random, ['Weir', 'Sluice gate', '12', 'é']) })),
    );
    if (said.length > 0) await sayOfClips(s.runtime, { said });
    const before = { shelf: hashTree(s.shelf), all: unique(contents()) };
    let request = namingRequest({ convention: conventionOf(random), folderPlan: folderPlanOf(random) });
    let { preview } = await planNaming(s.runtime, request);
    if (preview.stops > 0) {
      const without = preview.rows
        .filter((r) => r.problems.some((p) => p.level === 'stop'))
        .map((r) => r.clipId);
      request = { ...request, without };
      ({ preview } = await planNaming(s.runtime, request));
    }
    if (preview.stops === 0 && preview.steps > 0) {
      const wanted = { ...request, fingerprint: preview.fingerprint };
      if (random() < 0.5) {
        if (
          await frozen(s.runtime, (r) => applyNaming(r, wanted), Math.floor(random() * preview.steps * 3))
        ) {
          interrupted++;
          // A place-holder, or the note of one, is no file of anybody's.
          expect(unique(contents()).filter((hash) => hash !== EMPTY)).toEqual(before.all);
          expect(await recoverPlans(s.runtime)).toEqual([]);
        }
      } else await applyNaming(s.runtime, wanted);
      applied++;
      expect(unique(contents())).toEqual(before.all);
      await standAsKept();
      const [plan] = await s.runtime.db
        .select()
        .from(plans)
        .where(and(eq(plans.job, TEST_JOB), eq(plans.kind, 'name')));
      const failures = await s.runtime.db.select().from(steps).where(eq(steps.state, 'failed'));
      expect(failures.map((f) => f.fault)).toEqual([]);
      // Every clip that was in the plan has the name that was shown.
      const again = await planNaming(s.runtime, request);
      expect(again.preview.rows.filter((r) => !r.out && r.steps > 0).map((r) => r.stem)).toEqual([]);
      if (random() < 0.5) {
        if (await frozen(s.runtime, (r) => undoPlan(r, plan!.id), Math.floor(random() * preview.steps * 3))) {
          interrupted++;
          await recoverPlans(s.runtime);
        }
      } else await undoPlan(s.runtime, plan!.id);
      undone++;
    } else refused++;
    expect(hashTree(s.shelf)).toEqual(before.shelf);
    expect(hashTree(s.proxies)).toEqual({});
    await standAsKept();
    rmSync(path.join(s.shelf, 'In'), { recursive: true });
    await s.runtime.db.delete(plans);
    await s.runtime.db.delete(clips);
    await s.runtime.db.delete(cards);
  }
  console.log(`${applied} applied, ${interrupted} interrupted, ${undone} undone, ${refused} refused`);
  expect(applied).toBeGreaterThan(TREES * 0.6);
  expect(interrupted).toBeGreaterThan(TREES * 0.2);
}, 3_600_000);
