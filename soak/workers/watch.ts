import path from 'node:path';
import { and, eq } from 'drizzle-orm';
import { WatchOptions } from '../../src/core/watch';
import { clips, files } from '../../src/server/cards/tables';
import { keyworded } from '../../src/server/choose/tables';
import { beginJob } from '../../src/server/jobs/jobs';
import { readAgain } from '../../src/server/intake';
import { answerNext, nextView } from '../../src/server/next';
import { nextSteps } from '../../src/server/next/tables';
import { openRuntime } from '../../src/server/runtime';
import { TEST_JOB } from '../../src/server/testing/media';
import { watchFolder } from '../../src/server/watch';
import { watches } from '../../src/server/watch/tables';

// Watches a folder of the shelf, and names what comes into it, until it is killed; or until `rest` clips are in the job and nothing more is
// to happen with them. What the job holds is told then.

const [home, rest] = [process.argv[2]!, process.argv[3]];
const runtime = (await openRuntime({ home, databaseFolder: path.join(home, 'database') })).inJob(TEST_JOB);
if ((await runtime.db.$count(watches)) === 0) {
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const options = WatchOptions.parse({ next: { placing: 'name', keywords: ['Dropped'] } });
  await watchFolder(runtime, { root: 'shelf', path: 'In', options });
}
process.send!('ready');
const asked = new Set<string>();
const begun = Date.now();
while (rest !== undefined && Date.now() - begun < 240_000) {
  const all = await runtime.db.$count(clips);
  if (all >= Number(rest) && (await runtime.db.$count(nextSteps)) === 0) break;
  // What was given up after three deaths waits for a person, who asks for it once more.
  const { stopped } = await nextView(runtime);
  for (const { clip } of stopped) asked.add(clip);
  if (stopped.length > 0) await answerNext(runtime, { answer: 'again', clip: null }, readAgain);
  await new Promise((r) => setTimeout(r, 500));
}
if (rest === undefined) await new Promise(() => setInterval(() => undefined, 60_000));
const originals = await runtime.db
  .select({ path: files.path })
  .from(files)
  .where(and(eq(files.role, 'original'), eq(files.root, 'shelf')));
process.send!({
  originals: originals.map((f) => f.path),
  clips: await runtime.db.$count(clips),
  marked: await runtime.db.$count(keyworded),
  waiting: await runtime.db.$count(nextSteps),
  asked: asked.size,
});
await runtime.close();
process.disconnect();
