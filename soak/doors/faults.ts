import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import {
  chmodSync,
  chownSync,
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { createInterface } from 'node:readline';
import { freePort } from '../../e2e/server';
import { randomFrom } from '../../src/core/platform/random';
import { bundled } from '../workers/fork';
import { ask, Tally } from './house';

// What goes wrong with the machine: ports, folders, disks, databases, signals, users, places. Each is said in a sentence that names what
// is wrong and what to do; nothing is lost, and nothing is left behind.

interface Run {
  child: ChildProcess;
  output: () => string;
  ended: Promise<number | null>;
}

function start(home: string, port: number, env: Record<string, string> = {}, wrap: string[] = []): Run {
  const [command = process.execPath, ...args] = [...wrap, process.execPath, 'scripts/start.mjs'];
  const child = spawn(command, args, {
    env: { ...process.env, PORT: String(port), SORT_SHELF_HOME: home, ...env },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let output = '';
  for (const s of [child.stdout, child.stderr])
    s.on('data', (d: Buffer) => {
      output += d.toString();
    });
  return { child, output: () => output, ended: new Promise((r) => child.once('exit', r)) };
}

/** Waits until it serves, or has ended. */
async function served(run: Run, ms = 60_000): Promise<boolean> {
  for (let n = 0; n < ms / 100; n++) {
    if (run.output().includes('Sort Shelf is ready at')) return true;
    if (run.child.exitCode !== null || run.child.signalCode !== null) return false;
    await new Promise((r) => setTimeout(r, 100));
  }
  return false;
}
async function end(run: Run, signal: NodeJS.Signals = 'SIGTERM'): Promise<void> {
  if (run.child.exitCode === null && run.child.signalCode === null) run.child.kill(signal);
  await run.ended;
}

/** What is wrong with what was said: no word of it, a stack, the inside of an engine. `null` where it names what it has to. */
const badly = (said: string, ...names: (string | RegExp)[]): string | null => {
  if (/\[object |Aborted\(\)|undefined|\n\s+at .*\(|RuntimeError|unreachable/.test(said))
    return `said “${said.trim().slice(0, 300)}”`;
  const missing = names.find((n) => (typeof n === 'string' ? !said.includes(n) : !n.test(said)));
  return missing === undefined
    ? null
    : `said “${said.trim().slice(0, 300)}”, and nothing of ${String(missing)}`;
};

const asRoot = process.getuid?.() === 0;

/** Three that start at once over a dead one's lock, again and again: each time one has the folder. */
async function races(tally: Tally, dir: string, rounds: number): Promise<void> {
  const all = await Promise.all(
    [0, 1, 2].map(async () => {
      const child = spawn(process.execPath, [await bundled('lock')], {
        stdio: ['pipe', 'pipe', 'inherit'],
      });
      const lines = createInterface({ input: child.stdout })[Symbol.asyncIterator]();
      const says = async (): Promise<string> => String((await lines.next()).value);
      await says();
      return { child, says };
    }),
  );
  for (let n = 0; n < rounds; n++) {
    const home = path.join(dir, `raced ${n}`);
    mkdirSync(home);
    writeFileSync(
      path.join(home, 'server.lock'),
      n % 3 === 0 ? 'half a lo' : '{"pid":999999999,"begun":"5","at":"x"}',
    );
    for (const [i, one] of all.entries())
      setTimeout(() => one.child.stdin.write(`${home}\n`), (n * 7 * i) % 23);
    const said = await Promise.all(all.map((one) => one.says()));
    tally.tried(
      said.filter((s) => s === 'held').length === 1 && said.every((s) => s === 'held' || s === 'refused')
        ? null
        : `three that start at once: ${said.join(', ')}`,
    );
    for (const one of all) one.child.stdin.write('drop\n');
    await Promise.all(all.map((one) => one.says()));
    tally.tried(readdirSync(home).length === 0 ? null : `a lock is left: ${readdirSync(home).join(', ')}`);
  }
  for (const one of all) one.child.kill('SIGKILL');
}

export async function faults(short: boolean): Promise<Tally> {
  const tally = new Tally('machine');
  const dir = mkdtempSync(path.join(tmpdir(), 'shelf-faults-'));
  const home = path.join(dir, 'home');
  const port = await freePort();
  const other = await freePort();

  // A data folder to begin from, closed in good order.
  const first = start(home, port);
  tally.tried((await served(first)) ? null : `it does not start: ${first.output()}`);
  const second = start(home, other);
  tally.tried(
    (await second.ended) === 0
      ? 'two servers work on one folder'
      : badly(second.output(), home, 'SORT_SHELF_HOME'),
  );
  const taken = start(path.join(dir, 'elsewhere'), port);
  tally.tried(
    (await taken.ended) === 0 ? 'a taken port was no fault' : badly(taken.output(), String(port), /PORT=\d+/),
  );
  await ask(port, {
    method: 'POST',
    path: '/api/jobs',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }),
  });
  await end(first, 'SIGHUP');
  tally.tried(existsSync(path.join(home, 'server.lock')) ? 'SIGHUP leaves the lock' : null);
  tally.tried(readdirSync(home).some((n) => n.startsWith('.server.lock')) ? 'a half lock is left' : null);

  // A port that is taken by something else, one that is none, a folder that is a file.
  if (!short) {
    const holder = createServer().listen(port, '127.0.0.1');
    const blocked = start(home, port);
    tally.tried(
      (await blocked.ended) === 0 ? 'a taken port was no fault' : badly(blocked.output(), String(port)),
    );
    holder.close();
    const badPort = start(home, port, { PORT: '99999' });
    tally.tried((await badPort.ended) === 0 ? 'port 99999 was no fault' : badly(badPort.output(), '99999'));
  }
  const file = path.join(dir, 'file');
  writeFileSync(file, '');
  const onFile = start(file, port);
  tally.tried(
    (await onFile.ended) === 0 ? 'a file for a data folder was no fault' : badly(onFile.output(), file),
  );

  await races(tally, dir, short ? 10 : 200);

  // Nobody reads what it says: its output is on a full volume, or closed.
  const full = openSync('/dev/full', 'w');
  const mute = spawn(process.execPath, ['scripts/start.mjs'], {
    env: { ...process.env, PORT: String(port), SORT_SHELF_HOME: home },
    stdio: ['ignore', full, full],
  });
  let heard = false;
  for (let n = 0; n < 300 && !heard; n++) {
    await new Promise((r) => setTimeout(r, 100));
    heard = await ask(port, { path: '/api/platform/health', wait: 2000 }).then(
      ({ status }) => status === 200,
      () => false,
    );
  }
  tally.tried(heard ? null : 'it does not serve while its output is on a full volume');
  const quiet = await ask(port, { path: '/api/jobs/SLW/overview/wall' }).then(
    (a) => a.status,
    () => 0,
  );
  tally.tried(quiet === 200 ? null : `it answers ${quiet} while its output is on a full volume`);
  mute.kill('SIGTERM');
  await new Promise((r) => mute.once('exit', r));

  // Another language and another zone.
  const places: Record<string, string>[] = [
    { LC_ALL: 'C', TZ: 'Pacific/Kiritimati' },
    { LANG: 'tr_TR.UTF-8', TZ: 'America/St_Johns' },
  ];
  for (const env of short ? [] : places) {
    const run = start(home, port, env);
    tally.tried((await served(run)) ? null : `with ${JSON.stringify(env)}: ${run.output()}`);
    const job = JSON.parse((await ask(port, { path: '/api/jobs/SLW' })).body.toString()) as {
      code: string;
    } | null;
    tally.tried(job?.code === 'SLW' ? null : `with ${JSON.stringify(env)} the job is not there`);
    await end(run);
  }

  if (asRoot && !short) {
    // As another user, who may not write there, and then may.
    const readOnly = path.join(dir, 'read only');
    mkdirSync(readOnly);
    chmodSync(dir, 0o755);
    chmodSync(readOnly, 0o555);
    const nobody = ['setpriv', '--reuid', '65534', '--regid', '65534', '--clear-groups', '--'];
    const refused = start(readOnly, port, { HOME: '/nonexistent' }, nobody);
    tally.tried(
      (await refused.ended) === 0
        ? 'a folder that may not be written to was no fault'
        : badly(refused.output(), readOnly),
    );
    // A disk that is full, and one that may only be read.
    const disk = path.join(dir, 'disk');
    mkdirSync(disk);
    try {
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=24m', 'tmpfs', disk]);
      const tight = start(path.join(disk, 'home'), port);
      const began = await served(tight);
      tally.tried(began ? null : badly(tight.output(), /Make room|full|no space/i, path.join(disk, 'home')));
      await end(tight);
      execFileSync('mount', ['-o', 'remount,size=300m', disk]);
      cpSync(home, path.join(disk, 'kept'), { recursive: true });
      const run = start(path.join(disk, 'kept'), port);
      tally.tried((await served(run)) ? null : `it does not start on a small disk: ${run.output()}`);
      execFileSync('sh', ['-c', 'dd if=/dev/zero of="$1/fill" bs=1M 2>/dev/null; true', 'sh', disk]);
      const answers = await Promise.all(
        Array.from({ length: 20 }, (_, n) =>
          ask(port, {
            method: 'POST',
            path: '/api/facts/sets',
            headers: { 'content-type': 'application/json' },
            body: JSON.stringify({ name: `set ${n} ${'x'.repeat(100)}`, fields: ['rate'] }),
          }),
        ),
      );
      tally.tried(
        answers.some((a) => a.status >= 500 && a.status !== 503)
          ? `a full disk is answered ${answers
              .find((a) => a.status >= 500)!
              .body.toString()
              .slice(0, 300)}`
          : null,
      );
      rmSync(path.join(disk, 'fill'));
      const after = await ask(port, { path: '/api/jobs/SLW' }).then(
        (a) => a.status,
        () => 0,
      );
      tally.tried(after === 200 ? null : `after the disk was full the job is answered ${after}`);
      await end(run);
      const again = start(path.join(disk, 'kept'), port);
      tally.tried(
        (await served(again)) ? null : `after the disk was full it does not start: ${again.output()}`,
      );
      await end(again);
      execFileSync('mount', ['-o', 'remount,ro', disk]);
      const ro = start(path.join(disk, 'kept'), port);
      tally.tried(
        (await ro.ended) === 0
          ? 'a disk that may only be read was no fault'
          : badly(ro.output(), path.join(disk, 'kept')),
      );
    } catch (e) {
      console.log(`  disks of their own could not be tried: ${e instanceof Error ? e.message : String(e)}`);
    } finally {
      try {
        execFileSync('umount', [disk], { stdio: 'ignore' });
      } catch {
        // It was never mounted.
      }
    }
    chownSync(dir, 0, 0);
  }

  // The database spoilt at random bytes, cut, or gone: opened whole, or said to be lost; never a crash without a word, never made anew in silence.
  const random = randomFrom(26);
  const outcomes = { opened: 0, lost: 0 };
  for (let n = 0; n < (short ? 1 : 25); n++) {
    const spoilt = path.join(dir, `spoilt ${n}`);
    cpSync(home, spoilt, { recursive: true });
    const files = readdirSync(path.join(spoilt, 'database'), { recursive: true, encoding: 'utf8' })
      .map((f) => path.join(spoilt, 'database', f))
      .filter((f) => statSync(f).isFile() && statSync(f).size > 0)
      .sort();
    const what = n % 5;
    if (what === 4) renameSync(path.join(spoilt, 'database'), path.join(spoilt, 'gone'));
    else {
      for (let k = 0; k < [1, 5, 40, 400][what]!; k++) {
        const f = files[Math.floor(random() * files.length)]!;
        const bytes = readFileSync(f);
        for (let i = 0; i < 16; i++) bytes[Math.floor(random() * bytes.length)] = Math.floor(random() * 256);
        writeFileSync(f, random() < 0.2 ? bytes.subarray(0, Math.floor(random() * bytes.length)) : bytes);
      }
    }
    const run = start(spoilt, port);
    const up = await served(run);
    if (!up) tally.tried(badly(run.output(), spoilt));
    else if (run.output().includes('The database in')) {
      outcomes.lost++;
      tally.tried(badly(run.output(), spoilt, /Open Sort Shelf to choose|choose/));
    } else {
      outcomes.opened++;
      const job = await ask(port, { path: '/api/jobs/SLW' }).then(
        ({ body }) => (JSON.parse(body.toString()) as { code?: string } | null)?.code,
        () => undefined,
      );
      tally.tried(
        job === 'SLW'
          ? null
          : `a spoilt database (${what}) was opened without its job, and nothing was said: ${String(job)}`,
      );
    }
    await end(run, n % 2 === 0 ? 'SIGKILL' : 'SIGTERM');
    rmSync(spoilt, { recursive: true, force: true });
  }
  console.log(`  databases spoilt: ${outcomes.opened} opened all the same, ${outcomes.lost} said to be lost`);
  rmSync(dir, { recursive: true, force: true });
  return tally;
}
