import { openServer } from '../../src/server/platform/db/server';
import { Events } from '../../src/server/platform/events';
import type { WorkContext } from '../../src/server/platform/work/kinds';
import { WorkQueue } from '../../src/server/platform/work/queue';
import { kindsOf } from '../../src/server/testing/kinds';

// A worker of a queue that several share: `queue.ts <address of the database> <seconds of a lease>`. What it begins and what it ends
// is in the table `tried`; it works until it is stopped.

const [url, lease] = [process.argv[2]!, Number(process.argv[3])];
const database = await openServer(url, { beside: true });
const me = String(process.pid);
const work = async ({ id }: WorkContext): Promise<void> => {
  await database.query('insert into tried (work, worker) values ($1, $2)', [id, me]);
  await new Promise((r) => setTimeout(r, 5 + Math.random() * 30));
  await database.query('update tried set ended = true where work = $1 and worker = $2', [id, me]);
};
const queue = new WorkQueue(
  { database, events: new Events(), given: () => null as never },
  kindsOf({
    read: {
      most: 4,
      runAll: async (_, contexts) => {
        await Promise.all(contexts.map(work));
        return new Map();
      },
    },
    proxy: (_, context) => work(context),
    // Has something to itself.
    check: async (_, { id }) => {
      await database.query('insert into held (work, worker, began) values ($1, $2, clock_timestamp())', [
        id,
        me,
      ]);
      await new Promise((r) => setTimeout(r, 10 + Math.random() * 20));
      await database.query('update held set ended = clock_timestamp() where work = $1', [id]);
    },
    // Runs until it is ended.
    prove: (_, { signal }) =>
      new Promise<never>((_resolve, reject) =>
        signal.addEventListener('abort', () => reject(signal.reason as Error)),
      ),
  }),
  lease,
);
await queue.recover();
await queue.start();
process.on('SIGTERM', () => void queue.stop().then(() => database.close().then(() => process.exit(0))));
console.log('works');
