import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import http from 'node:http';
import path from 'node:path';
import { TestServer } from '../../e2e/server';

/** What was tried at one door, and what came of it. */
export class Tally {
  tries = 0;
  readonly faults: string[] = [];
  constructor(readonly name: string) {}

  /** Counts a try; `fault` says in a sentence what went wrong, `null` that nothing did. */
  tried(fault: string | null): void {
    this.tries++;
    if (fault === null) return;
    this.faults.push(fault);
    if (this.faults.length <= 20) console.log(`  ${this.name}: ${fault}`);
  }

  /** The closing lines. */
  figures(floor = 1): void {
    console.log(`${this.name}: ${this.tries} tries, ${this.faults.length} faults`);
    console.log(`figure doors.${this.name}_tries ${this.tries} floor ${floor}`);
    console.log(`figure doors.${this.name}_faults ${this.faults.length} bound 0`);
  }
}

export interface Answer {
  status: number;
  headers: http.IncomingHttpHeaders;
  body: Buffer;
}
export interface Ask {
  method?: string;
  path: string;
  headers?: Record<string, string | string[]>;
  body?: string | Buffer;
  most?: number;
  wait?: number;
}

/** A request written as it is asked for: hosts, targets and headers that a browser would not send. Rejects where the server hangs up or takes longer than `wait` ms. */
export const ask = (
  port: number,
  { method = 'GET', path: target, headers = {}, body, most = 1 << 20, wait = 30_000 }: Ask,
): Promise<Answer> =>
  new Promise((resolve, reject) => {
    const length = body === undefined ? {} : { 'content-length': String(Buffer.byteLength(body)) };
    const request = http.request({
      host: '127.0.0.1',
      port,
      method,
      path: target,
      headers: { host: `127.0.0.1:${port}`, ...length, ...headers },
      agent: false,
    });
    const timer = setTimeout(() => request.destroy(new Error(`no answer within ${wait / 1000} s`)), wait);
    request.once('error', (e) => {
      clearTimeout(timer);
      reject(e);
    });
    request.once('response', (response) => {
      const pieces: Buffer[] = [];
      let got = 0;
      const end = (): void => {
        clearTimeout(timer);
        resolve({ status: response.statusCode ?? 0, headers: response.headers, body: Buffer.concat(pieces) });
      };
      response.on('data', (d: Buffer) => {
        pieces.push(d);
        got += d.length;
        if (got >= most) {
          end();
          request.destroy();
        }
      });
      response.once('end', end);
      response.once('error', () => undefined);
    });
    request.end(body);
  });

export const json = (value: unknown): Pick<Ask, 'headers' | 'body'> => ({
  headers: { 'content-type': 'application/json' },
  body: JSON.stringify(value),
});

/** Asks a server for JSON, and tells it to do something. Rejects with what it said where it refuses. */
export class Client {
  constructor(private readonly server: TestServer) {}
  async get<T>(at: string): Promise<T> {
    return this.#said<T>(await ask(this.server.port, { path: at, most: 1e8 }), at);
  }
  async post<T>(at: string, body: unknown): Promise<T> {
    return this.#said<T>(await ask(this.server.port, { method: 'POST', path: at, ...json(body) }), at);
  }
  #said<T>({ status, body }: Answer, at: string): T {
    if (status >= 300) throw new Error(`${at}: ${body.toString().slice(0, 400)}`);
    return JSON.parse(body.toString()) as T;
  }
}

/** Begins to copy a whole card to safe copies and the shelf, verified by contents. */
export const copyCard = (
  client: Client,
  card: { root: string; path: string; folder: string; camera: string; cardId: string; safe: string[] },
): Promise<unknown> =>
  client.post('/api/jobs/SLW/offload', {
    ...card,
    day: 9,
    date: null,
    clips: null,
    wholeCard: true,
    shelf: true,
    pattern: '{job}/{card}',
    verification: 'contents',
    hash: 'xxh128',
    singles: [],
  });

/** Waits until something holds, at most `seconds`; the last that was seen. */
export async function until<T>(read: () => Promise<T>, holds: (t: T) => boolean, seconds = 60): Promise<T> {
  let seen = await read();
  for (let n = 0; n < seconds * 5 && !holds(seen); n++) {
    await new Promise((r) => setTimeout(r, 200));
    seen = await read();
  }
  return seen;
}

/** A route of the application and the methods it answers. */
export interface Route {
  path: string;
  methods: string[];
}

/** All routes, as they are in the sources, for the job of the demonstration; `[id]` is left in the path. */
export function routes(): Route[] {
  const base = path.join('src', 'app', 'api');
  return readdirSync(base, { recursive: true, encoding: 'utf8' })
    .filter((f) => path.basename(f) === 'route.ts')
    .map((f) => ({
      path: `/api/${path.dirname(f).split(path.sep).join('/').replace('[job]', 'SLW')}`,
      methods: [
        ...readFileSync(path.join(base, f), 'utf8').matchAll(
          /^export (?:const|async function) (GET|POST|PATCH|PUT|DELETE)\b/gm,
        ),
      ].map((m) => m[1]!),
    }))
    .sort((a, b) => (a.path < b.path ? -1 : 1));
}

/** The demonstration, set up and served. */
export async function openHouse(env: Record<string, string> = {}): Promise<TestServer> {
  const server = new TestServer('demo');
  await server.start(env);
  return server;
}

/** The process that serves a port, its memory in bytes and its open files. */
export function vitals(pid: number): { memory: number; open: number } {
  const memory = Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) * 1024;
  return { memory, open: readdirSync(`/proc/${pid}/fd`).length };
}

/** Programs that a process has started, and they in turn, by name. */
export function children(pid: number): string[] {
  const all = execFileSync('ps', ['-eo', 'pid=,ppid=,comm='], { encoding: 'utf8' })
    .trim()
    .split('\n')
    .map((l) => l.trim().split(/\s+/));
  const below = (p: number): string[] =>
    all.filter(([, parent]) => Number(parent) === p).flatMap(([id, , name]) => [name!, ...below(Number(id))]);
  return below(pid);
}

/** Hash of every file below a folder that holds anything, Sort Shelf's own folders left out: what footage there is, under whatever name. */
export function footageIn(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true })
    .flatMap((e): string[] => {
      const at = path.join(folder, e.name);
      if (e.isDirectory()) return e.name === '.sort-shelf' ? [] : footageIn(at);
      return e.isFile() ? [createHash('sha256').update(readFileSync(at)).digest('hex')] : [];
    })
    .sort();
}

/** Work by so many at once. */
export async function each<T>(
  list: readonly T[],
  atOnce: number,
  work: (t: T, n: number) => Promise<void>,
): Promise<void> {
  let next = 0;
  await Promise.all(
    Array.from({ length: atOnce }, async () => {
      while (next < list.length) {
        const n = next++;
        await work(list[n]!, n);
      }
    }),
  );
}
