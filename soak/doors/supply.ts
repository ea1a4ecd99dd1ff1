import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { Tally } from './house';

// What ships with the application: versions pinned, licences that allow it, no program downloaded at the install.

const ALLOWED = /^(?:MIT|MIT-0|ISC|0BSD|BSD-2-Clause|BSD-3-Clause|Apache-2\.0|CC0-1\.0|CC-BY-4\.0|OFL-1\.1|MPL-2\.0|Unlicense|BlueOak-1\.0\.0|Python-2\.0|LGPL-3\.0-or-later|PostgreSQL)$/;
interface Entry { version?: string; integrity?: string; dev?: boolean; optional?: boolean; license?: string; hasInstallScript?: boolean; link?: boolean }

/** The packages that ship, with the licence each states. */
export function shipped(): { name: string; version: string; licence: string | null; entry: Entry }[] {
  const { packages } = JSON.parse(readFileSync('package-lock.json', 'utf8')) as { packages: Record<string, Entry> };
  return Object.entries(packages).filter(([where, e]) => where !== '' && !e.dev && !e.link).map(([where, entry]) => {
    const manifest = path.join(where, 'package.json');
    const own = existsSync(manifest) ? (JSON.parse(readFileSync(manifest, 'utf8')) as { license?: string | { type: string } }).license : undefined;
    return { name: where.slice(where.lastIndexOf('node_modules/') + 13), version: entry.version ?? '', licence: (typeof own === 'object' ? own.type : own) ?? entry.license ?? null, entry };
  });
}

export function supply(): Tally {
  const tally = new Tally('supply');
  for (const { name, version, licence, entry } of shipped()) {
    tally.tried(/^\d+\.\d+\.\d+/.test(version) ? null : `${name} has no pinned version`);
    // Packages for other systems are not here to be asked.
    if (licence === null) tally.tried(entry.optional ? null : `${name} states no licence`);
    else tally.tried(licence.replace(/[()]/g, '').split(/ (?:AND|OR) /).every((l) => ALLOWED.test(l)) ? null : `${name} is under ${licence}`);
    tally.tried(entry.hasInstallScript && !['xxhash-addon', 'sharp', 'esbuild', 'exiftool-vendored', 'fsevents'].includes(name) ? `${name} runs a script at the install` : null);
  }
  return tally;
}
