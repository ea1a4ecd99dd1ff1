import { execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { freePort } from '../e2e/server';

// How long a person waits for the commands, in a fresh clone of what is committed: the first start of the demo (with packages,
// build and footage; programs that Debian has are installed by whichever command needs them first), the second, and the check.

const work = mkdtempSync(path.join(tmpdir(), 'shelf-start-'));
const clone = path.join(work, 'clone');
execFileSync('git', ['clone', '--quiet', process.cwd(), clone]);
// What this run was given is none of the clone's business.
const { SORT_SHELF_FOOTAGE: _f, SORT_SHELF_EMPTY_DATABASE: _e, ...env } = process.env;

/** Seconds until the demo says that it is ready; it is ended after that. */
async function demo(port: number): Promise<number> {
  const from = performance.now();
  const child = spawn('npm', ['run', 'demo'], {
    cwd: clone,
    detached: true,
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...env, PORT: String(port), SORT_SHELF_HOME: path.join(work, 'home') },
  });
  const ended = new Promise<void>((resolve) => child.once('exit', () => resolve()));
  let said = '';
  await new Promise<void>((resolve, reject) => {
    child.stdout.on('data', (chunk: Buffer) => {
      said += chunk.toString();
      process.stdout.write(chunk);
      if (said.includes('Sort Shelf is ready at')) resolve();
    });
    child.once('exit', (code) => reject(new Error(`the demo ended with ${code}: ${said}`)));
  });
  const seconds = (performance.now() - from) / 1000;
  process.kill(-child.pid!, 'SIGTERM');
  await ended;
  return seconds;
}

/** Seconds of the whole check; throws where it fails. */
async function check(): Promise<number> {
  const from = performance.now();
  const child = spawn('npm', ['run', 'check'], {
    cwd: clone,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...env, CI: 'true' },
  });
  const code = await new Promise<number | null>((resolve) => child.once('exit', resolve));
  if (code !== 0) throw new Error(`the check ended with ${code}`);
  return (performance.now() - from) / 1000;
}

try {
  const port = await freePort();
  const [first, second] = [await demo(port), await demo(port)];
  console.log(`figure start.first_s ${first.toFixed(0)} bound 150`);
  console.log(`figure start.second_s ${second.toFixed(1)} bound 10`);
  const checked = await check();
  console.log(`figure start.check_s ${checked.toFixed(0)} bound 480`);
} finally {
  rmSync(work, { recursive: true, force: true, maxRetries: 5 });
}
