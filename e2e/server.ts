import { type ChildProcess, spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';

/** A free port of the loopback address. */
export function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer()
      .once('error', reject)
      .listen(0, '127.0.0.1', () => {
        const address = probe.address();
        probe.close(() => resolve(typeof address === 'object' && address ? address.port : 0));
      });
  });
}

/** The real application in a process of its own, on a data folder of its own. */
export class TestServer {
  readonly home = mkdtempSync(path.join(tmpdir(), 'shelf-e2e-'));
  readonly shelf = path.join(this.home, 'shelf');
  readonly proxies = path.join(this.home, 'proxies');
  port = 0;
  output = '';
  #child: ChildProcess | null = null;

  /** `fromNothing` where it makes its database as everybody's first start does, which takes some seconds. */
  constructor(
    private readonly script: 'demo' | 'start',
    private readonly fromNothing = false,
  ) {}

  get pid(): number {
    return this.#child?.pid ?? 0;
  }

  get url(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  /** Starts it and waits for the ready line. Rejects with what it printed where it ends instead. */
  async start(env: Record<string, string> = {}): Promise<void> {
    this.port ||= await freePort();
    this.output = '';
    // A database that somebody has set up for anything else is none of theirs.
    const { SORT_SHELF_EMPTY_DATABASE: empty = '', DATABASE_URL: _, ...rest } = process.env;
    const begun = this.fromNothing ? {} : { SORT_SHELF_EMPTY_DATABASE: empty };
    // A server that lives for some minutes spends less on compiling the database engine once than on compiling it well.
    const child = spawn(process.execPath, ['--liftoff-only', `scripts/${this.script}.mjs`], {
      env: { ...rest, ...begun, PORT: String(this.port), SORT_SHELF_HOME: this.home, ...env },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    this.#child = child;
    await new Promise<void>((resolve, reject) => {
      const hear = (chunk: Buffer) => {
        this.output += chunk.toString();
        if (new RegExp(`^Sort Shelf is ready at http://\\S+:${this.port}$`, 'm').test(this.output)) resolve();
      };
      child.stdout.on('data', hear);
      child.stderr.on('data', hear);
      child.once('exit', (code) => reject(new Error(`ended with ${code}: ${this.output}`)));
    });
  }

  /** Ends it as a power cut would. */
  kill(): Promise<void> {
    return this.#end('SIGKILL');
  }

  /** Ends it as its user does, and waits until it has. */
  stop(): Promise<void> {
    return this.#end('SIGTERM');
  }

  async #end(signal: NodeJS.Signals): Promise<void> {
    const child = this.#child;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const gone = new Promise((resolve) => child.once('exit', resolve));
    child.kill(signal);
    await gone;
  }

  async close(): Promise<void> {
    await this.kill();
    // A media program that the killed server left over may still be writing there; Node tries again without looking for new files.
    for (let tries = 1; ; tries++) {
      try {
        return rmSync(this.home, { recursive: true, force: true });
      } catch (e) {
        if (tries === 30) throw e;
        await new Promise((r) => setTimeout(r, 500));
      }
    }
  }
}

/** SHA-256 of every file below a folder by its path, Sort Shelf's own dot folder left out. */
export function hashTree(folder: string, at = ''): Record<string, string> {
  const out: Record<string, string> = {};
  for (const e of readdirSync(path.join(folder, at), { withFileTypes: true })) {
    const p = at === '' ? e.name : `${at}/${e.name}`;
    if (e.isDirectory() && e.name !== '.sort-shelf') Object.assign(out, hashTree(folder, p));
    else if (e.isFile())
      out[p] = createHash('sha256')
        .update(readFileSync(path.join(folder, p)))
        .digest('hex');
  }
  return out;
}
