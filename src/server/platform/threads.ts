import PQueue from 'p-queue';
import { Piscina } from 'piscina';
import { joinPath } from './files/names';

/** Worker threads of one script, started at the first use. The script is a bundle of its own (scripts/threads.mjs). */
export class Threads {
  #pool: Piscina | null = null;
  readonly #turns: PQueue;

  /** `script` is its path below the application’s folder; `most` how many run at once. */
  constructor(
    private readonly script: string,
    private readonly most: number,
  ) {
    this.#turns = new PQueue({ concurrency: most });
  }

  /** Has one thread do a task by the function of that name. One that takes longer than `milliseconds`, waiting for a thread and its loading not counted, is ended. */
  run<T>(name: string, task: unknown, milliseconds?: number): Promise<T> {
    const pool = (this.#pool ??= new Piscina({
      filename: joinPath(process.cwd(), this.script),
      execArgv: [],
      env: { ...process.env } as Record<string, string>,
      minThreads: 0,
      maxThreads: this.most,
      idleTimeout: 60_000,
      concurrentTasksPerWorker: 1,
      recordTiming: false,
      // What is read lives in buffers of its own; room for very many short-lived objects would only be held.
      resourceLimits: { maxYoungGenerationSizeMb: 6 },
    }));
    return this.#turns.add(async () => {
      // A thread that takes an ended one's place has to load first; its time begins after that.
      if (milliseconds !== undefined) await pool.run(undefined, { name: 'ready' });
      if (pool !== this.#pool) throw new Error('the threads have been ended');
      return pool.run(task, {
        name,
        ...(milliseconds === undefined ? {} : { signal: AbortSignal.timeout(milliseconds) }),
      }) as Promise<T>;
    });
  }

  /** Starts them before they are needed: loading takes each about a second. */
  async warm(): Promise<void> {
    await Promise.all(Array.from({ length: this.most }, () => this.run('ready', undefined)));
  }

  async end(): Promise<void> {
    const ended = this.#pool;
    this.#pool = null;
    await ended?.destroy();
  }
}
