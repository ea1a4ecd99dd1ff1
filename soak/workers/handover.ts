import { lstatSync } from 'node:fs';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import { NewPackage, READY_FORMS } from '../../src/core/handover';
import { clipViews } from '../../src/server/cards';
import { files } from '../../src/server/cards/tables';
import { changeChoice } from '../../src/server/choose';
import { checkPackage } from '../../src/server/handover/packages/check';
import { imageLimits } from '../../src/server/handover/packages/makeRun';
import { sendPackage } from '../../src/server/handover/packages/send';
import { packageNames, packageView } from '../../src/server/handover/packages/views';
import { look } from '../../src/server/intake/look';
import { takeIn } from '../../src/server/intake/takeIn';
import { anyJob, beginJob } from '../../src/server/jobs/jobs';
import { listRoots } from '../../src/server/places/list';
import { addRoot } from '../../src/server/places/roots';
import { alone } from '../../src/server/platform/work/context';
import { openRuntime } from '../../src/server/runtime';
import { TEST_JOB } from '../../src/server/testing/media';

/** What the worker says of the sending that is finished: how it ended, and what reading all of it again found. */
export interface Said {
  state: string;
  sendings: number;
  failed: number;
  same: number;
  wrong: string[];
}

/** Frames of the film, all of which go as images: as many as `handover.ts` makes. */
const FRAMES = 60;
// In several runs, each begun anew after a kill.
imageLimits.bytes = 4 << 20;

// Goes on with the sending that was under way, or begins the next; ends when one is finished.
const home = process.argv[2]!;
const drive = path.join(home, 'drive');
const runtime = (
  await openRuntime({
    home: path.join(home, 'home'),
    databaseFolder: path.join(home, 'database'),
    work: false,
  })
).inJob(TEST_JOB);
if (!(await anyJob(runtime))) {
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const [card] = (await look(runtime, 'shelf', 'Card')).cards;
  await takeIn(runtime, {
    ...{ root: 'shelf', path: 'Card' },
    cards: [{ folder: card!.folder, camera: 'B', cardId: 'B001', day: 1, date: null }],
  });
  await addRoot(runtime, { kind: 'handover', path: drive });
  await runtime.queue.drain();
  const film = (await clipViews(runtime)).find((c) => c.original === 'F0001')!;
  await changeChoice(runtime, {
    ...{ do: 'addRange', clip: film.id, kind: 'select', from: 0, to: FRAMES, name: '', note: '' },
  });
}
await runtime.queue.start(['handover']);
const [before] = await packageNames(runtime);
if (!before || before.state === 'done') {
  // What changed on the shelf is known, as after looking for changes.
  for (const { id, path: at } of await runtime.db.select({ id: files.id, path: files.path }).from(files)) {
    const { size, mtimeMs } = lstatSync(path.join(home, 'home', 'shelf', at));
    await runtime.db
      .update(files)
      .set({ size, modified: Math.round(mtimeMs) })
      .where(eq(files.id, id));
  }
  const roots = await listRoots(runtime);
  await sendPackage(
    runtime,
    NewPackage.parse({
      set: { kind: 'job' },
      form: {
        ...{ ...READY_FORMS[0]!, name: 'All', media: ['original', 'used'], lists: ['marks'] },
        ...{ usedAs: 'dpx10', handles: 0 },
      },
      to: '',
      root: roots.find((r) => r.path === drive)!.id,
      folder: 'SLW',
    }),
  );
}
process.send!('ready');
await runtime.queue.idle('handover');
const [last] = await packageNames(runtime);
const view = await packageView(runtime, last!.id);
const check = await checkPackage(runtime, last!.id, alone());
process.send!({
  ...{ state: view.state, sendings: view.sendings.length, failed: view.failed, same: check.same },
  wrong: [
    ...check.changed,
    ...check.missing,
    ...check.added,
    ...check.unreadable.map((u) => u.path),
    ...check.disagree,
    ...check.lists,
  ],
} satisfies Said);
await runtime.close();
process.disconnect();
