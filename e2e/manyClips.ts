import path from 'node:path';
import { writeLog } from '../src/server/logbook';
import { openRuntime } from '../src/server/runtime';
import { storeJobOfMany } from '../src/server/testing/manyClips';
import { TEST_JOB } from '../src/server/testing/media';

// Fills a data folder with very many clips and a long logbook, for a server that is started on it afterwards: `manyClips.ts <home> <clips>`.

const [home, most] = [process.argv[2]!, Number(process.argv[3])];
// A stand-in for a reader: beside those, the data folder may hold no roots of the person's.
process.env.SORT_SHELF_STAND_INS = path.join(home, 'stand-ins');
const source = path.join(home, 'stand-ins', 'source');
const opened = await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false });
const runtime = opened.inJob(TEST_JOB);
await storeJobOfMany(runtime, source, most);
for (let n = 1; n <= 450; n++) await writeLog(runtime, n === 1 ? 'check' : 'proxy', `Entry number ${n}`);
await runtime.close();
