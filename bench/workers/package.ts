import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, rmSync, statfsSync } from 'node:fs';
import { freemem, tmpdir } from 'node:os';
import path from 'node:path';
import { NewPackage, READY_FORMS } from '../../src/core/handover';
import { dropPackage, packageView, sendPackage } from '../../src/server/handover';
import { look } from '../../src/server/intake/look';
import { takeIn } from '../../src/server/intake/takeIn';
import { beginJob } from '../../src/server/jobs/jobs';
import { addRoot } from '../../src/server/places/roots';
import { openRuntime } from '../../src/server/runtime';
import { TEST_JOB } from '../../src/server/testing/media';
import { warmThreads } from '../../src/server/transfer/pool';
import { makeCard } from './card';

const FILES = 40;
const total = (list: number[]) => list.reduce((n, s) => n + s, 0);

/**
 * Seconds that a package of so many bytes takes, and what a person would type: cp, and xxhsum of both sides, compared. In memory where there
 * is enough of it, so that no disk's mood is measured. Both once unmeasured, then twice in turns.
 */
export async function packageAgainstCp(
  bytes: number,
): Promise<{ typed: number; ours: number; where: string }> {
  const room = (folder: string): number => {
    const { bavail, bsize } = statfsSync(folder);
    return bavail * bsize;
  };
  const inMemory = existsSync('/dev/shm') && room('/dev/shm') > bytes * 3 && freemem() > bytes * 3.2;
  const dir = mkdtempSync(path.join(inMemory ? '/dev/shm' : tmpdir(), 'shelf-bench-'));
  const home = path.join(dir, 'home');
  const source = path.join(home, 'shelf', 'Card');
  makeCard(source, FILES, bytes);
  const drive = path.join(dir, 'drive');
  mkdirSync(drive);
  const runtime = (await openRuntime({ home, work: ['handover'] })).inJob(TEST_JOB);
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const [card] = (await look(runtime, 'shelf', 'Card')).cards;
  await takeIn(runtime, {
    ...{ root: 'shelf', path: 'Card' },
    cards: [{ folder: card!.folder, camera: 'B', cardId: 'B001', day: 1, date: null }],
  });
  const { id: root } = await addRoot(runtime, { kind: 'handover', path: drive });
  const typed = (): number => {
    const to = path.join(dir, 'typed');
    mkdirSync(to);
    const begun = performance.now();
    execFileSync('sh', [
      '-c',
      'cp -r "$0" "$1" && for d in "$0" "$1/Card"; do (cd "$d" && find . -type f -print0 | sort -z | xargs -0 xxhsum -q -H2) > "$d.sums" || exit 1; done && cmp "$0.sums" "$1/Card.sums"',
      source,
      to,
    ]);
    const seconds = (performance.now() - begun) / 1000;
    rmSync(to, { recursive: true });
    rmSync(`${source}.sums`);
    return seconds;
  };
  const ours = async (): Promise<number> => {
    // As the server does when someone works with it.
    await warmThreads();
    const begun = performance.now();
    const { id } = await sendPackage(
      runtime,
      NewPackage.parse({
        set: { kind: 'job' },
        form: { ...READY_FORMS.find((f) => f.name === 'Finishing')!, folders: 'one', lists: [] },
        ...{ to: '', root, folder: 'SLW' },
      }),
    );
    await runtime.queue.idle('handover');
    const seconds = (performance.now() - begun) / 1000;
    const view = await packageView(runtime, id);
    if (view.state !== 'done') throw new Error(`the package ended as ${view.state}: ${view.fault}`);
    execFileSync('diff', ['-r', path.join(source, 'CLIP'), path.join(drive, 'SLW', 'Originals')]);
    await dropPackage(runtime, id);
    rmSync(path.join(drive, 'SLW'), { recursive: true });
    return seconds;
  };
  typed();
  await ours();
  const [t, o] = [[] as number[], [] as number[]];
  for (let n = 0; n < 2; n++) {
    t.push(typed());
    o.push(await ours());
  }
  await runtime.close();
  rmSync(dir, { recursive: true, force: true });
  return { typed: total(t), ours: total(o), where: inMemory ? 'in memory' : 'on disk' };
}
