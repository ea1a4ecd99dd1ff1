// Set-up that needs nothing but Node.js and the registries. Plain Node, no dependencies: it runs before there are any.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  accessSync,
  constants,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

export const ROOT = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
export const CACHE = path.join(ROOT, '.cache');

export const say = (line) => console.log(line);

/** Ends with one clear line: what is missing and what to do. */
export function giveUp(line) {
  console.error(`Sort Shelf cannot start: ${line}`);
  process.exit(1);
}

/** Runs a program and ends with its own words where it fails. `quiet` shows its output only then. */
export function run(command, args, { quiet = false, env = {}, what = `${command} ${args.join(' ')}` } = {}) {
  const result = spawnSync(command, args, {
    cwd: ROOT,
    env: { ...process.env, ...env },
    stdio: quiet ? ['ignore', 'pipe', 'pipe'] : ['ignore', 'inherit', 'inherit'],
    encoding: 'utf8',
    maxBuffer: 1 << 28,
  });
  if (result.status === 0) return;
  if (quiet)
    console.error(`${result.stdout ?? ''}${result.stderr ?? ''}`.trim().split('\n').slice(-25).join('\n'));
  giveUp(`${what} failed${result.error ? `: ${result.error.message}` : ''}.`);
}

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 9))
    giveUp(`it needs Node.js 20.9 or newer, this is ${process.versions.node}. Install Node.js 20.`);
}

const hashOf = (...parts) => createHash('sha256').update(parts.join('\0')).digest('hex');

/** Whether the work that `key` stands for was done before; `remember` writes that it is now. */
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

/** Where the tests keep an empty database of today's tables; the first of them that needs one makes it. */
export function emptyDatabase() {
  const migrations = path.join(ROOT, 'src/server/platform/db/migrations');
  const files = readdirSync(migrations, { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile())
    .map((e) => path.join(e.parentPath, e.name))
    .sort();
  const engine = readFileSync(path.join(ROOT, 'node_modules/@electric-sql/pglite/package.json'), 'utf8');
  const name = `empty-${hashOf(engine, ...files.map((f) => readFileSync(f, 'utf8'))).slice(0, 12)}.tar`;
  mkdirSync(CACHE, { recursive: true });
  for (const old of readdirSync(CACHE))
    if (/^empty-/.test(old) && old !== name) rmSync(path.join(CACHE, old));
  return path.join(CACHE, name);
}

/** Installs the npm packages the lock file names, when it changed or they are not there. */
export function ensureDependencies() {
  const done = stamp(
    'dependencies',
    hashOf(readFileSync(path.join(ROOT, 'package-lock.json'), 'utf8'), process.version),
  );
  if (done.same && existsSync(path.join(ROOT, 'node_modules', 'next'))) return;
  say('Installing packages (npm ci) …');
  // Development tools are needed to build; NODE_ENV=production would leave them out.
  run('npm', ['ci', '--no-audit', '--no-fund', '--include=dev'], { quiet: true, what: 'npm ci' });
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
export const onDebianAsRoot = () =>
  process.platform === 'linux' &&
  process.getuid?.() === 0 &&
  existsSync('/etc/debian_version') &&
  existsSync('/usr/bin/apt-get');

let listsFresh = false;

export function installDebian(packages) {
  say(`Installing from Debian: ${packages.join(', ')} …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  if (!listsFresh) spawnSync('apt-get', ['update'], { stdio: 'ignore', env });
  listsFresh = true;
  return (
    spawnSync('apt-get', ['install', '-y', '--no-install-recommends', ...packages], { stdio: 'ignore', env })
      .status === 0
  );
}

/** Finds FFmpeg and ffprobe and puts their places into the environment. */
export function ensureFfmpeg() {
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
  let [ffmpeg, ffprobe] = [find('ffmpeg'), find('ffprobe')];
  if ((!ffmpeg || !ffprobe) && onDebianAsRoot() && installDebian(['ffmpeg']))
    [ffmpeg, ffprobe] = [find('ffmpeg'), find('ffprobe')];
  if (!ffmpeg || !ffprobe)
    giveUp(
      'FFmpeg and ffprobe were not found. Install FFmpeg 5 or newer, or set FFMPEG_PATH and FFPROBE_PATH.',
    );
  process.env.FFMPEG_PATH = ffmpeg;
  process.env.FFPROBE_PATH = ffprobe;
}

/** Of programs and the Debian packages they are in, the packages that are missing. */
function missingOf(wanted) {
  const there = (p) =>
    [...(process.env.PATH ?? '').split(':'), '/usr/sbin', '/sbin'].some((d) => {
      try {
        accessSync(path.join(d, p), constants.X_OK);
        return true;
      } catch {
        return false;
      }
    });
  return wanted.filter(([program]) => !there(program)).map(([, name]) => name);
}

/** Programs that make and mount volumes as cards and drives have them. Where they cannot be had, the soak says what it did not try. */
export function ensureVolumePrograms() {
  const missing = missingOf([
    ['mkfs.exfat', 'exfatprogs'],
    ['mount.exfat-fuse', 'exfat-fuse'],
    ['mkfs.vfat', 'dosfstools'],
    ['fusefat', 'fusefat'],
    ['mkfs.ntfs', 'ntfs-3g'],
  ]);
  if (missing.length > 0 && onDebianAsRoot()) installDebian(missing);
}

/** The browser and the independent programs that the tests compare with. */
export function ensureTestPrograms() {
  const missing = missingOf([
    ['chromium', 'chromium'],
    ['mediainfo', 'mediainfo'],
    ['xxhsum', 'xxhash'],
    ['xmllint', 'libxml2-utils'],
    ['strace', 'strace'],
  ]);
  if (missing.length === 0) return;
  if (!onDebianAsRoot() || !installDebian(missing))
    giveUp(
      `the tests need ${missing.join(', ')}. Install ${missing.length === 1 ? 'it' : 'them'} and try again.`,
    );
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
      return (existsSync(at) && readdirSafe(at) ? filesBelow(at) : [at])
        .filter((f) => !/\.test\.tsx?$/.test(f))
        .flatMap((f) => [path.relative(ROOT, f), readFileSync(f, 'utf8')]);
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

/** Builds the application when its sources changed. */
export function ensureBuild() {
  const done = stamp(
    'build',
    sourcesOf('src', 'package-lock.json', 'package.json', 'next.config.ts', 'tsconfig.json'),
  );
  if (done.same && existsSync(path.join(ROOT, '.next', 'BUILD_ID'))) return;
  say('Building (next build) …');
  run(process.execPath, ['node_modules/next/dist/bin/next', 'build'], {
    quiet: true,
    env: { NODE_ENV: 'production', NEXT_TELEMETRY_DISABLED: '1' },
    what: 'next build',
  });
  done.remember();
}

/** Makes the demo footage once; returns its folder. It is made anew when its generator changes. */
export function ensureFootage() {
  const key = sourcesOf('src/demo/footage', 'src/core/platform/timecode').slice(0, 12);
  const folder = path.join(CACHE, `footage-${key}`);
  if (existsSync(folder)) return folder;
  say('Making the demo footage, about a minute …');
  mkdirSync(CACHE, { recursive: true });
  run(process.execPath, ['node_modules/tsx/dist/cli.mjs', 'src/demo/footage/make.ts', folder], {
    what: 'making the demo footage',
  });
  return folder;
}
