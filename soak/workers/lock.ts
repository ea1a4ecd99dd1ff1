import { createInterface } from 'node:readline';
import { holdFolder } from '../../src/server/platform/lock';

// Takes the folder it is told, and says whether it got it; "drop" lets go.

const held: (() => Promise<void>)[] = [];
console.log('ready');
for await (const line of createInterface({ input: process.stdin })) {
  if (line === 'drop') {
    await held.pop()?.();
    console.log('dropped');
  } else {
    await holdFolder(line).then(
      (r) => {
        held.push(r);
        console.log('held');
      },
      (e: Error) => console.log(/works on/.test(e.message) ? 'refused' : `fault ${e.message}`),
    );
  }
}
