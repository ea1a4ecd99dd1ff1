import path from 'node:path';
import { Piscina } from 'piscina';

/** Worker threads of one script, started at the first use. The script is outside the bundle: threads load the sources as they are. */
export class Threads {
  #pool: Piscina | null = null;

  /** `script` is its path below the application's folder; `most` how many run at once. */
  constructor(private readonly script: string, private readonly most: number) {}

  /** Has one thread do a task by the function of that name; where `signal` aborts, the thread is ended. */
  run<T>(name: string, task: unknown, signal?: AbortSignal): Promise<T> {
    this.#pool ??= new Piscina({
      filename: path.join(process.cwd(), this.script), execArgv: [], env: { ...process.env } as Record<string, string>,
      minThreads: 0, maxThreads: this.most, idleTimeout: 60_000, concurrentTasksPerWorker: 1, recordTiming: false,
    });
    return this.#pool.run(task, { name, ...(signal ? { signal } : {}) }) as Promise<T>;
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
