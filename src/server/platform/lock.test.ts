import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { holdFolder } from './lock';

let home: string;
beforeEach(() => {
  home = mkdtempSync(path.join(tmpdir(), 'shelf-lock-'));
});
afterEach(() => rmSync(home, { recursive: true, force: true }));
const lock = () => path.join(home, 'server.lock');

test('one holder at a time; letting go frees the folder', async () => {
  const release = await holdFolder(home);
  expect(JSON.parse(readFileSync(lock(), 'utf8'))).toMatchObject({ pid: process.pid });
  await release();
  expect(existsSync(lock())).toBe(false);
  await (
    await holdFolder(home)
  )();
});

test('a living holder is named, with what to do', async () => {
  const other = spawn('sleep', ['30']);
  try {
    const stat = readFileSync(`/proc/${other.pid}/stat`, 'utf8');
    const begun = stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19]!;
    writeFileSync(lock(), JSON.stringify({ pid: other.pid, begun, at: '2026-05-05T08:00:00Z' }));
    await expect(holdFolder(home)).rejects.toMatchObject({
      title: 'Refused',
      message: expect.stringContaining(`process ${other.pid}`) as unknown,
      about: { next: expect.stringContaining('SORT_SHELF_HOME') as unknown },
    });
    // The number alone is not enough: a process that began at another time is another one.
    writeFileSync(lock(), JSON.stringify({ pid: other.pid, begun: '1', at: '2026-05-05T08:00:00Z' }));
    await (
      await holdFolder(home)
    )();
  } finally {
    other.kill('SIGKILL');
  }
});

test.each(['', 'nonsense', '{"pid":-1}', '{"pid":999999999,"begun":"5","at":"x"}'])(
  'a lock left by a dead server is replaced: %j',
  async (text) => {
    writeFileSync(lock(), text);
    const release = await holdFolder(home);
    expect(JSON.parse(readFileSync(lock(), 'utf8'))).toMatchObject({ pid: process.pid });
    await release();
  },
);

test('a holder on another machine is not judged by the processes of this one', async () => {
  writeFileSync(
    lock(),
    JSON.stringify({ pid: 999999999, begun: '5', machine: 'f'.repeat(32), at: '2026-05-05T08:00:00Z' }),
  );
  const held = holdFolder(home);
  if (existsSync('/etc/machine-id') && readFileSync('/etc/machine-id', 'utf8').trim() !== '')
    await expect(held).rejects.toMatchObject({
      title: 'Refused',
      message: expect.stringContaining('on another machine') as unknown,
      about: { next: expect.stringContaining(lock()) as unknown },
    });
  else await (await held)();
});

test('of several that start at once over a dead one’s lock, one takes the folder and the others name it', async () => {
  writeFileSync(lock(), '{"pid":999999999,"begun":"5","at":"x"}');
  const script = `import { holdFolder } from ${JSON.stringify(path.resolve('src/server/platform/lock.ts'))};
    process.stdout.write('ready\\n');
    process.stdin.once('data', () => holdFolder(${JSON.stringify(home)}).then(() => { process.stdout.write('held\\n'); setTimeout(() => {}, 8000); }, (e) => { process.stdout.write('refused ' + e.message + '\\n'); process.exit(0); }));`;
  const all = Array.from({ length: 5 }, () =>
    spawn(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', script], {
      stdio: ['pipe', 'pipe', 'inherit'],
    }),
  );
  try {
    const said = all.map(() => '');
    const heard = (i: number, word: string) =>
      new Promise<void>((resolve) => {
        const look = () => (said[i]!.includes(word) ? resolve() : void setTimeout(look, 10));
        look();
      });
    all.forEach((p, i) =>
      p.stdout.on('data', (d: Buffer) => {
        said[i] += d.toString();
      }),
    );
    await Promise.all(all.map((_, i) => heard(i, 'ready')));
    for (const p of all) p.stdin.write('go\n');
    await Promise.all(all.map((_, i) => Promise.race([heard(i, 'held'), heard(i, 'refused')])));
    expect(said.filter((t) => t.includes('held'))).toHaveLength(1);
    const winner = all[said.findIndex((t) => t.includes('held'))]!.pid;
    expect(JSON.parse(readFileSync(lock(), 'utf8'))).toMatchObject({ pid: winner });
    // One that comes while the winner has not written its name yet cannot say whose it is.
    for (const t of said.filter((x) => x.includes('refused')))
      expect(t).toMatch(new RegExp(`process ${winner}|one that has just begun`));
  } finally {
    for (const p of all) p.kill('SIGKILL');
  }
});
