// Types, format, lint, unit tests, end-to-end tests and a short soak, in one closing line over all of them.
import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import {
  CACHE,
  checkNode,
  emptyDatabase,
  ensureBuild,
  ensureDependencies,
  ensureFfmpeg,
  ensureFootage,
  ensureTestPrograms,
  ROOT,
  say,
} from './setup.mjs';
import { ensurePostgres, startPostgres } from './postgres.mjs';

checkNode();
ensureDependencies();
ensureFfmpeg();
ensureTestPrograms();
ensurePostgres();
// The build writes the types of the routes, which the type check reads.
ensureBuild();
const started = (args) => {
  const child = spawn(process.execPath, args, {
    cwd: ROOT,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, NODE_NO_WARNINGS: '1' },
  });
  return new Promise((resolve) => child.once('exit', (code) => resolve(code === 0)));
};
// Beside the making of the footage, which leaves a core idle.
const types = started(['node_modules/typescript/bin/tsc', '--noEmit']);
const format = started(['node_modules/prettier/bin/prettier.cjs', '--check', '--log-level', 'warn', '.']);
const lint = started(['node_modules/eslint/bin/eslint.js', '.']);
const footage = ensureFootage();

const { runOne } = await import('./run.mjs');
const total = { passed: 0, failed: 0 };
const count = (what, passed, failed) => {
  total.passed += passed;
  total.failed += failed;
  say(`${what}: ${passed} of ${passed + failed}`);
};
const node = (args, env = {}) =>
  spawnSync(process.execPath, args, {
    cwd: ROOT,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, NODE_NO_WARNINGS: '1', ...env },
  }).status === 0;
const oneCheck = (what, ok) => count(what, ok ? 1 : 0, ok ? 0 : 1);
/** What a runner wrote of its tests; one that wrote nothing has failed. */
const report = (file, read, ok) => {
  try {
    const { passed, failed } = read(JSON.parse(readFileSync(file, 'utf8')));
    return [passed, failed > 0 || ok ? failed : 1];
  } catch {
    return [0, 1];
  }
};

mkdirSync(CACHE, { recursive: true });
const [unitReport, serverReport, e2eReport] = ['unit.json', 'server.json', 'e2e.json'].map((f) =>
  path.join(CACHE, f),
);
for (const f of [unitReport, serverReport, e2eReport]) rmSync(f, { force: true });

oneCheck('types', await types);
oneCheck('format', await format);
oneCheck('lint', await lint);
const unitOk = node(
  ['--experimental-vm-modules', 'node_modules/jest/bin/jest.js', '--json', `--outputFile=${unitReport}`],
  { SORT_SHELF_FOOTAGE: footage },
);
const ofJest = (r) => ({
  passed: r.numPassedTests,
  failed: r.numFailedTests + r.numRuntimeErrorTestSuites,
});
count('unit tests', ...report(unitReport, ofJest, unitOk));
// The same on a PostgreSQL server, a good part of it: everything that asks the database much.
const server = await startPostgres();
const serverOk = node(
  [
    '--experimental-vm-modules',
    'node_modules/jest/bin/jest.js',
    '--json',
    `--outputFile=${serverReport}`,
    'src/server/(jobs|facts|intake|proxies|places)/',
    'src/server/platform/(work|db/server)',
    'src/demo/standIns/(offload|severalJobs)',
  ],
  { SORT_SHELF_FOOTAGE: footage, SORT_SHELF_TEST_SERVER: server.url },
);
await server.stop();
count('unit tests on a PostgreSQL server', ...report(serverReport, ofJest, serverOk));
const e2eOk = node(['node_modules/@playwright/test/cli.js', 'test'], {
  PLAYWRIGHT_JSON_OUTPUT_NAME: e2eReport,
  SORT_SHELF_EMPTY_DATABASE: emptyDatabase(),
});
// A test that never ran because one before it failed has not passed.
count(
  'end-to-end tests',
  ...report(
    e2eReport,
    ({ stats }) => ({ passed: stats.expected, failed: stats.unexpected + stats.flaky + stats.skipped }),
    e2eOk,
  ),
);
const soakEnv = { SORT_SHELF_FOOTAGE: footage, SORT_SHELF_EMPTY_DATABASE: emptyDatabase() };
// Beside the others, each of which leaves a core idle.
const doors = runOne('soak/doors.ts', ['short'], soakEnv);
for (const [name, size] of [
  ['custody', '4'],
  ['kill', '4'],
  ['offload', '6'],
  ['smallFiles', '3000'],
  ['facts', '80'],
])
  oneCheck(`soak ${name}, short`, (await runOne(`soak/${name}.ts`, [size], soakEnv)).ok);
oneCheck('soak doors, short', (await doors).ok);
console.log(`${total.passed} passed, ${total.failed} failed`);
process.exit(total.failed === 0 ? 0 : 1);
