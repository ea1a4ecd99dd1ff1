import path from 'node:path';
import { eq } from 'drizzle-orm';
import { files } from '../../src/server/cards/tables';
import { look } from '../../src/server/intake/look';
import { takeIn } from '../../src/server/intake/takeIn';
import { anyJob, beginJob } from '../../src/server/jobs/jobs';
import { isOwn, listRoots } from '../../src/server/places/list';
import { addRoot } from '../../src/server/places/roots';
import { work } from '../../src/server/platform/work/tables';
import { openRuntime } from '../../src/server/runtime';
import { TEST_JOB } from '../../src/server/testing/media';

/** What the worker says once the place was moved: where it is, and the paths of its files that are known. */
export interface Said {
  at: string;
  paths: string[];
  fault: string | null;
}

// Moves a place to the folder it is told, or goes on with the moving that was under way; ends when that has ended.
const [home, first, to] = process.argv.slice(2) as [string, string, string];
const runtime = (
  await openRuntime({ home: path.join(home, 'home'), databaseFolder: path.join(home, 'database') })
).inJob(TEST_JOB);
const place = async () => (await listRoots(runtime)).find(({ id }) => !isOwn(id));
if (!(await anyJob(runtime)))
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
if (!(await place())) {
  const { id } = await addRoot(runtime, { kind: 'shelf', path: first });
  const [card] = (await look(runtime, id, 'Card')).cards;
  await takeIn(runtime, {
    ...{ root: id, path: 'Card' },
    cards: [{ folder: card!.folder, camera: 'B', cardId: 'B001', day: 1, date: null }],
  });
}
const root = (await place())!;
// One that is under way goes on where it was to go.
const { task } =
  root.path === to
    ? { task: null }
    : await runtime.queue.begin({
        kind: 'movePlace',
        job: TEST_JOB,
        subject: root.id,
        wanted: { to },
        needs: [`root ${root.id}`],
      });
process.send!('ready');
await runtime.queue.idle('movePlace');
const [done] = task === null ? [] : await runtime.db.select().from(work).where(eq(work.id, task));
const rows = await runtime.db.select().from(files).where(eq(files.root, root.id));
process.send!({
  at: (await place())!.path,
  paths: rows.map((r) => r.path),
  fault: done && done.state !== 'done' ? JSON.stringify([done.state, done.problem]) : null,
} satisfies Said);
await runtime.close();
process.disconnect();
