// Runs the measurements of a folder (bench or soak), all of them or the one named, and says which kept their bounds.
import { spawn } from 'node:child_process';
import { readdirSync } from 'node:fs';
import path from 'node:path';
import { giveUp, prepare, ROOT } from './setup.mjs';

/** Runs one; resolves with its figures and whether it ended well. */
function runOne(file, args = [], env = {}) {
  return new Promise((resolve) => {
    const child = spawn(process.execPath, ['--import', 'tsx', file, ...args], {
      cwd: ROOT,
      stdio: ['ignore', 'pipe', 'inherit'],
      env: { ...process.env, ...env },
    });
    let output = '';
    child.stdout.on('data', (c) => {
      output += c;
      process.stdout.write(c);
    });
    child.on('exit', (code) => {
      const figures = [...output.matchAll(/^figure (\S+) (\S+) (bound|floor) (\S+)$/gm)].map(
        ([line, name, value, kind, limit]) => ({
          line,
          name,
          ok: kind === 'bound' ? Number(value) <= Number(limit) : Number(value) >= Number(limit),
        }),
      );
      resolve({ ok: code === 0 && figures.length > 0 && figures.every((f) => f.ok), figures });
    });
  });
}

/** `args` are the run's own: how long it is to be. A short one makes no volumes. */
export async function runAll(folder, wanted, ...args) {
  const all = readdirSync(path.join(ROOT, folder))
    .filter((f) => f.endsWith('.ts'))
    .map((f) => f.slice(0, -3));
  if (wanted && !all.includes(wanted))
    giveUp(`there is no ${folder} “${wanted}”. There are: ${all.join(', ')}.`);
  const isRun = (name, of = 'soak') => folder === of && (!wanted || wanted === name);
  const browser = ['choose', 'facts', 'naming'].some((name) => isRun(name, 'bench'));
  const build = browser || isRun('doors');
  const { footage } = await prepare({
    footage: true,
    build,
    browser,
    tests: build || isRun('calls') || isRun('handover', 'bench'),
    references: isRun('facts-real', 'bench'),
    volumes: isRun('custody') && args.length === 0,
  });
  const env = { SORT_SHELF_FOOTAGE: footage };
  const results = [];
  for (const name of wanted ? [wanted] : all) {
    console.log(`${folder} ${name}`);
    results.push(await runOne(path.join(folder, `${name}.ts`), args, env));
  }
  for (const { figures } of results) for (const f of figures) console.log(f.line);
  process.exit(results.every((r) => r.ok) ? 0 : 1);
}
