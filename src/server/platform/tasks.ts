import { randomUUID } from 'node:crypto';
import { DrizzleQueryError } from 'drizzle-orm';
import { shownPath } from '../../core/platform/names';
import type { ProblemDetails, TaskView } from '../../core/platform/shapes';
import { isCode, messageOf, ShelfError } from './errors';
import type { Events } from './events';

/** What a task is given: the sign to stop, and the way to say how far it is. */
export interface TaskContext {
  /** [1] is set to stop. Int32, shared with worker threads. */
  gate: SharedArrayBuffer;
  stopped(): boolean;
  progress: (done: number, total: number) => void;
}

/** What work outside of any task is given: nobody stops it, and nobody is told. */
export const alone = (): TaskContext => {
  const gate = new SharedArrayBuffer(8);
  return { gate, stopped: () => Atomics.load(new Int32Array(gate), 1) !== 0, progress: () => undefined };
};

/** Throws, with the code STOPPED, where a task is to stop: only where nothing is half done. */
export function endIfStopped(task: Pick<TaskContext, 'stopped'>): void {
  if (task.stopped()) throw Object.assign(new Error('It was stopped.'), { code: 'STOPPED' });
}

/** How long the outcome of a task is kept for who began it. Milliseconds. */
const KEPT = 10 * 60_000;

interface Task {
  view: TaskView;
  context: TaskContext;
  done: Promise<void>;
}

/** Long work that a request begins and does not wait for: it is told how far it is, can be stopped, and its outcome is asked for later. */
export class Tasks {
  readonly #tasks = new Map<string, Task>();

  constructor(private readonly events: Pick<Events, 'changed' | 'send'>) {}

  /** Begins work and answers with its id at once. */
  begin(
    { title, job, subject = null }: Pick<TaskView, 'title' | 'job'> & Partial<Pick<TaskView, 'subject'>>,
    work: (context: TaskContext) => Promise<unknown>,
  ): { task: string } {
    const id = randomUUID();
    const context: TaskContext = {
      ...alone(),
      progress: (done, total) => {
        Object.assign(task.view, { done, total });
        this.events.changed('tasks');
      },
    };
    const task: Task = {
      view: { id, title, job, subject, state: 'running', done: 0, total: 0, result: null, problem: null },
      context,
      done: Promise.resolve(),
    };
    this.#tasks.set(id, task);
    task.done = work(context)
      .then(
        (result) => {
          Object.assign(task.view, { state: 'done', result: result ?? null });
        },
        (e: unknown) => {
          Object.assign(task.view, {
            state: context.stopped() ? 'stopped' : 'failed',
            problem: problemOf(e),
          });
        },
      )
      .finally(() => {
        this.events.changed('tasks');
        setTimeout(() => this.#tasks.delete(id), KEPT).unref();
      });
    this.events.changed('tasks');
    return { task: id };
  }

  view(id: string): TaskView | null {
    return this.#tasks.get(id)?.view ?? null;
  }

  /** What runs now. */
  running(): TaskView[] {
    return [...this.#tasks.values()].map((t) => t.view).filter((v) => v.state === 'running');
  }

  /** Asks a task to stop; it ends at the next point where nothing is half done. */
  stop(id: string): void {
    const task = this.#tasks.get(id);
    if (!task) return;
    const words = new Int32Array(task.context.gate);
    Atomics.store(words, 1, 1);
    Atomics.notify(words, 0);
  }

  /** Stops all and waits until they have. */
  async end(): Promise<void> {
    for (const id of this.#tasks.keys()) this.stop(id);
    await Promise.all([...this.#tasks.values()].map((t) => t.done));
  }
}

/** SQLSTATEs of values that the database cannot take: a text that is no number or id, one out of range, bytes that are no text. */
const REFUSED_VALUES = ['22003', '22007', '22008', '22021', '22P02', '22P05'];

/** Anything thrown as a JSON problem (RFC 9457). */
export function problemOf(e: unknown): ProblemDetails {
  if (e instanceof ShelfError) return e.problem();
  const of = (title: string, next: string, status = 422): ProblemDetails => ({
    type: 'about:blank',
    title,
    status,
    detail: shownPath(messageOf(e)),
    next,
  });
  if (isCode(e, 'STOPPED')) return of('Stopped', 'What was done until then stays as the logbook says.', 409);
  if (isCode(e, 'EACCES', 'EPERM', 'EROFS'))
    return of('Not allowed', 'Check the permissions of the folder, or whether its volume is read only.');
  if (isCode(e, 'ENOSPC', 'EDQUOT', '53100')) return of('Full', 'Make room on the volume, then try again.');
  if (isCode(e, 'ENAMETOOLONG'))
    return of('Name too long', 'The system cannot hold a path of this length: choose a shorter one.');
  if (isCode(e, 'ENOENT', 'ENOTDIR'))
    return of('Not found', 'Connect the volume, or look at the folder again.', 404);
  if (isCode(e, 'ELOOP', 'EISDIR', 'EINVAL', 'EXDEV', 'ENXIO'))
    return of('Refused', 'Choose another file or folder.');
  if (isCode(e, 'EIO', 'ENODEV', 'ESTALE', 'ETIMEDOUT'))
    return of('Unreadable', 'Check the volume and its cable, then try again.');
  if (isCode(e, 'EMFILE', 'ENFILE'))
    return of('Busy', 'Too many files are open at once. Try again in a moment.', 503);
  // What the database cannot hold (SQLSTATE 22xxx: a number out of range, a text that is no id).
  if (e instanceof DrizzleQueryError && isCode(e.cause, ...REFUSED_VALUES))
    return of('Not understood', 'Correct it and try again.', 400);
  console.error(e);
  return of('Unexpected', 'Nothing more is known. The server printed the details.', 500);
}
