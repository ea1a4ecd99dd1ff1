import path from 'node:path';
import { openRuntime } from '../src/server/runtime';
import { storeManyClips } from '../src/server/testing/manyClips';
import { makeClip, TEST_JOB } from '../src/server/testing/media';
import { beginJob } from '../src/server/jobs/jobs';
import { addRoot } from '../src/server/places/roots';
import { takeIn } from '../src/server/intake/takeIn';

// Fills a data folder with very many clips, for a server that is started on it afterwards: `manyClips.ts <home> <clips>`.

const [home, most] = [process.argv[2]!, Number(process.argv[3])];
// A stand-in for a reader: beside those, the data folder may hold no roots of the person's.
process.env.SORT_SHELF_STAND_INS = path.join(home, 'stand-ins');
const source = path.join(home, 'stand-ins', 'source');
for (const [name, rate] of [
  ['T0001', '25'],
  ['T0002', '50'],
  ['T0003', '30000/1001'],
] as const)
  makeClip(path.join(source, 'B001', 'CLIP', `${name}.MP4`), { rate });
const opened = await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false });
const runtime = opened.inJob(TEST_JOB);
await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
const root = await addRoot(runtime, { kind: 'source', path: source });
await takeIn(runtime, {
  root: root.id,
  path: '',
  cards: [{ folder: 'B001', camera: 'B', cardId: 'B001', day: 1, date: '2026-05-06' }],
});
await runtime.queue.drainKind('read');
await storeManyClips(runtime, most);
await runtime.close();
