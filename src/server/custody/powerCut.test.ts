import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  rmSync,
  statSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import { namingRequest } from '../../core/naming/shapes';
import { randomFrom } from '../../core/platform/random';
import { addGeneration, readLists } from '../transfer/hashList';
import { ListedEntries } from '../transfer/entries';
import { copy } from '../transfer/worker';
import { files } from '../cards/tables';
import { plans, steps } from '../naming/tables';
import { type DiskOp, layer } from '../platform/files/fileSystem';
import { put, testShelf, type TestShelf, TEST_JOB } from '../testing/media';
import { afterCut, type Before, lay, type State } from '../testing/powerCut';
import { applyNaming, recoverPlans, undoPlan } from '../naming';
import { beginJob } from '../jobs/jobs';
import { planNaming } from '../naming/naming';
import { takeIn } from '../intake/takeIn';

// The power is cut at every step of a copy, a naming, an undo and the writing of a hash list, on a disk that may lose or reorder all
// that was not flushed; with links and without. Long in `npm run soak custody`, short here.

/** States tried for each cut: nothing of what was not flushed, all of it, and so many at random. */
const RANDOM = Number(process.env.SORT_SHELF_CUTS ?? 3);
const random = randomFrom(20_260_505);
const keeping = [() => false, () => true, ...Array.from({ length: RANDOM }, () => () => random() < 0.5)];

let dir: string;
beforeEach(() => {
  dir = realpathSync(mkdtempSync(path.join(existsSync('/dev/shm') ? '/dev/shm' : tmpdir(), 'shelf-cut-')));
});
afterEach(() => {
  layer.tell = null;
  layer.refuseLinks = false;
  rmSync(dir, { recursive: true, force: true });
});

async function recorded(work: () => Promise<unknown>): Promise<DiskOp[]> {
  const ops: DiskOp[] = [];
  layer.tell = (op) => ops.push(op);
  await work();
  layer.tell = null;
  return ops;
}

const filesBelow = (folder: string): string[] =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile())
    .map((e) => path.join(e.parentPath, e.name))
    .sort();

describe.each([
  ['with links', false],
  ['on a volume without links', true],
])('a copy, %s', (_, refuse) => {
  test('a file under its final name is whole after a cut at any point; what was told verified is there; the next run completes it', async () => {
    layer.refuseLinks = refuse;
    const card = path.join(dir, 'card');
    const names = ['CLIP/T0001.MP4', 'CLIP/T0002.MP4', 'NOTES.TXT', 'EMPTY.TXT'];
    names.forEach((n, i) => put(path.join(card, n), i === 3 ? '' : `contents of ${n} `.repeat(50 + i)));
    const drives = ['north', 'south'].map((d) => path.join(dir, d));
    drives.forEach((d) => mkdirSync(d));
    const task = () => ({
      files: names.map((n, number) => ({
        number,
        from: path.join(card, n),
        size: statSync(path.join(card, n)).size,
        modified: Math.round(statSync(path.join(card, n)).mtimeMs),
        to: drives.map((d) => path.join(d, 'B001', n)),
      })),
      kind: 'xxh128' as const,
      verification: 'contents' as const,
      on: [null],
      reader: null,
      writer: null,
      gate: new SharedArrayBuffer(8),
      counter: new SharedArrayBuffer(8),
    });
    const ops = await recorded(async () =>
      expect((await copy(task())).map((o) => o.state)).toEqual([
        'verified',
        'verified',
        'verified',
        'verified',
      ]),
    );
    const before: Before = new Map(filesBelow(card).map((f) => [f, readFileSync(f)]));
    const whole = (state: State, all: boolean): void => {
      for (const d of drives) {
        for (const n of names) {
          const there = state.files.get(path.join(d, 'B001', n));
          const original = before.get(path.join(card, n))!;
          // Without links an empty place-holder may be there, which the next run knows for its own.
          if (there && !(refuse && there.length === 0)) expect(there.equals(original)).toBe(true);
          if (all) expect(there?.equals(original)).toBe(true);
        }
      }
    };
    let states = 0;
    for (let cut = 0; cut <= ops.length; cut++) {
      for (const keeps of keeping) {
        const state = afterCut(before, ops, cut, keeps);
        whole(state, cut === ops.length);
        states++;
        if (cut % 5 !== 0 && cut !== ops.length) continue;
        for (const d of drives) lay(d, state, new Map());
        expect((await copy(task())).map((o) => (o.state === 'verified' ? o.state : o.text))).toEqual([
          'verified',
          'verified',
          'verified',
          'verified',
        ]);
        for (const d of drives)
          expect(filesBelow(d).map((f) => path.relative(path.join(d, 'B001'), f))).toEqual([...names].sort());
        for (const d of drives)
          for (const n of names)
            expect(readFileSync(path.join(d, 'B001', n)).equals(before.get(path.join(card, n))!)).toBe(true);
      }
    }
    expect(states).toBeGreaterThan(100);
  });

  test('somebody’s empty file where a copy is to go stays', async () => {
    layer.refuseLinks = refuse;
    const from = put(path.join(dir, 'card/T0001.MP4'), 'footage');
    const to = put(path.join(dir, 'north/T0001.MP4'), '');
    const [outcome] = await copy({
      files: [{ number: 0, from, size: 7, modified: Math.round(statSync(from).mtimeMs), to: [to] }],
      kind: 'xxh128',
      verification: 'contents',
      on: [null],
      reader: null,
      writer: null,
      gate: new SharedArrayBuffer(8),
      counter: new SharedArrayBuffer(8),
    });
    expect(outcome).toMatchObject({ state: 'fault', code: 'EEXIST' });
    expect(filesBelow(path.join(dir, 'north'))).toEqual([to]);
  });
});

test('a hash list: the chain names only lists that are whole, at every cut', async () => {
  const folder = path.join(dir, 'B001');
  mkdirSync(folder);
  const list = () => {
    const entries = new ListedEntries();
    for (const n of [1, 2])
      entries.add({
        path: `T000${n}.MP4`,
        size: 5,
        modified: 1e12,
        kind: 'md5',
        value: String(n).repeat(32),
        action: 'original',
      });
    return addGeneration(folder, {
      process: 'transfer',
      kind: 'md5',
      entries: entries.pages(),
      emptyFolders: [],
      version: '0',
    });
  };
  await list();
  const before: Before = new Map(filesBelow(folder).map((f) => [f, readFileSync(f)]));
  const ops = await recorded(list);
  for (let cut = 0; cut <= ops.length; cut++) {
    for (const keeps of keeping) {
      lay(folder, afterCut(before, ops, cut, keeps), new Map());
      const { chain, faults, known } = await readLists(folder);
      // None is missing, altered, cut short or unknown to the chain; and so after the next.
      expect(faults).toEqual([]);
      expect(chain.length).toBeGreaterThanOrEqual(cut === ops.length ? 2 : 1);
      expect(known.size).toBe(2);
      await list();
      expect(await readLists(folder)).toMatchObject({ faults: [], chain: { length: chain.length + 1 } });
      expect(filesBelow(folder).filter((f) => f.endsWith('.new'))).toEqual([]);
    }
  }
});

describe('a naming plan and its undo', () => {
  let s: TestShelf;
  beforeAll(async () => {
    s = await testShelf();
    await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
    for (const n of [1, 2, 3]) {
      put(path.join(s.shelf, 'Card', `T000${n}.MP4`), `\0\0\0\x08ftyp footage ${n}`);
      put(path.join(s.shelf, 'Card', `T000${n}.XML`), `<clip n="${n}"/>`);
    }
    await takeIn(s.runtime, {
      root: 'shelf',
      path: 'Card',
      cards: [{ folder: '', camera: 'B', cardId: 'B001', day: 1, date: null }],
    });
    await s.runtime.db.update((await import('../cards/tables')).clips).set({ state: 'read' });
  });
  afterAll(() => s.close());

  const request = namingRequest();
  const contents = (): string[] =>
    filesBelow(s.shelf)
      .filter((f) => !f.includes('.sort-shelf'))
      .map((f) => readFileSync(f, 'latin1'))
      .sort();

  /** The database after a power cut is behind the disk by any number of steps: it does not flush by itself. */
  const rewind = async (
    plan: string,
    done: number,
    places: ReadonlyMap<string, { root: string; path: string }>,
  ): Promise<void> => {
    await s.runtime.db.update(plans).set({ state: 'doing', endedAt: null }).where(eq(plans.id, plan));
    const all = await s.runtime.db.select().from(steps).where(eq(steps.plan, plan)).orderBy(steps.number);
    for (const [file, place] of places) await s.runtime.db.update(files).set(place).where(eq(files.id, file));
    for (const [i, step] of all.entries()) {
      await s.runtime.db
        .update(steps)
        .set({ state: i < done ? 'done' : 'waiting', fault: null })
        .where(eq(steps.number, step.number));
      if (i < done)
        await s.runtime.db
          .update(files)
          .set({ root: step.toRoot, path: step.toPath })
          .where(eq(files.id, step.file));
    }
  };

  const everyCut = async (work: () => Promise<{ planId: string }>): Promise<number> => {
    const refuse = layer.refuseLinks;
    const placesBefore = new Map(
      (await s.runtime.db.select().from(files)).map((f) => [f.id, { root: f.root, path: f.path }]),
    );
    const before: Before = new Map(
      filesBelow(s.shelf)
        .filter((f) => !f.includes('.sort-shelf'))
        .map((f) => [f, readFileSync(f)]),
    );
    const times = new Map(
      filesBelow(s.shelf).map((f) => [readFileSync(f, 'latin1'), Math.round(statSync(f).mtimeMs)]),
    );
    const wanted = contents();
    let plan = '';
    const ops = (
      await recorded(async () => {
        plan = (await work()).planId;
      })
    ).filter((o) => !('file' in o && o.file.includes('.sort-shelf')));
    const after = filesBelow(s.shelf).filter((f) => !f.includes('.sort-shelf'));
    const journal = readFileSync(path.join(s.shelf, '.sort-shelf/journal.jsonl'));
    let states = 0;
    // Steps are called done once the folders they left are flushed, which several are at once: the database is never ahead of the disk.
    const ended = (upTo: number): number => {
      const isFlush = (i: number): boolean => ops[i]?.op === 'flushFolder';
      const last = ops.slice(0, upTo).findLastIndex((_, i) => {
        if (!isFlush(i) || isFlush(i + 1)) return false;
        let begun = i;
        while (isFlush(begun - 1)) begun--;
        // Without links the note of a place-holder goes last, and its folder is flushed for itself.
        return ops[begun - 1]?.op === 'remove' && (!refuse || begun < i);
      });
      const isFootage = (o: (typeof ops)[number]): boolean => o.op === (refuse ? 'rename' : 'remove');
      return ops.slice(0, last + 1).filter(isFootage).length;
    };
    for (let cut = 0; cut <= ops.length; cut++) {
      for (const keeps of keeping) {
        const state = afterCut(before, ops, cut, keeps);
        // Not one byte of footage is lost, whatever reached the disk.
        const there = [...state.files]
          .filter(([f]) => !f.includes('.sort-shelf'))
          .map(([, b]) => b.toString('latin1'));
        for (const text of wanted) expect(there).toContain(text);
        states++;
        // Recovery takes a moment each; the long run tries it at every state.
        if (RANDOM < 10 && random() > 0.12 && cut !== ops.length) continue;
        lay(s.shelf, state, times);
        put(path.join(s.shelf, '.sort-shelf/journal.jsonl'), journal);
        await rewind(plan, Math.floor(random() * (ended(cut) + 1)), placesBefore);
        expect(await recoverPlans(s.runtime)).toEqual([]);
        expect(contents()).toEqual(wanted);
        // Finished, and where the database says; or nothing of a family was moved.
        for (const f of await s.runtime.db.select().from(files))
          expect(readFileSync(path.join(s.shelf, f.path)).length).toBe(f.size);
        expect(filesBelow(s.shelf).filter((f) => !f.includes('.sort-shelf'))).toEqual(after);
      }
    }
    return states;
  };

  test.each([
    ['with links', false],
    ['without links', true],
  ])('%s: nothing is lost at any cut, and recovery finishes it', async (_, refuse) => {
    layer.refuseLinks = refuse;
    const { preview } = await planNaming(s.runtime, request);
    expect(preview.steps).toBe(6);
    let plan = '';
    expect(
      await everyCut(async () => {
        const result = await applyNaming(s.runtime, { ...request, fingerprint: preview.fingerprint });
        plan = result.planId;
        return result;
      }),
    ).toBeGreaterThan(50);
    expect(await everyCut(() => undoPlan(s.runtime, plan))).toBeGreaterThan(50);
    expect((await s.runtime.db.select().from(files)).every((f) => f.path === f.takenPath)).toBe(true);
  });

  test('a step that failed, and the server died before its family was taken back: the next start takes it back', async () => {
    const { preview } = await planNaming(s.runtime, request);
    const { planId } = await applyNaming(s.runtime, { ...request, fingerprint: preview.fingerprint });
    const all = await s.runtime.db.select().from(steps).where(eq(steps.plan, planId)).orderBy(steps.number);
    const [first, second] = all.filter((x) => x.clip === all[0]!.clip);
    // As it was: the first file named, the second failed and at its old place, the family not yet taken back.
    const { renameSync } = await import('node:fs');
    renameSync(path.join(s.shelf, second!.toPath), put(path.join(s.shelf, second!.fromPath), ''));
    await s.runtime.db.update(plans).set({ state: 'doing' }).where(eq(plans.id, planId));
    await s.runtime.db
      .update(steps)
      .set({ state: 'failed', fault: 'it was in use' })
      .where(eq(steps.number, second!.number));
    await s.runtime.db.update(files).set({ path: second!.fromPath }).where(eq(files.id, second!.file));
    await recoverPlans(s.runtime);
    for (const f of [first!, second!]) expect(statSync(path.join(s.shelf, f.fromPath)).isFile()).toBe(true);
    expect((await s.runtime.db.select().from(plans).where(eq(plans.id, planId)))[0]).toMatchObject({
      state: 'partly',
    });
    await undoPlan(s.runtime, planId);
  });

  test('a drive that is away at the start gives nothing up: the plan waits, its clips are left out, and it goes on', async () => {
    const { preview } = await planNaming(s.runtime, request);
    const { planId } = await applyNaming(s.runtime, { ...request, fingerprint: preview.fingerprint });
    const all = await s.runtime.db.select().from(steps).where(eq(steps.plan, planId)).orderBy(steps.number);
    await s.runtime.db.update(plans).set({ state: 'doing' }).where(eq(plans.id, planId));
    await s.runtime.db
      .update(steps)
      .set({ state: 'doing' })
      .where(eq(steps.number, all.at(-1)!.number));
    const { renameSync } = await import('node:fs');
    renameSync(s.shelf, `${s.shelf}-away`);
    expect(await recoverPlans(s.runtime)).toEqual(['Shelf']);
    renameSync(`${s.shelf}-away`, s.shelf);
    expect((await planNaming(s.runtime, request)).preview.rows.every((r) => r.out)).toBe(true);
    expect(await recoverPlans(s.runtime)).toEqual([]);
    expect(
      (await s.runtime.db.select().from(steps).where(eq(steps.plan, planId))).every(
        (x) => x.state === 'done',
      ),
    ).toBe(true);
    await undoPlan(s.runtime, planId);
  });
});

test('what is written to a file that is never flushed is not relied on', () => {
  // The simulated disk itself: unflushed names and bytes can be lost, flushed ones cannot.
  const ops: DiskOp[] = [
    { op: 'create', file: '/d/a' },
    { op: 'write', file: '/d/a', bytes: Buffer.from('abcd') },
    { op: 'flush', file: '/d/a' },
    { op: 'flushFolder', file: '/d' },
    { op: 'rename', from: '/d/a', to: '/d/b' },
  ];
  expect([...afterCut(new Map(), ops, 2, () => false).files.keys()]).toEqual([]);
  expect([...afterCut(new Map(), ops, 2, () => true).files.values()].map(String)).toEqual(['ab']);
  expect([...afterCut(new Map(), ops, 4, () => false).files].map(([n, b]) => [n, String(b)])).toEqual([
    ['/d/a', 'abcd'],
  ]);
  expect([...afterCut(new Map(), ops, 5, () => false).files.keys()]).toEqual(['/d/a']);
  expect([...afterCut(new Map(), ops, 5, () => true).files.keys()]).toEqual(['/d/b']);
});
