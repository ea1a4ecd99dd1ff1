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
// Hundreds are unpacked and opened: without what no test asks for, and with less memory to set to nothing at each opening.
await database.query(`
  alter database template0 is_template false;
  alter database template1 is_template false;
`);
for (const unused of ['drop database template0', 'drop database template1']) await database.query(unused);
await database.query("alter system set shared_buffers = '16MB'");
await writeFile(
  `${file}.part`,
  Buffer.from(await (await database.embedded!.dumpDataDir('none')).arrayBuffer()),
);
await rename(`${file}.part`, file);
await database.close();
