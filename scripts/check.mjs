// Types, format, lint, unit tests, end-to-end tests and short soaks, in one closing line over all of them. What needs a browser or
// waits for programs runs beside what computes, so that neither core idles; what a stage prints is shown when it has ended.
import { existsSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { stripVTControlCharacters } from 'node:util';
import { startPostgres } from './postgres.mjs';
import { CACHE, JEST, outputOf, prepare, ROOT, say } from './setup.mjs';

const began = performance.now();
const times = [];
/** Runs a stage and notes how long it took. Resolves with what it did. */
async function timed(stage, work) {
  const from = performance.now();
  const result = await work();
  times.push({ stage, seconds: (performance.now() - from) / 1000 });
  return result;
}

const { footage, emptyDatabase } = await timed('set-up', () =>
  prepare({ build: true, footage: true, tests: true }),
);

const total = { passed: 0, failed: 0 };
/** What failed, told once more at the end: who sees only the last of what the check prints still learns why. */
const failures = [];
/** Runs a program of a stage to its end and counts what `read` makes of it; its own words come before the line that sums it up. */
const stage = (name, args, read, env = {}) =>
  timed(name, async () => {
    const { status, output } = await outputOf(process.execPath, args, {
      env: {
        NODE_NO_WARNINGS: '1',
        // All of it is waited for: what goes behind all else would not come to it as long as the other line computes.
        SORT_SHELF_NICE: '0',
        SORT_SHELF_FOOTAGE: footage,
        SORT_SHELF_EMPTY_DATABASE: emptyDatabase,
        ...env,
      },
    });
    const { passed, failed, why } = read(status === 0, output);
    total.passed += passed;
    total.failed += failed;
    if (failed > 0)
      failures.push(`${name}:`, ...(why?.length ? why : [output.trim().split('\n').slice(-40).join('\n')]));
    say(`${output.trimEnd()}\n${name}: ${passed} of ${passed + failed}`.trimStart());
  });
const one = (ok) => ({ passed: ok ? 1 : 0, failed: ok ? 0 : 1 });
/** The first lines of what a failed test said, without the colours of a terminal. */
const linesOf = (message = '') =>
  stripVTControlCharacters(message).trim().split('\n').slice(0, 12).join('\n    ');
/** What a runner wrote of its tests; one that wrote nothing, or ended badly though no test failed, has failed. */
const report = (file, countOf) => (ok) => {
  try {
    const { passed, failed, why } = countOf(JSON.parse(readFileSync(file, 'utf8')));
    return { passed, failed: failed > 0 || ok ? failed : 1, why };
  } catch {
    return { passed: 0, failed: 1 };
  }
};

/** The tests that failed in a file, or why the file itself did not run. */
function failedTests({ name, message, assertionResults }) {
  const failed = assertionResults.filter(({ status }) => status === 'failed');
  const file = path.relative(ROOT, name);
  return failed.length === 0
    ? [`  ${file}\n    ${linesOf(message)}`]
    : failed.map((test) => `  ${file}: ${test.fullName}\n    ${linesOf(test.failureMessages[0])}`);
}
const jest = (name, args, env) => {
  const file = path.join(CACHE, `${name.replaceAll(' ', '-')}.json`);
  rmSync(file, { force: true });
  return stage(
    name,
    [...JEST, '--json', `--outputFile=${file}`, ...args],
    report(file, (r) => ({
      passed: r.numPassedTests,
      failed: r.numFailedTests + r.numRuntimeErrorTestSuites,
      why: r.testResults.filter(({ status }) => status === 'failed').flatMap(failedTests),
    })),
    env,
  );
};
/** What stood on the page where a test failed, as its roles and names; as much as helps. */
function pageOf(attachments) {
  const context = attachments.find(({ name, path: file }) => name === 'error-context' && file)?.path;
  const page =
    context && existsSync(context) && /\n```yaml\n(.*?)\n```/s.exec(readFileSync(context, 'utf8'))?.[1];
  return page ? `\n    The page:\n${page.split('\n').slice(0, 150).join('\n')}` : '';
}
/** The tests that failed in a suite of the browser's runner and in those within it, with what they said. */
const failedSpecs = ({ file, specs = [], suites = [] }) => [
  ...specs.flatMap((spec) =>
    spec.tests.flatMap(({ results }) =>
      results
        .filter(({ status }) => status !== 'passed' && status !== 'skipped')
        .map(
          ({ error, attachments }) =>
            `  ${file}: ${spec.title}\n    ${linesOf(error?.message)}${pageOf(attachments)}`,
        ),
    ),
  ),
  ...suites.flatMap(failedSpecs),
];
const endToEnd = () => {
  const file = path.join(CACHE, 'e2e.json');
  rmSync(file, { force: true });
  return stage(
    'end-to-end tests',
    ['node_modules/@playwright/test/cli.js', 'test'],
    // A test that never ran because one before it failed has not passed.
    report(file, ({ stats, suites }) => ({
      passed: stats.expected,
      failed: stats.unexpected + stats.flaky + stats.skipped,
      why: suites.flatMap(failedSpecs),
    })),
    { PLAYWRIGHT_JSON_OUTPUT_NAME: file },
  );
};
/** A soak in its short form: every figure it says has to keep its bound. */
const soak = (name, size) => stage(`soak ${name}, short`, ['scripts/soak.mjs', name, size], (ok) => one(ok));

/** The same on a PostgreSQL server, a good part of it: everything that asks the database much. What odd originals look like, what becomes of each coding, and what a decode shows, is asked of media programs. */
async function onPostgres() {
  const server = await startPostgres();
  await jest(
    'unit tests on a PostgreSQL server',
    [
      'src/server/(jobs|facts|intake|places|handover|next)/',
      'src/server/proxies/(?!oddOriginals|codings|look|proxies)',
      'src/server/platform/(work|db/server)',
      'src/demo/standIns/(offload|severalJobs)',
    ],
    { SORT_SHELF_TEST_SERVER: server.url },
  );
  await server.stop();
}

// The longest first: whichever line is free takes the next, so that both end at about the same time.
const stages = [
  () => jest('unit tests', []),
  endToEnd,
  () => soak('doors', 'short'),
  onPostgres,
  () => stage('types and lint', ['scripts/lint.mjs'], one),
  () => soak('custody', '4'),
  () => soak('kill', '4'),
  () => soak('proxies', '4'),
  () => soak('watch', '3'),
  () => soak('offload', '6'),
  () => soak('smallFiles', '3000'),
  () => soak('handover', '5'),
  () => soak('places', '3'),
  () => soak('calls', '2'),
  () => soak('facts', '80'),
  () =>
    stage('format', ['node_modules/prettier/bin/prettier.cjs', '--check', '--log-level', 'warn', '.'], one),
];
async function line() {
  for (let next = stages.shift(); next; next = stages.shift()) await next();
}
// Two lines side by side, which keep both cores busy; a third was no faster.
await Promise.all([line(), line()]);
for (const { stage, seconds } of times) say(`${stage} took ${Math.round(seconds)} s`);
say(`the whole check took ${Math.round((performance.now() - began) / 1000)} s`);
if (failures.length > 0) say(`What failed:\n${failures.join('\n')}`);
console.log(`${total.passed} passed, ${total.failed} failed`);
process.exit(total.failed === 0 ? 0 : 1);
