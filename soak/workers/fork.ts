import { fork } from 'node:child_process';

/** A worker under way. `ready` once it says so; `told` holds the last other thing it said. */
export interface Worker<T> {
  ready: Promise<void>;
  ended: Promise<number | null>;
  told: T | null;
  kill(): void;
}

/** Starts a worker of this folder in a process of its own, which can be killed as a power cut would. */
export function forkWorker<T>(
  name: string,
  args: readonly string[],
  env: Record<string, string> = {},
): Worker<T> {
  const child = fork(new URL(`./${name}.ts`, import.meta.url), [...args], {
    execArgv: ['--import', 'tsx'],
    stdio: ['ignore', 'ignore', 'pipe', 'ipc'],
    env: { ...process.env, ...env },
  });
  let errors = '';
  child.stderr!.on('data', (c: Buffer) => {
    errors += c.toString();
  });
  const worker: Worker<T> = {
    told: null,
    ended: new Promise((resolve) =>
      child.once('exit', (code) => {
        if (code) console.error(errors);
        resolve(code);
      }),
    ),
    ready: new Promise((resolve, reject) => {
      child.on('message', (m) => {
        if (m === 'ready') resolve();
        else worker.told = m as T;
      });
      child.once('exit', (code) => {
        if (code !== null) reject(new Error(`the worker ended with ${code}: ${errors}`));
      });
    }),
    kill: () => child.kill('SIGKILL'),
  };
  worker.ready.catch(() => undefined);
  return worker;
}
