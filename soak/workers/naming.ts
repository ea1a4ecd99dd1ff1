import { randomUUID } from 'node:crypto';
import { lstatSync, readdirSync } from 'node:fs';
import path from 'node:path';
import { DEFAULT_CONVENTION, DEFAULT_FOLDER_PLAN } from '../../src/core/naming/convention';
import { cameras, cards, clips, days, files } from '../../src/server/cards/tables';
import { type InJob, openRuntime } from '../../src/server/runtime';
import { TEST_JOB } from '../../src/server/testing/media';
import { applyNaming, undoPlan } from '../../src/server/naming/applyPlan';
import { beginJob } from '../../src/server/jobs/jobs';
import { planNaming } from '../../src/server/naming/naming';

/** Stores the files of `Card` as read clips, without media: what is soaked is the moving of files. */
async function seed(runtime: InJob, shelf: string): Promise<void> {
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  await runtime.db.insert(cameras).values({ job: TEST_JOB, label: 'B', model: null });
  await runtime.db.insert(days).values({ job: TEST_JOB, number: 1, date: '2026-05-05' });
  await runtime.db.insert(cards).values({
    job: TEST_JOB,
    id: 'B001',
    camera: 'B',
    day: 1,
    shape: 'plain',
    root: 'shelf',
    folder: 'Card',
    aside: [],
    proxySuffix: null,
    takenAt: new Date(),
  });
  const stems = [...new Set(readdirSync(path.join(shelf, 'Card')).map((f) => f.split('.')[0]!))];
  for (const stem of stems) {
    const id = randomUUID();
    await runtime.db
      .insert(clips)
      .values({ id, job: TEST_JOB, card: 'B001', original: stem, state: 'read', audio: [] });
    for (const [name, role] of [
      [`${stem}.MP4`, 'original'],
      [`${stem}.XML`, 'sidecar'],
    ] as const) {
      const s = lstatSync(path.join(shelf, 'Card', name));
      const place = `Card/${name}`;
      await runtime.db.insert(files).values({
        id: randomUUID(),
        clip: id,
        role,
        root: 'shelf',
        path: place,
        takenRoot: 'shelf',
        takenPath: place,
        suffix: '',
        size: s.size,
        modified: Math.round(s.mtimeMs),
      });
    }
  }
}

const home = process.argv[2]!;
const runtime = (await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false })).inJob(
  TEST_JOB,
);
if ((await runtime.db.select().from(cards)).length === 0) await seed(runtime, path.join(home, 'shelf'));
process.send!('ready');
const request = { convention: DEFAULT_CONVENTION, folderPlan: DEFAULT_FOLDER_PLAN, cards: [], without: [] };
// Names and takes back until it is killed, or once where it is asked to come to rest.
for (let turn = 0; ; turn++) {
  const { preview } = await planNaming(runtime, request);
  if (preview.steps > 0) {
    const { planId } = await applyNaming(runtime, { ...request, fingerprint: preview.fingerprint });
    if (process.argv[3] === 'rest') break;
    await undoPlan(runtime, planId);
  } else if (process.argv[3] === 'rest') break;
  else {
    const { preview: back } = await planNaming(runtime, {
      ...request,
      folderPlan: { levels: [], proxyFolder: 'Proxy' },
    });
    await applyNaming(runtime, {
      ...request,
      folderPlan: { levels: [], proxyFolder: 'Proxy' },
      fingerprint: back.fingerprint,
    });
  }
}
const rows = await runtime.db.select().from(files);
process.send!({ places: rows.map((r) => r.path) });
await runtime.close();
process.disconnect();
