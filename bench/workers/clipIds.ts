import path from 'node:path';
import { clips } from '../../src/server/cards/tables';
import { openRuntime } from '../../src/server/runtime';

// Prints the ids of all stored clips, a line each: `clipIds.ts <home>`.

const home = process.argv[2]!;
const runtime = await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false });
for (const { id } of await runtime.db.select({ id: clips.id }).from(clips)) console.log(id);
await runtime.close();
