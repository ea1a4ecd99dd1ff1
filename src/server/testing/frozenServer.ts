import { type DiskOp, layer } from '../platform/files/fileSystem';
import type { InJob } from '../runtime';

/** The runtime as a server that crashes: what it is at never ends, and the next one does not wait for it. */
const crashing = (runtime: InJob): InJob =>
  Object.assign(Object.create(runtime) as InJob, { exclusively: <T>(work: () => Promise<T>) => work() });

/** Changes whose teller is not waited for: a server that is frozen at one would go on with the next. */
const NOT_WAITED_FOR: readonly DiskOp['op'][] = ['create', 'write', 'flush'];

/** Lets a server do some work, and freezes it after so many changes to the disk. Returns whether it came so far. */
export async function frozen(
  runtime: InJob,
  work: (runtime: InJob) => Promise<unknown>,
  after: number,
): Promise<boolean> {
  let left = after;
  let freeze!: () => void;
  const froze = new Promise<true>((done) => {
    freeze = () => done(true);
  });
  layer.tell = ({ op }) => {
    if (NOT_WAITED_FOR.includes(op) || left-- > 0) return undefined;
    freeze();
    return new Promise(() => undefined);
  };
  const ended = work(crashing(runtime)).then(() => false as const);
  const result = await Promise.race([froze, ended]);
  layer.tell = null;
  return result;
}
