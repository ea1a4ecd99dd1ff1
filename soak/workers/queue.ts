import type { ServerEvent } from '../../src/core/overview/shapes';
import { openServer } from '../../src/server/platform/db/server';
import { Events } from '../../src/server/platform/events';
import { type WorkContext, WorkQueue } from '../../src/server/platform/work/queue';
import type { Runtime } from '../../src/server/runtime';

// A worker of a queue that several share: `queue.ts <address of the database> <seconds of a lease>`. What it begins and what it ends
// stands in the table `tried`; it works until it is stopped.

const [url, lease] = [process.argv[2]!, Number(process.argv[3])];
const database = await openServer(url, { beside: true });
const runtime: Pick<Runtime, 'db' | 'database' | 'events' | 'inJob'> = {
  db: database.db,
  database,
  events: new Events<ServerEvent>(),
  inJob: (job) => Object.assign(Object.create(runtime) as Runtime, { job }),
};
const me = String(process.pid);
const work = async ({ id }: WorkContext): Promise<void> => {
  await database.query('insert into tried (work, worker) values ($1, $2)', [id, me]);
  await new Promise((r) => setTimeout(r, 5 + Math.random() * 30));
  await database.query('update tried set ended = true where work = $1 and worker = $2', [id, me]);
};
const queue = new WorkQueue(
  runtime,
  {
    read: {
      most: 4,
      run: async (_, contexts) => {
        await Promise.all(contexts.map(work));
        return new Map();
      },
    },
    rest: { most: 5, run: () => Promise.resolve(new Map()) },
    filmstrip: () => Promise.resolve(),
    proxy: (_, context) => work(context),
  },
  lease,
);
await queue.recover();
await queue.start();
process.on('SIGTERM', () => void queue.stop().then(() => database.close().then(() => process.exit(0))));
console.log('works');
