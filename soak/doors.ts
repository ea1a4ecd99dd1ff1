import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { names, paths, policies } from './doors/answers';
import { clock } from './doors/clock';
import { faults } from './doors/faults';
import { ask, openHouse, type Tally } from './doors/house';
import { programs } from './doors/programs';
import { fuzz, load, origins } from './doors/requests';
import { supply } from './doors/supply';
import { pulled, volumes } from './doors/volumes';

// Knocks at every door of the running application: requests, answers, paths, media programs, faults of the machine, what it is made of.
// With `short` a few of each kind.

const short = process.argv[2] === 'short';
const footage = process.env.SORT_SHELF_FOOTAGE!;
const film = path.join(
  footage,
  'offloaded',
  'Day 1',
  'B001',
  'CLIP',
  readdirSync(path.join(footage, 'offloaded', 'Day 1', 'B001', 'CLIP')).find((f) => f.endsWith('.MP4'))!,
);

const tallies: [Tally, number][] = [];
const server = await openHouse();
try {
  const { port, pid } = server;
  // A card is taken in first, so that there is something to ask about.
  const look = await ask(port, {
    method: 'POST',
    path: '/api/jobs/SLW/intake',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      root: 'shelf',
      path: 'Offloaded/Day 1/B001',
      cards: [{ folder: '', camera: 'B', cardId: 'B001', day: 1, date: '2026-05-05' }],
    }),
  });
  if (look.status >= 300) throw new Error(look.body.toString());
  let views: { id: string; name: string; bytes: number; state: string }[] = [];
  for (let n = 0; n < 300 && (views.length === 0 || views.some((v) => v.state === 'waiting')); n++) {
    await new Promise((r) => setTimeout(r, 200));
    views = (
      JSON.parse(
        (await ask(port, { path: '/api/jobs/SLW/overview/cards/B001', most: 1e8 })).body.toString(),
      ) as {
        views: typeof views;
      }
    ).views;
  }
  const clip = views.find((v) => v.state === 'read')!;
  const file = readdirSync(server.shelf, { recursive: true, encoding: 'utf8' })
    .map((f) => path.join(server.shelf, f))
    .find((f) => path.basename(f).startsWith(clip.name) && f.endsWith('.MP4'))!;
  tallies.push([await origins(server), 500]);
  tallies.push([await policies(server, clip.id), 200]);
  tallies.push([await names(server, film), 5]);
  tallies.push([await paths(server, film, short ? 2 : 60), 130]);
  tallies.push([await load(server, pid, short ? 400 : 5000, { id: clip.id, bytes: readFileSync(file) }), 20]);
  tallies.push([await fuzz(server, pid, short ? 400 : 8000), short ? 400 : 8000]);
} finally {
  await server.close();
}
tallies.push([await programs(film, footage, short), short ? 15 : 60]);
tallies.push([await faults(short), short ? 8 : 35]);
// Volumes of their own can be mounted by root alone.
const mounts = process.getuid?.() === 0;
tallies.push([await volumes(footage), mounts ? 9 : 0]);
tallies.push([await pulled(), mounts ? 9 : 0]);
if (!short) tallies.push([await clock(footage), 8]);
tallies.push([await supply(), 200]);
for (const [tally, floor] of tallies) tally.figures(floor);
process.exit(0);
