import { spawn } from 'node:child_process';
import { build } from 'esbuild';
import { rmSync } from 'node:fs';
import path from 'node:path';

/** A worker under way. `ready` once it says so; `told` holds the last other thing it said. */
export interface Worker<T> {
  ready: Promise<void>;
  ended: Promise<number | null>;
  told: T | null;
  kill(): void;
}

const built = new Map<string, Promise<string>>();

/** The file of a worker of this folder: bundled once, for it is started very often. Packages are loaded as they are. */
export function bundled(name: string): Promise<string> {
  const outfile = path.resolve(`.cache/workers/${name}-${process.pid}.mjs`);
  const file =
    built.get(name) ??
    build({
      entryPoints: [`soak/workers/${name}.ts`],
      outfile,
      bundle: true,
      packages: 'external',
      platform: 'node',
      format: 'esm',
      target: 'node20',
      logLevel: 'error',
    }).then(() => outfile);
  if (!built.has(name)) process.once('exit', () => rmSync(outfile, { force: true }));
  built.set(name, file);
  return file;
}

/** Starts a worker of this folder in a process of its own, which can be killed as a power cut would; `under` is a program that runs it. */
export async function forkWorker<T>(
  name: string,
  args: readonly string[],
  env: Record<string, string> = {},
  under: readonly string[] = [],
): Promise<Worker<T>> {
  // One that lives for seconds spends less on compiling the database engine once than on compiling it well.
  const [program, ...rest] = [...under, process.execPath, '--liftoff-only', await bundled(name), ...args];
  const child = spawn(program!, rest, {
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
