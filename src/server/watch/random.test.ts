import { afterAll, beforeAll, expect, test } from '@jest/globals';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
} from 'node:fs';
import path from 'node:path';
import { and, eq } from 'drizzle-orm';
import { clips, files } from '../cards/tables';
import { randomFrom } from '../../core/platform/random';
import { beginJob } from '../jobs/jobs';
import { addRoot } from '../places';
import { makeClip, put, TEST_JOB, testShelf, type TestShelf } from '../testing/media';
import { Eyes, lookOnce } from './pass';
import { watches } from './tables';
import { watchFolder } from './watching';

// What happens in a watched folder, in any order: after each step the job holds what is on the disk, no more and no less.

const SEQUENCES = Number(process.env.WATCH_SEQUENCES ?? 12);
const STEPS = 6;

let s: TestShelf;
const stock: string[] = [];
beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  for (let i = 0; i < 12; i++)
    stock.push(makeClip(path.join(s.dir, 'stock', `${i}.mp4`), { audio: [], frames: 5 + i }));
});
afterAll(() => s.close());

const footageIn = (at: string): string[] =>
  (readdirSync(at, { recursive: true }) as string[]).filter((f) => f.endsWith('.mp4')).sort();

/** One step in a folder, said in words. */
function step(at: string, of: (below: number) => number): string {
  const there = footageIn(at);
  const name = () => path.join(['', 'A', 'B/C'][of(3)]!, `${'xyzuvw'[of(6)]!}${of(3)}.mp4`);
  const some = there[of(Math.max(1, there.length))];
  const target = name();
  const to = path.join(at, target);
  const kind = some === undefined ? 0 : of(6);
  mkdirSync(path.dirname(to), { recursive: true });
  switch (kind) {
    case 1:
      if (existsSync(to)) return 'nothing';
      renameSync(path.join(at, some!), to);
      return `moved ${some} to ${target}`;
    case 2:
      rmSync(path.join(at, some!));
      return `removed ${some}`;
    case 3:
      copyFileSync(stock[of(stock.length)]!, path.join(at, some!));
      return `replaced ${some}`;
    case 4: {
      const source = readFileSync(stock[of(stock.length)]!);
      put(path.join(at, `${target}.part`), source.subarray(0, source.length / 2));
      return `half of ${target}.part`;
    }
    default:
      copyFileSync(stock[of(stock.length)]!, to);
      return `copied to ${target}`;
  }
}

/** Everything in a tree, files with their size and time. */
const treeOf = (at: string): Map<string, string> =>
  new Map(
    (readdirSync(at, { recursive: true }) as string[]).map((p) => {
      const stat = statSync(path.join(at, p));
      return [p, stat.isDirectory() ? 'folder' : `${stat.size} ${stat.mtimeMs}`] as const;
    }),
  );
/** The folders of what came, went or changed, and those around them. */
function changedIn(before: ReadonlyMap<string, string>, after: ReadonlyMap<string, string>): Set<string> {
  const out = new Set(['']);
  for (const p of new Set([...before.keys(), ...after.keys()]))
    if (before.get(p) !== after.get(p))
      for (let f = path.dirname(p); f !== '.'; f = path.dirname(f)) out.add(f);
  return out;
}

test(
  `${SEQUENCES} random sequences of ${STEPS} steps: the job holds what is on the disk`,
  async () => {
    let now = 0;
    for (let n = 0; n < SEQUENCES; n++) {
      const random = randomFrom(1000 + n);
      const of = (below: number) => Math.floor(random() * below);
      const name = `sequence ${n}`;
      mkdirSync(path.join(s.dir, name));
      const at = realpathSync(path.join(s.dir, name));
      const root = await addRoot(s.runtime, { kind: 'source', path: at });
      const { id } = await watchFolder(s.runtime, { root: root.id, path: '' });
      const [row] = await s.runtime.db.select().from(watches).where(eq(watches.id, id));
      const eyes = new Eyes();
      const done: string[] = [];
      for (let i = 0; i < STEPS; i++) {
        const before = treeOf(at);
        done.push(step(at, of));
        // In every other sequence only what changed is listed, as the system tells it.
        const changed = n % 2 === 0 || i === 0 ? null : changedIn(before, treeOf(at));
        for (const wait of [10, 2000, 2000]) {
          now += wait;
          await lookOnce(s.runtime, row!, eyes, now, false, wait === 10 ? changed : changed && new Set());
        }
        const held = await s.runtime.db
          .select({ id: files.id, path: files.path, size: files.size, clip: files.clip })
          .from(files)
          .innerJoin(clips, eq(clips.id, files.clip))
          .where(and(eq(files.root, root.id), eq(files.role, 'original')));
        const paths = held.map((h) => h.path);
        const why = `sequence ${n}: ${done.join('; ')}`;
        // No file is two clips.
        expect({ why, twice: paths.length - new Set(paths).size }).toEqual({ why, twice: 0 });
        // What the job holds is there as it says, or is known to be gone.
        for (const h of held)
          if (existsSync(path.join(at, h.path)))
            expect({ why, of: h.path, size: h.size }).toEqual({
              ...{ why, of: h.path },
              size: statSync(path.join(at, h.path)).size,
            });
          else
            expect({ why, gone: eyes.gone.has(h.id), of: h.path }).toEqual({ why, gone: true, of: h.path });
        // What is there is held, or is the same recording as one that is held and there.
        const contents = (f: string) => readFileSync(path.join(at, f)).toString('latin1');
        const others = new Set(paths.filter((p) => existsSync(path.join(at, p))).map(contents));
        for (const f of footageIn(at))
          if (!paths.includes(f))
            expect({ why, same: others.has(contents(f)), of: f }).toEqual({ why, same: true, of: f });
      }
      // The next sequence has the same stock: nothing of it may be in the job any more.
      await s.runtime.db.delete(clips).where(eq(clips.job, TEST_JOB));
    }
  },
  120_000 + SEQUENCES * 10_000,
);
