import { createCipheriv, createHash } from 'node:crypto';
import { mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { DEFAULT_PATTERN, type NewOffload, type OffloadView, Faults } from '../../core/offload';
import { put, TEST_JOB, testShelf, type TestShelf } from '../../server/testing/media';
import { beginJob } from '../../server/jobs';
import { beginOffload, offloadViews } from '../../server/offload';
import { addRoot } from '../../server/places';
import { actOnStandIn, makeStandIns } from './standIns';

/** Bytes that look like a film from outside; each name has its own. */
export function footage(name: string, size: number): Buffer {
  if (size < 16) return Buffer.alloc(size, name);
  const key = createHash('sha256').update(name).digest();
  const b = createCipheriv('aes-128-ctr', key.subarray(0, 16), key.subarray(16)).update(Buffer.alloc(size));
  b.writeUInt32BE(8, 0);
  b.write('ftyp', 4, 'latin1');
  b.writeUInt32BE(size - 8, 8);
  b.write('mdat', 12, 'latin1');
  return b;
}

/** So slow that a machine busy with other tests finds a copy still running when it acts on it. */
export const SLOW: Partial<Faults> = { slow: 1.8e6 };

/** Waits until something has come to pass, a minute at most. */
export async function until(what: () => Promise<boolean> | boolean): Promise<void> {
  for (const end = Date.now() + 60_000; !(await what());) {
    if (Date.now() > end) throw new Error('it did not come to pass in a minute');
    await new Promise((r) => setTimeout(r, 50));
  }
}

/** A test's shelf with two card readers and two drives that are stand-ins, and short ways to use them. */
export interface CopyingShelf {
  shelf: TestShelf;
  standIns: string;
  /** Ids of the roots by the name of the reader or drive. */
  roots: Record<string, string>;
  reader(...p: string[]): string;
  drive(name: string, ...p: string[]): string;
  /** Puts a card with these files and sizes into the first reader, in place of what was there; returns the id it gets. */
  card(of: Record<string, number>): string;
  tell(of: string, faults: Partial<Faults>): void;
  /** Everything works again. */
  calm(): void;
  wanted(id: string, extra?: Partial<NewOffload>): NewOffload;
  begin(id: string, extra?: Partial<NewOffload>): Promise<string>;
  /** Reads the clips and copies to the end. */
  copy(id: string, extra?: Partial<NewOffload>): Promise<OffloadView>;
  view(offload: string): Promise<OffloadView>;
}

export async function copyingShelf({ kept = false } = {}): Promise<CopyingShelf> {
  const shelf = await testShelf({ standIns: true, kept });
  const standIns = path.join(shelf.dir, 'stand-ins');
  const made = makeStandIns(standIns);
  const roots: Record<string, string> = {};
  await beginJob(shelf.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  for (const p of made.readers)
    roots[path.basename(p)] = (await addRoot(shelf.runtime, { kind: 'source', path: p })).id;
  for (const p of made.drives)
    roots[path.basename(p)] = (await addRoot(shelf.runtime, { kind: 'safe', path: p })).id;
  mkdirSync(path.join(standIns, 'drawer'), { recursive: true });
  let number = 0;
  const r: CopyingShelf = {
    shelf,
    standIns,
    roots,
    reader: (...p) => path.join(standIns, 'readers/Reader 1', ...p),
    drive: (name, ...p) => path.join(standIns, 'drives', name, ...p),
    card(of) {
      const id = `B${String(++number).padStart(3, '0')}`;
      rmSync(r.reader(), { recursive: true, force: true });
      mkdirSync(r.reader());
      for (const [p, size] of Object.entries(of)) put(r.reader(id, p), footage(id + p, size));
      return id;
    },
    tell: (of, faults) => actOnStandIn({ action: 'faults', of, faults: { ...Faults.parse({}), ...faults } }),
    calm: () => ['Reader 1', 'North', 'South'].forEach((of) => r.tell(of, {})),
    wanted: (id, extra = {}) => ({
      root: roots['Reader 1']!,
      path: '',
      folder: id,
      camera: 'B',
      cardId: id,
      day: 1,
      date: null,
      clips: null,
      wholeCard: true,
      safe: [roots.North!, roots.South!],
      shelf: false,
      pattern: DEFAULT_PATTERN,
      verification: 'contents',
      hash: 'xxh128',
      singles: [],
      ...extra,
    }),
    begin: async (id, extra = {}) => (await beginOffload(shelf.runtime, r.wanted(id, extra))).id,
    async copy(id, extra = {}) {
      const offload = await r.begin(id, extra);
      // Clips are named on the shelf once they are read, and nobody else works the queue off.
      let ended = false;
      const idle = shelf.runtime.queue.idle('copy').finally(() => {
        ended = true;
      });
      while (!ended) {
        await shelf.runtime.queue.drain();
        await new Promise((next) => setTimeout(next, 50));
      }
      await idle;
      return r.view(offload);
    },
    view: async (offload) => (await offloadViews(shelf.runtime)).find((o) => o.id === offload)!,
  };
  return r;
}
