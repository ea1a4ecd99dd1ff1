import { cpSync, existsSync, mkdirSync, realpathSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { prepare, ROOT, say } from './setup.mjs';

const { footage } = await prepare({ build: true, footage: true });

process.env.SORT_SHELF_HOME ||= path.join(ROOT, '.demo');
const home = path.resolve(process.env.SORT_SHELF_HOME);
// The card reader and the drives are stand-ins: folders that play their part.
const standIns = path.join(home, 'stand-ins');
process.env.SORT_SHELF_STAND_INS = standIns;
const laid = path.join(home, 'demo-footage-laid');
if (!existsSync(laid)) {
  // Laid once: what the person renames or moves afterwards is theirs.
  for (const [from, to] of [
    ['offloaded', path.join(home, 'shelf', 'Offloaded')],
    ['drawer', path.join(standIns, 'drawer')],
  ]) {
    if (existsSync(to)) continue;
    say(`Laying the demo footage in ${to} …`);
    cpSync(path.join(footage, from), to, {
      recursive: true,
      preserveTimestamps: true,
      errorOnExist: true,
      force: false,
    });
  }
  mkdirSync(home, { recursive: true });
  writeFileSync(laid, '');
}

const { ready, serve } = await import('./serve.mjs');
const served = await serve();
const { ask, lost } = served;
const post = async (to, body) => {
  const answer = await ask(to, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!answer.ok) throw new Error(`the demo could not be set up: ${await answer.text()}`);
};
if (!lost) {
  // A job whose rebuilding was cut off is left to be brought back; records on anybody's other drives are not of this demonstration.
  const own = realpathSync(home) + path.sep;
  const { records } = await (await ask('records/rescue')).json();
  const kept = records.some((r) => r.files.some((f) => f.startsWith(own)));
  if (!kept && (await (await ask('jobs')).json()).length === 0) {
    await post('jobs', {
      name: 'Slack Water',
      code: 'SLW',
      zoneMinutes: 0,
      cameras: [
        ['A', 'Corvane C8'],
        ['B', 'Tarn T5'],
        ['C', 'Skerry One'],
        ['D', 'Whimbrel'],
        ['S', 'Lintel R4'],
      ].map(([label, model]) => ({ label, model })),
    });
  }
  // Roots that are there already are left as they are: a start that was cut off is finished by the next.
  const { roots = null } = await (await ask('jobs/SLW')).json();
  for (const [kind, place] of roots === null
    ? []
    : [
        ['source', 'readers/Reader 1'],
        ['source', 'readers/Reader 2'],
        ['safe', 'drives/North'],
        ['safe', 'drives/South'],
      ]) {
    const at = path.join(realpathSync(home), 'stand-ins', place);
    mkdirSync(at, { recursive: true });
    if (!roots.some((r) => r.path === at)) await post('places/roots', { kind, path: at });
  }
}
ready(served);
