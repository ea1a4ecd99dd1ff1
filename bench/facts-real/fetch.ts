import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';

// Test images of open-source metadata libraries, from Debian's source packages. They are fetched with apt by a source list of the
// bench's own, the machine's is left as it is, and kept outside the tree.

/** Source packages, and the folders of them that hold files of real devices. */
const PACKAGES = [
  { name: 'exiv2', folder: /^exiv2-[^/]*\/test\/data\// },
  { name: 'libimage-exiftool-perl', folder: /^Image-ExifTool-[^/]*\/t\/images\// },
] as const;

/** A file of a device, by what it holds: its name says who made it, so it is told apart by the hash of its contents. */
export interface RealFile {
  /** Twelve digits of its SHA-256. */
  id: string;
  file: string;
}

/** The machine's own lists of packages, as lists of sources. */
function sourceLists(): string {
  const at = '/etc/apt/sources.list.d';
  const deb822 = (existsSync(at) ? readdirSync(at) : [])
    .filter((f) => f.endsWith('.sources'))
    .map((f) => readFileSync(path.join(at, f), 'utf8'))
    .filter((list) => /^Types:.*\bdeb\b/m.test(list));
  return deb822.map((list) => list.replace(/^Types:.*$/gm, 'Types: deb-src')).join('\n');
}

/** Lays the files out under `home` and gives those whose extension is on the list. Throws where they cannot be had. */
export function realFiles(home: string, extensions: readonly string[]): RealFile[] {
  const files = path.join(home, 'files');
  if (!existsSync(files)) {
    const work = path.join(home, 'work');
    rmSync(work, { recursive: true, force: true });
    for (const f of ['parts', 'lists/partial', 'taken']) mkdirSync(path.join(work, f), { recursive: true });
    writeFileSync(path.join(work, 'parts', 'own.sources'), sourceLists());
    const options = [
      ['Dir::Etc::sourcelist', '/dev/null'],
      ['Dir::Etc::sourceparts', path.join(work, 'parts')],
      ['Dir::State::lists', path.join(work, 'lists')],
      ['Dir::Cache::pkgcache', ''],
      ['Dir::Cache::srcpkgcache', ''],
      ['APT::Sandbox::User', 'root'],
    ].flatMap(([key, value]) => ['-o', `${key}=${value}`]);
    const names = PACKAGES.map((p) => p.name);
    console.log(`fetching the source packages ${names.join(', ')} …`);
    execFileSync('apt-get', [...options, '-qq', 'update'], { stdio: ['ignore', 'ignore', 'inherit'] });
    execFileSync('apt-get', [...options, '-qq', 'source', '--download-only', ...names], {
      cwd: work,
      stdio: ['ignore', 'ignore', 'inherit'],
    });
    for (const archive of readdirSync(work).filter((f) => /\.orig\.tar\./.test(f)))
      execFileSync('tar', ['-xf', archive, '-C', 'taken', '--no-same-owner'], { cwd: work });
    renameSync(path.join(work, 'taken'), files);
    rmSync(work, { recursive: true });
  }
  const wanted = new Set(extensions);
  const found = readdirSync(files, { recursive: true, encoding: 'utf8' }).filter(
    (f) => PACKAGES.some((p) => p.folder.test(f)) && wanted.has(path.extname(f).slice(1).toLowerCase()),
  );
  const known = new Map<string, RealFile>();
  for (const f of found.sort()) {
    const file = path.join(files, f);
    const id = createHash('sha256').update(readFileSync(file)).digest('hex').slice(0, 12);
    if (!known.has(id)) known.set(id, { id, file });
  }
  return [...known.values()];
}
