import { cpSync, existsSync, mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { checkNode, ensureBuild, ensureDependencies, ensureFfmpeg, ensureFootage, ROOT, say } from './setup.mjs';

checkNode();
ensureDependencies();
ensureFfmpeg();
const footage = ensureFootage();
ensureBuild();

process.env.SORT_SHELF_HOME ||= path.join(ROOT, '.demo');
const home = path.resolve(process.env.SORT_SHELF_HOME);
const laid = path.join(home, 'demo-footage-laid');
if (!existsSync(laid)) {
  // Laid once: what the person renames or moves afterwards is theirs.
  const to = path.join(home, 'shelf', 'Offloaded');
  if (!existsSync(to)) {
    say(`Laying the demo footage in ${to} …`);
    cpSync(footage, to, { recursive: true, preserveTimestamps: true, errorOnExist: true, force: false });
  }
  mkdirSync(home, { recursive: true });
  writeFileSync(laid, '');
}

const { ready, serve } = await import('./serve.mjs');
const address = await serve();
const job = await (await fetch(`${address}/api/job`)).json();
if (job === null) {
  const begun = await fetch(`${address}/api/job`, {
    method: 'POST', headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name: 'Slack Water', code: 'SLW', zoneMinutes: 0, cameras: [{ letter: 'A', model: 'Corvane C8' }, { letter: 'B', model: 'Tarn T5' }] }),
  });
  if (!begun.ok) throw new Error(`the demo job could not be begun: ${await begun.text()}`);
}
ready(address);
