import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { brotliCompressSync, constants } from 'node:zlib';
import { Change } from '../../core/choose';
import { namingRequest } from '../../core/naming';
import { clipViews } from '../../server/cards';
import { changeChoice } from '../../server/choose';
import { correctClips, saveFieldSet, setClock } from '../../server/facts';
import { forgetCard, look, takeIn } from '../../server/intake';
import { applyNaming, planNaming, undoPlan } from '../../server/naming';
import { openRuntime } from '../../server/runtime';
import { makeClip } from '../../server/testing/media';
import { copyingShelf } from './copyingShelf';

// Stores the data folder of this version, to be opened by the tests of all later ones: a job with something of everything that is kept.
// `npm run store-data-folder NAME` writes NAME.tar.br beside the others. Footage is not stored.

const name = process.argv[2];
if (!name || !/^[\w.-]+$/.test(name)) throw new Error('Say what the stored folder is to be called.');

const r = await copyingShelf({ kept: true });
const { runtime, shelf } = r.shelf;
const drained = () => runtime.queue.drain();

// A card that was copied, and named on the shelf.
const copied = r.card({});
for (const n of [1, 2, 3])
  makeClip(r.reader(copied, `CLIP/T000${n}.MP4`), { frames: 5 + n, start: `14:22:0${n}:00` });
await r.copy(copied, { shelf: true });
// One whose copies were compared by size only, and one that was forgotten again.
await r.copy(r.card({ 'CLIP/T0001.MP4': 5000 }), { verification: 'sizes' });
const forgotten = r.card({ 'CLIP/T0001.MP4': 5000 });
await r.copy(forgotten);
await forgetCard(runtime, forgotten);
// One used in place, named, and the names taken back.
for (const n of [1, 2])
  makeClip(path.join(shelf, 'Offloaded/C001/CLIP', `S000${n}.MP4`), {
    created: `2026-05-07T1${n}:00:00Z`,
    start: `1${n}:00:00:00`,
  });
await look(runtime, 'shelf', 'Offloaded');
await takeIn(runtime, {
  root: 'shelf',
  path: 'Offloaded',
  cards: [{ folder: 'C001', camera: 'C', cardId: 'C001', day: 2, date: '2026-05-07' }],
});
await drained();
const request = namingRequest({ cards: ['C001'] });
const { preview } = await planNaming(runtime, request);
const named = await applyNaming(runtime, { ...request, fingerprint: preview.fingerprint });
await undoPlan(runtime, named.planId);
// What a person said, a clock, a choice of fields, and a proxy.
const [clip] = await clipViews(runtime, copied);
await correctClips(runtime, { clips: [clip!.id], set: [{ field: 'comment', value: 'the good one' }] });
await setClock(runtime, { camera: 'C', fromDay: 2, toDay: 2, seconds: 3600, note: 'one hour behind' });
await saveFieldSet(runtime, { name: 'Short', fields: ['start', 'frames'] });
await runtime.queue.add('proxy', [clip!.id]);
// What was chosen: a keyword, a bin, a range, a search, a string-out.
const clips = [clip!.id];
for (const change of [
  { do: 'addKeyword', clips, name: 'wheel' },
  { do: 'addBin', name: 'First look', clips },
  { do: 'addRange', clip: clip!.id, from: 1, to: 4, kind: 'select', note: 'the turn' },
  { do: 'saveSearch', name: 'Wheels', query: 'keyword is wheel' },
  { do: 'addStringOut', name: 'Turns', items: [{ clip: clip!.id, from: 1, to: 4 }] },
])
  await changeChoice(runtime, Change.parse(change));
await drained();
await runtime.close();
// Opened and closed once more, as after a night: nothing is left to be done.
const { home } = runtime;
await (await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false })).close();

const stored = path.join('src/server/testing/stored');
mkdirSync(stored, { recursive: true });
const wanted = readdirSync(home).filter((f) => f === 'database' || f === 'records');
const tar = execFileSync(
  'tar',
  ['--sort=name', '--owner=0', '--group=0', '-C', home, '-cf', '-', ...wanted],
  {
    maxBuffer: 1 << 28,
  },
);
const packed = brotliCompressSync(tar, {
  params: {
    [constants.BROTLI_PARAM_LGWIN]: 24,
    [constants.BROTLI_PARAM_LGBLOCK]: 20,
    [constants.BROTLI_PARAM_SIZE_HINT]: tar.length,
  },
});
writeFileSync(path.join(stored, `${name}.tar.br`), packed);
console.log(`${name}: ${tar.length} bytes, packed ${packed.length}`);
rmSync(path.dirname(r.shelf.dir), { recursive: true, force: true });
process.exit(0);
