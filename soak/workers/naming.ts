import path from 'node:path';
import { namingRequest } from '../../src/core/naming/shapes';
import { cards, files } from '../../src/server/cards/tables';
import { openRuntime } from '../../src/server/runtime';
import { TEST_JOB } from '../../src/server/testing/media';
import { storeShelved } from '../../src/server/testing/shelve';
import { applyNaming, undoPlan } from '../../src/server/naming';
import { beginJob } from '../../src/server/jobs/jobs';
import { planNaming } from '../../src/server/naming/naming';

const home = process.argv[2]!;
const runtime = (await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false })).inJob(
  TEST_JOB,
);
if ((await runtime.db.select().from(cards)).length === 0) {
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  await storeShelved(runtime, 'Card');
}
process.send!('ready');
const request = namingRequest();
// Names and takes back until it is killed, or once where it is asked to come to rest.
for (let turn = 0; ; turn++) {
  const { preview } = await planNaming(runtime, request);
  if (preview.steps > 0) {
    const { planId } = await applyNaming(runtime, { ...request, fingerprint: preview.fingerprint });
    if (process.argv[3] === 'rest') break;
    await undoPlan(runtime, planId);
  } else if (process.argv[3] === 'rest') break;
  else {
    const flat = namingRequest({ folderPlan: { ...request.folderPlan, levels: [] } });
    const { preview: back } = await planNaming(runtime, flat);
    await applyNaming(runtime, { ...flat, fingerprint: back.fingerprint });
  }
}
const rows = await runtime.db.select().from(files);
process.send!({ places: rows.map((r) => r.path) });
await runtime.close();
process.disconnect();
