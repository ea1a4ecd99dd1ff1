import { randomBytes } from 'node:crypto';
import { execFileSync } from 'node:child_process';
import { closeSync, mkdirSync, openSync, rmSync, writeSync } from 'node:fs';
import path from 'node:path';
import { beginJob } from '../../src/server/jobs/jobs';
import { look } from '../../src/server/intake/look';
import { beginOffload } from '../../src/server/offload/begin';
import { offloads } from '../../src/server/offload/tables';
import { addRoot } from '../../src/server/places/roots';
import { openRuntime } from '../../src/server/runtime';
import { TEST_JOB } from '../../src/server/testing/media';
import { warmThreads } from '../../src/server/transfer/pool';

/** Makes a card of so many files and bytes that hold no pictures. */
export function makeCard(source: string, files: number, bytes: number): void {
  mkdirSync(path.join(source, 'CLIP'), { recursive: true });
  const size = Math.floor(bytes / files);
  for (let i = 1; i <= files; i++) {
    const fd = openSync(path.join(source, 'CLIP', `T${String(i).padStart(4, '0')}.MP4`), 'w');
    const head = Buffer.alloc(16);
    head.write('\0\0\0\x08ftyp', 0, 'latin1');
    head.writeUInt32BE(size - 8, 8);
    head.write('mdat', 12, 'latin1');
    writeSync(fd, head);
    const block = randomBytes(8 << 20);
    for (let at = 16; at < size; at += block.length)
      writeSync(fd, block, 0, Math.min(block.length, size - at));
    closeSync(fd);
  }
  execFileSync('sync');
}

/** An application in `dir` that copies a card to two safe copies, verified by contents; `copy` gives the seconds that took. */
export async function copying(
  dir: string,
  source: string,
): Promise<{ copy: () => Promise<number>; close: () => Promise<void> }> {
  const runtime = (await openRuntime({ home: path.join(dir, 'home'), work: ['copy'] })).inJob(TEST_JOB);
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  for (const d of ['North', 'South']) mkdirSync(path.join(dir, d));
  const root = await addRoot(runtime, { kind: 'source', path: source });
  const [north, south] = [
    await addRoot(runtime, { kind: 'safe', path: path.join(dir, 'North') }),
    await addRoot(runtime, { kind: 'safe', path: path.join(dir, 'South') }),
  ];
  return {
    async copy() {
      const { cards } = await look(runtime, root.id, '');
      // As the server does when someone looks at a card.
      await warmThreads();
      const begun = performance.now();
      const { id } = await beginOffload(runtime, {
        root: root.id,
        path: '',
        folder: cards[0]!.folder,
        camera: 'B',
        cardId: 'B001',
        day: 1,
        date: null,
        clips: null,
        wholeCard: true,
        safe: [north.id, south.id],
        shelf: false,
        pattern: '{card}',
        verification: 'contents',
        hash: 'xxh128',
        singles: [],
      });
      await runtime.queue.idle('copy');
      const seconds = (performance.now() - begun) / 1000;
      const last = (await runtime.db.select().from(offloads)).find((o) => o.id === id)!;
      if (last.state !== 'done') throw new Error(`the copy ended as ${last.state}: ${last.fault}`);
      execFileSync('diff', ['-r', '--exclude=ascmhl', source, path.join(north.path, 'B001')]);
      for (const r of [north, south]) rmSync(path.join(r.path, 'B001'), { recursive: true });
      execFileSync('sync');
      return seconds;
    },
    close: () => runtime.close(),
  };
}
