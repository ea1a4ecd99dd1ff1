import { rename, writeFile } from 'node:fs/promises';
import { openDatabase } from '../platform/db/client';
import { Events } from '../platform/events';
import { WorkQueue } from '../platform/work/queue';
import { kindsOf } from './kinds';

// Writes a dump of an empty database with all its tables, the queue's among them: `makeEmptyDatabase.ts <file>`.

const file = process.argv[2];
if (!file) throw new Error('usage: makeEmptyDatabase <file>');
const database = await openDatabase();
const queue = new WorkQueue({ database, events: new Events(), given: () => undefined as never }, kindsOf({}));
await queue.recover();
await queue.stop();
await writeFile(
  `${file}.part`,
  Buffer.from(await (await database.embedded!.dumpDataDir('none')).arrayBuffer()),
);
await rename(`${file}.part`, file);
await database.close();
