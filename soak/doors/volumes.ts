import { execFileSync } from 'node:child_process';
import { appendFileSync, cpSync, mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { TestServer } from '../../e2e/server';
import { ask, Client, copyCard, footageIn, json, Tally, until } from './house';

// Volumes of their own, mounted for it, that fill up or go away: what is said, what goes on once there is room again, and that all of the
// footage is there then. Needs the right to mount; where that is missing it says so.

interface Offload {
  id: string;
  state: string;
  fault: string | null;
}

const mount = (at: string, megabytes: number): void => {
  mkdirSync(at, { recursive: true });
  execFileSync('mount', ['-t', 'tmpfs', '-o', `size=${megabytes}m`, 'tmpfs', at]);
};
/** Takes all room that is left, and gives it back. */
const fill = (at: string): void =>
  void execFileSync('sh', ['-c', 'dd if=/dev/zero of="$1/fill" bs=1M 2>/dev/null; true', 'sh', at]);
const empty = (at: string): void => rmSync(path.join(at, 'fill'));
const unmount = (at: string): void => void execFileSync('umount', ['-l', at], { stdio: 'ignore' });

const made = (at: string): number =>
  readdirSync(at, { recursive: true, encoding: 'utf8' }).filter((f) => f.endsWith('.mp4')).length;

/** A card copied to a safe copy and a shelf, and a proxy made, each on a volume that is too small for it at first. */
export async function volumes(footage: string): Promise<Tally> {
  const tally = new Tally('volumes');
  const server = new TestServer('start');
  const safe = `${server.home}-safe`;
  const card = `${server.home}-card`;
  const mounted: string[] = [];
  const client = new Client(server);
  try {
    for (const [at, megabytes] of [
      [safe, 600],
      [server.shelf, 600],
      [server.proxies, 200],
    ] as const) {
      mount(at, megabytes);
      mounted.push(at);
    }
  } catch (e) {
    console.log(`  volumes of their own could not be tried: ${e instanceof Error ? e.message : String(e)}`);
    for (const at of mounted) unmount(at);
    await server.close();
    return tally;
  }
  try {
    cpSync(path.join(footage, 'drawer', 'A002'), path.join(card, 'A002'), { recursive: true });
    // Large enough that the volumes fill while it is copied, also on a busy machine: a recording with 250 MB of free space at its end
    // (a `free` box, ISO/IEC 14496-12), which goes to the shelf as well, and a file that does not.
    const large = path.join(card, 'A002', 'A002_C002', 'A002_C002.MOV');
    const box = Buffer.alloc(250e6);
    box.writeUInt32BE(box.length, 0);
    box.write('free', 4, 'latin1');
    appendFileSync(large, box);
    const recordings = footageIn(card);
    writeFileSync(path.join(card, 'A002', 'notes.bin'), Buffer.alloc(150e6, 'Slack Water'));
    const whole = footageIn(card);
    await server.start();
    await client.post('/api/jobs', { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 });
    const source = await client.post<{ id: string }>('/api/places/roots', { kind: 'source', path: card });
    const drive = await client.post<{ id: string }>('/api/places/roots', { kind: 'safe', path: safe });
    const state = (id: string) => () => client.get<Offload>(`/api/jobs/SLW/offload/${id}`);
    // The safe copy's drive is full.
    await copyCard(client, {
      root: source.id,
      path: 'A002',
      folder: '',
      camera: 'A',
      cardId: 'A002',
      safe: [drive.id],
    });
    const copy = (await client.get<Offload[]>('/api/jobs/SLW/offload'))[0]!;
    fill(safe);
    const paused = await until(state(copy.id), (o) => o.state !== 'running' && o.state !== 'queued');
    tally.tried(
      paused.state === 'paused' && /full|room/i.test(paused.fault ?? '')
        ? null
        : `a full safe copy: ${paused.state}, “${paused.fault}”`,
    );
    // And then the shelf's.
    fill(server.shelf);
    empty(safe);
    await client.post(`/api/jobs/SLW/offload/${copy.id}`, { action: 'resume' });
    const second = await until(state(copy.id), (o) => !['running', 'queued', 'naming'].includes(o.state));
    tally.tried(
      second.state === 'paused' && /full|room/i.test(second.fault ?? '')
        ? null
        : `a full shelf: ${second.state}, “${second.fault}”`,
    );
    empty(server.shelf);
    await client.post(`/api/jobs/SLW/offload/${copy.id}`, { action: 'resume' });
    const done = await until(state(copy.id), (o) => o.state === 'done' || o.state === 'partly');
    tally.tried(done.state === 'done' ? null : `with room again: ${done.state}, “${done.fault}”`);
    const held = (at: string, what: string[]): boolean => {
      const there = footageIn(at);
      return what.every((b) => there.includes(b));
    };
    for (const at of [card, safe])
      tally.tried(held(at, whole) ? null : `${at} does not hold all that was on the card`);
    tally.tried(held(server.shelf, recordings) ? null : 'the shelf does not hold all recordings of the card');

    // The volume of the proxies is full.
    const clips = await until(
      () =>
        client
          .get<{ views: { id: string; state: string }[] }>('/api/jobs/SLW/overview/cards/A002')
          .then((c) => c.views),
      (views) => views.length > 0 && views.every((v) => v.state !== 'waiting'),
    );
    fill(server.proxies);
    const proxies = () =>
      client
        .get<{ work: { id: string; state: string; fault: string | null }[] }>('/api/jobs/SLW/proxies')
        .then((p) => p.work);
    const ended = (work: { state: string }[]): boolean =>
      work.length > 0 && work.every((w) => w.state !== 'queued' && w.state !== 'running');
    await client.post('/api/jobs/SLW/proxies', { clips: [clips[0]!.id] });
    const full = await until(proxies, ended);
    tally.tried(
      full.some((w) => w.state === 'paused' && w.fault?.includes(server.proxies))
        ? null
        : `a full volume for proxies: ${JSON.stringify(full).slice(0, 600)}`,
    );
    empty(server.proxies);
    tally.tried(made(server.proxies) === 0 ? null : 'half a proxy is left');
    await client.post('/api/jobs/SLW/proxies/work', { action: 'resume', work: full.map((w) => w.id) });
    const again = await until(proxies, (work) => ended(work) && made(server.proxies) === 1);
    tally.tried(
      made(server.proxies) === 1
        ? null
        : `with room again no proxy is made: ${JSON.stringify(again).slice(0, 600)}`,
    );
  } finally {
    for (const at of mounted) unmount(at);
    await server.close();
    for (const at of [safe, card]) rmSync(at, { recursive: true, force: true });
  }
  return tally;
}

/** The data folder on a drive that is pulled out while the server works on it, and comes back. */
export async function pulled(): Promise<Tally> {
  const tally = new Tally('data_folder_gone');
  const server = new TestServer('start');
  const drive = `${server.home}-drive`;
  mkdirSync(drive);
  const plug = (): void => void execFileSync('mount', ['--bind', drive, server.home], { stdio: 'ignore' });
  try {
    plug();
  } catch (e) {
    console.log(
      `  a data folder on a drive of its own could not be tried: ${e instanceof Error ? e.message : String(e)}`,
    );
    await server.close();
    return tally;
  }
  const client = new Client(server);
  try {
    await server.start();
    await client.post('/api/jobs', { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 });
    await client.post('/api/facts/sets', { name: 'before', fields: ['rate'] });
    unmount(server.home);
    const asked = [
      { path: '/api/jobs/SLW' },
      { path: '/api/jobs/SLW/overview/wall' },
      { path: '/api/jobs/SLW/custody/cards/A001/wipe' },
      { method: 'POST', path: '/api/facts/sets', ...json({ name: 'meanwhile', fields: ['rate'] }) },
      { method: 'POST', path: '/api/jobs/SLW/intake/scan', ...json({ card: null }) },
    ];
    for (const one of asked) {
      const { status, body } = await ask(server.port, one);
      tally.tried(
        status === 503 &&
          body.toString().includes(server.home) &&
          body.toString().includes('Connect the drive')
          ? null
          : `${one.path} was answered ${status}: ${body.toString().slice(0, 200)}`,
      );
    }
    await new Promise((r) => setTimeout(r, 7000));
    tally.tried(
      readdirSync(server.home).length === 0
        ? null
        : `in its place were made: ${readdirSync(server.home, { recursive: true }).join(', ')}`,
    );
    plug();
    tally.tried(
      (await ask(server.port, { path: '/api/jobs/SLW' })).status === 503
        ? null
        : 'it goes on with a drive that came back',
    );
    await server.kill();
    await server.start();
    const sets = await client.get<{ name: string }[]>('/api/facts/sets').catch(() => []);
    tally.tried(
      sets.some((s) => s.name === 'before')
        ? null
        : `after it came back what was kept is gone: ${server.output}`,
    );
    tally.tried(sets.some((s) => s.name === 'meanwhile') ? 'what was refused was done' : null);
  } finally {
    await server.kill();
    unmount(server.home);
    await server.close();
    rmSync(drive, { recursive: true, force: true });
  }
  return tally;
}
