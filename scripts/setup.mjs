// Set-up that needs nothing but Node.js and the registries. Plain Node, no dependencies: it runs before there are any.
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  accessSync,
  constants,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { shareChunks } from './shareChunks.mjs';

export const ROOT = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
export const CACHE = path.join(ROOT, '.cache');

export const say = (line) => console.log(line);

/** How Jest is run. The embedded database is compiled anew for each test file, which ends before its optimised code would pay. */
export const JEST = ['--experimental-vm-modules', '--liftoff-only', 'node_modules/jest/bin/jest.js'];

/** Ends with one clear line: what is missing and what to do. */
export function giveUp(line) {
  console.error(`Sort Shelf cannot start: ${line}`);
  process.exit(1);
}

/** Runs a program to its end; resolves with what it printed and its exit code. Shown as it comes where it is not `quiet`. */
export function outputOf(command, args, { quiet = true, env = {} } = {}) {
  return new Promise((resolve) => {
    const child = spawn(command, args, {
      cwd: ROOT,
      env: { ...process.env, ...env },
      stdio: ['ignore', quiet ? 'pipe' : 'inherit', quiet ? 'pipe' : 'inherit'],
    });
    let output = '';
    for (const stream of [child.stdout, child.stderr])
      stream?.setEncoding('utf8').on('data', (c) => (output += c));
    child.once('error', (e) => resolve({ status: null, output: e.message }));
    child.once('close', (status) => resolve({ status, output }));
  });
}

/** Runs a program and ends with its own words where it fails. `quiet` shows its output only then. */
async function run(command, args, { quiet = false, env = {}, what = `${command} ${args.join(' ')}` } = {}) {
  const { status, output } = await outputOf(command, args, { quiet, env });
  if (status === 0) return;
  console.error(output.trim().split('\n').slice(-25).join('\n'));
  giveUp(`${what} failed.`);
}

function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 9))
    giveUp(`it needs Node.js 20.9 or newer, this is ${process.versions.node}. Install Node.js 20.`);
}

const hashOf = (...parts) => createHash('sha256').update(parts.join('\0')).digest('hex');

/** Whether the work that `key` is for was done before; `remember` writes that it is now. */
function stamp(name, key) {
  const file = path.join(CACHE, `${name}.stamp`);
  return {
    same: existsSync(file) && readFileSync(file, 'utf8') === key,
    remember() {
      mkdirSync(CACHE, { recursive: true });
      writeFileSync(file, key);
    },
  };
}

/** Installs the npm packages the lock file names, when it changed or they are not there. */
async function ensureDependencies() {
  const done = stamp(
    'dependencies',
    hashOf(readFileSync(path.join(ROOT, 'package-lock.json'), 'utf8'), process.version),
  );
  if (done.same && existsSync(path.join(ROOT, 'node_modules', 'next'))) return;
  say('Installing packages (npm ci) …');
  // Development tools are needed to build; NODE_ENV=production would leave them out.
  await run('npm', ['ci', '--no-audit', '--no-fund', '--include=dev'], { quiet: true, what: 'npm ci' });
  done.remember();
}

/** The oldest FFmpeg whose readers are kept from faults that are known. Builds between releases (N-…, git-…) bear no number and are taken. */
const OLDEST_FFMPEG = 5;

/** The version a media program says it has; `null` where it does not run. */
function versionOf(program) {
  const { status, stdout } = spawnSync(program, ['-version'], { encoding: 'utf8' });
  return status === 0 ? (/ version (\S+)/.exec(stdout)?.[1] ?? '') : null;
}

const tooOld = (version) => /^n?\d+\./.test(version) && Number(/\d+/.exec(version)[0]) < OLDEST_FFMPEG;

/** Debian as root: packages can be installed. */
const onDebianAsRoot = () =>
  process.platform === 'linux' &&
  process.getuid?.() === 0 &&
  existsSync('/etc/debian_version') &&
  existsSync('/usr/bin/apt-get');

/** Installs packages; resolves with whether that succeeded. */
async function installDebian(packages) {
  say(`Installing from Debian: ${packages.join(', ')} …`);
  const env = { DEBIAN_FRONTEND: 'noninteractive' };
  await outputOf('apt-get', ['update'], { env });
  const { status } = await outputOf('apt-get', ['install', '-y', '--no-install-recommends', ...packages], {
    env,
  });
  return status === 0;
}

/** Finds FFmpeg and ffprobe and puts their paths into the environment. */
function findFfmpeg() {
  const find = (name) => {
    const variable = `${name.toUpperCase()}_PATH`;
    const given = process.env[variable];
    const version = versionOf(given || name);
    if (given && version === null)
      giveUp(`${variable} is ${given}, which does not run. Correct it or unset it.`);
    if (version !== null && tooOld(version))
      giveUp(
        `${given || name} is version ${version}: its readers have faults that a file on a card could use. Install FFmpeg ${OLDEST_FFMPEG} or newer, or set ${variable}.`,
      );
    return version === null ? null : given || name;
  };
  const [ffmpeg, ffprobe] = [find('ffmpeg'), find('ffprobe')];
  if (!ffmpeg || !ffprobe) return false;
  process.env.FFMPEG_PATH = ffmpeg;
  process.env.FFPROBE_PATH = ffprobe;
  return true;
}

/** Whether a program can be run by its name. */
const isInstalled = (program) =>
  [...(process.env.PATH ?? '').split(':'), '/usr/sbin', '/sbin'].some((folder) => {
    try {
      accessSync(path.join(folder, program), constants.X_OK);
      return true;
    } catch {
      return false;
    }
  });

/**
 * Programs and the Debian packages they are in: the browser without a window, which starts and draws with less, and the independent programs
 * that the tests compare with.
 */
const TEST_PROGRAMS = [
  ['chromium-headless-shell', 'chromium-headless-shell'],
  ['mediainfo', 'mediainfo'],
  ['xxhsum', 'xxhash'],
  ['xmllint', 'libxml2-utils'],
  ['pdftotext', 'poppler-utils'],
  ['strace', 'strace'],
  ['rsync', 'rsync'],
];
/** The browser as people have it, for what is measured in it and for pictures. */
const BROWSER = [['chromium', 'chromium']];
/** Programs of others that read what real devices wrote; a bench holds what is read here against them. */
const REFERENCE_PROGRAMS = [
  ['mediainfo', 'mediainfo'],
  ['exiv2', 'exiv2'],
];
/** Those of a volume that ignores case. Where they cannot be had, the tests on one are skipped. */
const EXFAT_PROGRAMS = [
  ['mkfs.exfat', 'exfatprogs'],
  ['mount.exfat-fuse', 'exfat-fuse'],
];
/** Those that make and mount volumes as cards and drives have them. Where they cannot be had, the soak says what it did not try. */
const VOLUME_PROGRAMS = [
  ...EXFAT_PROGRAMS,
  ['mkfs.vfat', 'dosfstools'],
  ['fusefat', 'fusefat'],
  ['mkfs.ntfs', 'ntfs-3g'],
];

/** Finds the programs that are needed, or installs them from Debian, all at once. */
async function ensurePrograms({ tests, browser, volumes, references }) {
  const missingOf = (wanted) => wanted.filter(([program]) => !isInstalled(program)).map(([, name]) => name);
  const isMissing = {
    ffmpeg: !findFfmpeg(),
    postgres: tests && postgresPrograms() === null,
  };
  const forTests = [
    ...(tests ? missingOf(TEST_PROGRAMS) : []),
    ...(browser ? missingOf(BROWSER) : []),
    ...(references ? missingOf(REFERENCE_PROGRAMS) : []),
  ];
  const wanted = [
    ...(isMissing.ffmpeg ? ['ffmpeg'] : []),
    ...(isMissing.postgres ? ['postgresql'] : []),
    ...forTests,
    ...(volumes ? missingOf(VOLUME_PROGRAMS) : tests ? missingOf(EXFAT_PROGRAMS) : []),
  ];
  if (wanted.length === 0) return;
  const installed = onDebianAsRoot() && (await installDebian(wanted));
  if (isMissing.ffmpeg && !findFfmpeg())
    giveUp(
      `FFmpeg and ffprobe were not found. Install FFmpeg ${OLDEST_FFMPEG} or newer, or set FFMPEG_PATH and FFPROBE_PATH.`,
    );
  if (isMissing.postgres && postgresPrograms() === null)
    giveUp(`the tests need PostgreSQL ${OLDEST_POSTGRES} or newer. Install it and try again.`);
  if (forTests.length > 0 && !installed)
    giveUp(
      `the tests need ${forTests.join(', ')}. Install ${forTests.length === 1 ? 'it' : 'them'} and try again.`,
    );
}

const POSTGRES = '/usr/lib/postgresql';
const OLDEST_POSTGRES = 15;

/** The folder of the newest PostgreSQL's programs; null where none is new enough. */
export function postgresPrograms() {
  const versions = (existsSync(POSTGRES) ? readdirSync(POSTGRES) : [])
    .map(Number)
    .filter((v) => v >= OLDEST_POSTGRES && existsSync(path.join(POSTGRES, String(v), 'bin', 'initdb')));
  return versions.length === 0 ? null : path.join(POSTGRES, String(Math.max(...versions)), 'bin');
}

function filesBelow(folder) {
  return readdirSync(folder, { withFileTypes: true })
    .flatMap((e) => (e.isDirectory() ? filesBelow(path.join(folder, e.name)) : [path.join(folder, e.name)]))
    .sort();
}

const sourcesOf = (...places) =>
  hashOf(
    ...places.flatMap((p) => {
      const at = path.join(ROOT, p);
      return (
        (existsSync(at) && readdirSafe(at) ? filesBelow(at) : [at])
          // What only tests read is no source of anything.
          .filter((f) => !/\.test\.tsx?$|\.tar\.br$/.test(f))
          .flatMap((f) => [path.relative(ROOT, f), readFileSync(f, 'utf8')])
      );
    }),
  );

function readdirSafe(p) {
  try {
    readdirSync(p);
    return true;
  } catch {
    return false;
  }
}

/** Whether a process of this number is there. */
function isAlive(pid) {
  try {
    process.kill(pid, 0);
    return true;
  } catch (e) {
    return e.code === 'EPERM';
  }
}

/** Whether a lock was left by a command that was killed. One that has just been made gets its number a moment later. */
function isLeft(lock) {
  try {
    const holder = Number(readFileSync(lock, 'utf8'));
    return holder > 0 ? !isAlive(holder) : Date.now() - statSync(lock).mtimeMs > 5000;
  } catch {
    return false;
  }
}

/** Has `make` done by one command of this checkout at a time: two would write into one folder. */
async function oneAtATime(what, make) {
  const lock = path.join(CACHE, `${what}.lock`);
  mkdirSync(CACHE, { recursive: true });
  for (let waits = false; ;) {
    try {
      writeFileSync(lock, `${process.pid}`, { flag: 'wx' });
      break;
    } catch (e) {
      if (e.code !== 'EEXIST') throw e;
    }
    if (isLeft(lock)) rmSync(lock, { force: true });
    else {
      if (!waits) say(`Another command has begun with the ${what}: waiting for it …`);
      waits = true;
      await new Promise((r) => setTimeout(r, 300));
    }
  }
  try {
    await make();
  } finally {
    rmSync(lock, { force: true });
  }
}

/** Builds the application when its sources changed. */
async function ensureBuild() {
  const isBuilt = () => buildStamp().same && existsSync(path.join(ROOT, '.next', 'BUILD_ID'));
  if (isBuilt()) return;
  await oneAtATime('build', async () => {
    if (!isBuilt()) await build();
  });
}

const buildStamp = () =>
  stamp(
    'build',
    sourcesOf(
      ...['src', 'package-lock.json', 'package.json', 'next.config.ts', 'tsconfig.json'],
      'scripts/shareChunks.mjs',
    ),
  );

async function build() {
  const done = buildStamp();
  say('Building (next build) …');
  const next = (mode) =>
    run(process.execPath, ['node_modules/next/dist/bin/next', 'build', '--experimental-build-mode', mode], {
      quiet: true,
      env: { NODE_ENV: 'production', NEXT_TELEMETRY_DISABLED: '1' },
      what: `next build (${mode})`,
    });
  await next('compile');
  // In between, as the second step loads the code of every route: the same for each of them, it is loaded once.
  for (const folder of ['chunks', 'chunks/ssr']) shareChunks(path.join(ROOT, '.next', 'server', folder));
  await next('generate');
  done.remember();
}

/** Bundles the code of worker threads when its sources changed. */
async function ensureThreads() {
  const done = stamp(
    'threads',
    sourcesOf('src/core', 'src/server', 'src/demo', 'scripts/threads.mjs', 'package-lock.json'),
  );
  const { buildThreads, THREADS_FOLDER } = await import('./threads.mjs');
  if (done.same && existsSync(THREADS_FOLDER)) return;
  await buildThreads();
  done.remember();
}

/** Makes the demo footage once; resolves with its folder. It is made anew when its generator changes. */
async function ensureFootage() {
  const key = sourcesOf('src/demo/footage', 'src/core/platform/timecode').slice(0, 12);
  const folder = path.join(CACHE, `footage-${key}`);
  if (existsSync(folder)) return folder;
  say('Making the demo footage, about a minute …');
  mkdirSync(CACHE, { recursive: true });
  for (const old of readdirSync(CACHE))
    if (old.startsWith('footage-')) rmSync(path.join(CACHE, old), { recursive: true });
  await run(process.execPath, ['node_modules/tsx/dist/cli.mjs', 'src/demo/footage/make.ts', folder], {
    what: 'making the demo footage',
  });
  return folder;
}

/** Makes the dump of an empty database that test shelves begin with, once; resolves with its file. */
async function ensureEmptyDatabase() {
  const key = sourcesOf(
    'src/server/platform/db/migrations',
    'src/server/platform/work',
    'src/core/platform/shapes.ts',
    'src/server/testing/makeEmptyDatabase.ts',
    'node_modules/@electric-sql/pglite/package.json',
    'node_modules/pg-boss/package.json',
  ).slice(0, 12);
  const file = path.join(CACHE, `empty-${key}.tar`);
  if (existsSync(file)) return file;
  mkdirSync(CACHE, { recursive: true });
  for (const old of readdirSync(CACHE)) if (old.startsWith('empty-')) rmSync(path.join(CACHE, old));
  await run(process.execPath, ['--import', 'tsx', 'src/server/testing/makeEmptyDatabase.ts', file], {
    what: 'making an empty database',
    env: { SORT_SHELF_EMPTY_DATABASE: '' },
  });
  return file;
}

/**
 * Brings up to date what is wanted: packages, programs, the application (`build`) and the demo footage (`footage`), side by side
 * where one does not need the other. `tests` adds the programs of the tests, `browser` the browser of people, `volumes` those that make volumes, `references` those that read real files. Resolves with the
 * folder of the footage and, for tests, the file of an empty database.
 */
export async function prepare({
  build = false,
  footage = false,
  tests = false,
  browser = false,
  volumes = false,
  references = false,
}) {
  checkNode();
  const programs = ensurePrograms({ tests, browser, volumes, references });
  await ensureDependencies();
  const [made, emptyDatabase] = await Promise.all([
    footage ? programs.then(ensureFootage) : programs,
    tests ? ensureEmptyDatabase() : undefined,
    build ? ensureBuild() : undefined,
    ensureThreads(),
  ]);
  return { footage: made, emptyDatabase };
}
