import { cpSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { TestServer } from '../../e2e/server';
import { Client, Tally, until } from './house';

/** The running application with a clock that is set back and forth: what is asked for is done all the same, and is there at the next start. */
export async function clock(footage: string): Promise<Tally> {
  const tally = new Tally('clock');
  const dir = mkdtempSync(path.join(tmpdir(), 'shelf-clock-'));
  const file = path.join(dir, 'moved');
  const set = (hours: number): void => writeFileSync(file, String(hours * 3_600_000));
  const server = new TestServer('start');
  const env = {
    SHELF_CLOCK: file,
    NODE_OPTIONS: `${process.env.NODE_OPTIONS ?? ''} --import ${pathToFileURL(path.resolve('soak/workers/clock.mjs')).href}`,
  };
  set(0);
  try {
    const client = new Client(server);
    await server.start(env);
    await client.post('/api/jobs', { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 });
    let n = 0;
    for (const hours of [0, -26, 26, -9000, 9000, -1]) {
      const day = `Day ${++n}`;
      const card = `B00${n}`;
      cpSync(path.join(footage, 'offloaded', 'Day 1', 'B001'), path.join(server.shelf, day), {
        recursive: true,
      });
      set(hours);
      await client.post('/api/jobs/SLW/intake', {
        root: 'shelf',
        path: day,
        cards: [{ folder: '', camera: 'B', cardId: card, day: n, date: '2026-05-05' }],
      });
      const read = await until(
        () =>
          client
            .get<{ views: { state: string }[] }>(`/api/jobs/SLW/overview/cards/${card}`)
            .then((c) => c.views),
        (views) => views.length > 0 && views.every((v) => v.state === 'read'),
        40,
      );
      tally.tried(
        read.every((v) => v.state === 'read')
          ? null
          : `with the clock moved by ${hours} hours, ${read.filter((v) => v.state !== 'read').length} of ${read.length} clips are not read`,
      );
    }
    await server.kill();
    set(-30_000);
    await server.start(env);
    tally.tried(/database/i.test(server.output) ? `started with a clock far behind: ${server.output}` : null);
    tally.tried(
      (await client.get<{ cards: unknown[] }>('/api/jobs/SLW/overview/wall')).cards.length === n
        ? null
        : 'cards are missing after a start with a clock far behind',
    );
  } finally {
    await server.close();
    rmSync(dir, { recursive: true, force: true });
  }
  return tally;
}
