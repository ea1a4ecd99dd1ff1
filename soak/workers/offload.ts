import { existsSync } from 'node:fs';
import path from 'node:path';
import { NewOffload } from '../../src/core/offload/shapes';
import { openRuntime } from '../../src/server/runtime';
import { TEST_JOB } from '../../src/server/testing/media';
import { anyJob, beginJob } from '../../src/server/jobs/jobs';
import { actOnOffload } from '../../src/server/offload/act';
import { beginOffload } from '../../src/server/offload/begin';
import { offloadViews } from '../../src/server/offload/views';
import { addRoot } from '../../src/server/places/roots';
import { listRoots } from '../../src/server/places/list';
import { wipeView } from '../../src/server/custody/wipe';

/** What the worker says: copies that are finished, and what the database makes of each. */
export interface Said {
  done: { card: string; state: string; may: boolean; why: string[] }[];
}

// Goes on with the copy that was under way, or begins the next, with `anew` at any rate; ends when one is finished.
const home = process.argv[2]!;
const runtime = (
  await openRuntime({
    home: path.join(home, 'home'),
    databaseFolder: path.join(home, 'database'),
    work: false,
  })
).inJob(TEST_JOB);
if (!(await anyJob(runtime)))
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
const rootAt = async (kind: 'source' | 'safe', folder: string): Promise<string> => {
  const known = (await listRoots(runtime)).find((r) => r.path === folder);
  return known ? known.id : (await addRoot(runtime, { kind, path: folder })).id;
};
const reader = await rootAt('source', path.join(home, 'stand-ins/readers/Reader 1'));
const safe = [
  await rootAt('safe', path.join(home, 'stand-ins/drives/North')),
  await rootAt('safe', path.join(home, 'stand-ins/drives/South')),
];
await runtime.queue.start(['copy']);
const before = await offloadViews(runtime);
const [last] = before;
if (last && (last.state === 'partly' || last.state === 'paused' || last.state === 'waiting'))
  await actOnOffload(runtime, last.id, { action: last.state === 'partly' ? 'retry' : 'resume' });
// A server killed after the end of a copying, before it said so: that one is told now.
const untold = existsSync(
  path.join(home, 'stand-ins/drives/South', before[0]?.destinations[1]?.folder ?? 'none yet'),
);
if (before.every((o) => o.state === 'done') && (!untold || process.argv[3] === 'anew')) {
  // The same card each time, whose copies are gone: it is known, and everything is copied again.
  await beginOffload(
    runtime,
    NewOffload.parse({
      root: reader,
      path: '',
      folder: 'CARD',
      camera: 'B',
      cardId: 'B001',
      day: 1,
      date: null,
      clips: null,
      wholeCard: true,
      safe,
      shelf: false,
      pattern: '{card}',
      verification: 'contents',
      hash: 'xxh128',
    }),
  );
}
process.send!('ready');
await runtime.queue.idle('copy');
const done = await Promise.all(
  (await offloadViews(runtime)).map(async (o) => {
    const { may, because, reasons } = await wipeView(runtime, o.card);
    return { card: o.card, state: o.state, may, why: [because, ...reasons.map((x) => x.text)] };
  }),
);
process.send!({ done } satisfies Said);
await runtime.close();
process.disconnect();
