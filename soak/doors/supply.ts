import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { Tally } from './house';

// What ships with the application: versions pinned, licences that allow it and are listed, no program downloaded at the install.

const ALLOWED =
  /^(?:MIT|MIT-0|ISC|0BSD|BSD-2-Clause|BSD-3-Clause|Apache-2\.0|CC0-1\.0|CC-BY-4\.0|OFL-1\.1|MPL-2\.0|Unlicense|BlueOak-1\.0\.0|Python-2\.0|LGPL-3\.0-or-later|PostgreSQL|Zlib|Bitstream-Vera)$/;
/** Their scripts build from their own sources (xxhash-addon) or look whether a binary that came as a package is there. */
const SCRIPTS = ['xxhash-addon', 'sharp', 'esbuild', 'fsevents'];
interface Shipped {
  name: string;
  version: string;
  licence: string | null;
  entry: { optional?: boolean; hasInstallScript?: boolean };
}

/** Plain JavaScript, which states no types. */
const LICENCES: string = '../../scripts/licences.mjs';

export async function supply(): Promise<Tally> {
  const tally = new Tally('supply');
  const { LIST, page, shipped } = (await import(LICENCES)) as {
    LIST: string;
    page: () => string;
    shipped: () => Shipped[];
  };
  for (const { name, version, licence, entry } of shipped()) {
    tally.tried(/^\d+\.\d+\.\d+/.test(version) ? null : `${name} has no pinned version`);
    // Packages for other systems are not here to be asked.
    if (licence === null) tally.tried(entry.optional ? null : `${name} states no licence`);
    else
      tally.tried(
        licence
          .replace(/[()]/g, '')
          .split(/ (?:AND|OR) /)
          .every((l) => ALLOWED.test(l))
          ? null
          : `${name} is under ${licence}`,
      );
    tally.tried(
      entry.hasInstallScript && !SCRIPTS.includes(name) ? `${name} runs a script at the install` : null,
    );
  }
  tally.tried(
    readFileSync(LIST, 'utf8') === page()
      ? null
      : 'docs/licences.md is not what ships: run node scripts/licences.mjs',
  );
  const { status, stdout } = spawnSync('npm', ['audit', '--omit=dev', '--json'], {
    encoding: 'utf8',
    timeout: 60_000,
  });
  const found = audit(stdout);
  if (found === null) console.log('  npm audit: this registry knows of no faults to ask for; not tried');
  else tally.tried(status === 0 ? null : `npm audit: ${found}`);
  return tally;
}

/** What npm audit found, in words; `null` where the registry gave no answer. */
function audit(text: string): string | null {
  try {
    const said = JSON.parse(text) as { vulnerabilities?: Record<string, { severity: string }> };
    return said.vulnerabilities
      ? Object.entries(said.vulnerabilities)
          .map(([name, v]) => `${name} (${v.severity})`)
          .join(', ')
      : null;
  } catch {
    return null;
  }
}
