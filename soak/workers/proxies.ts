import path from 'node:path';
import { isMade } from '../../src/core/intake';
import { READY_RECIPES } from '../../src/core/proxies/recipe';
import { addWork } from '../../src/server/cards';
import { cards, clips, files } from '../../src/server/cards/tables';
import { look } from '../../src/server/intake/look';
import { takeIn } from '../../src/server/intake/takeIn';
import { beginJob } from '../../src/server/jobs/jobs';
import { actOnPair, clearHalfMade } from '../../src/server/proxies';
import { openRuntime } from '../../src/server/runtime';
import { TEST_JOB } from '../../src/server/testing/media';

// Makes what recipes say of a card's clips until it is killed, removing what was made when all of it is; or once, where it is asked to
// come to rest. What it knows of is told.

const home = process.argv[2]!;
const runtime = (await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false })).inJob(
  TEST_JOB,
);
if ((await runtime.db.select().from(cards)).length === 0) {
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const found = await look(runtime, 'shelf', 'Card');
  await takeIn(runtime, {
    root: 'shelf',
    path: 'Card',
    cards: [{ folder: found.cards[0]!.folder, camera: 'B', cardId: 'B001', day: 1, date: null }],
  });
  await runtime.queue.drainKind('read');
  await runtime.queue.drainKind('rest');
}
await clearHalfMade(runtime);
const made = async () => (await runtime.db.select().from(files)).filter((f) => isMade(f.role));
const tell = async () => process.send!({ made: (await made()).map((f) => ({ path: f.path, size: f.size })) });
await tell();
process.send!('ready');
const recipes = [READY_RECIPES[0]!, READY_RECIPES.find((r) => r.purpose === 'rewrap')!];
const begun = Date.now();
for (;;) {
  const ids = (await runtime.db.select().from(clips)).map((c) => c.id);
  for (const recipe of recipes) await addWork(runtime, 'proxy', ids, { recipe });
  await runtime.queue.drainKind('proxy');
  // What a worker had fetched and not begun when it was killed is given out again after the lease, by `tend`; what was given up after three
  // deaths is asked for once more.
  if (process.argv[3] === 'rest') {
    if ((await made()).length === ids.length * recipes.length || Date.now() - begun > 180_000) break;
    await new Promise((r) => setTimeout(r, 1000));
    await runtime.queue.tend();
    continue;
  }
  for (const f of await made()) await actOnPair(runtime, { action: 'remove', file: f.id });
}
await tell();
await runtime.close();
process.disconnect();
