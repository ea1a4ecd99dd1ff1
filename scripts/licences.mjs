// Lists the packages that ship with the application and their licences in docs/licences.md. Run it after changing dependencies.
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { ROOT } from './setup.mjs';

export const LIST = path.join(ROOT, 'docs', 'licences.md');

/** Packages that say their licence in its text alone: which one that is (SPDX), and words of the text by which it is known. */
const IN_TEXT = {
  'png-js': ['MIT', 'MIT License'],
  'dejavu-fonts-ttf': ['Bitstream-Vera', 'Bitstream Vera Fonts Copyright'],
};

function inText(name, folder) {
  const [licence, words] = IN_TEXT[name] ?? [];
  const text = path.join(folder, 'LICENSE');
  return licence && existsSync(text) && readFileSync(text, 'utf8').includes(words) ? licence : null;
}

/** Every package that ships, by its place in the lock file: `licence` is null where neither the lock nor the package says it. */
export function shipped() {
  const { packages } = JSON.parse(readFileSync(path.join(ROOT, 'package-lock.json'), 'utf8'));
  return Object.entries(packages)
    .filter(([where, e]) => where !== '' && !e.dev && !e.link)
    .map(([where, entry]) => {
      const manifest = path.join(ROOT, where, 'package.json');
      const own = existsSync(manifest) ? JSON.parse(readFileSync(manifest, 'utf8')).license : undefined;
      const name = where.slice(where.lastIndexOf('node_modules/') + 13);
      return {
        name,
        version: entry.version ?? '',
        licence: inText(name, path.join(ROOT, where)) ?? own?.type ?? own ?? entry.license ?? null,
        entry,
      };
    });
}

/** The page. What is for another system and not installed here is listed by name: its licence is that of the package that asks for it. */
export function page() {
  const all = shipped()
    .filter((p) => !p.entry.optional)
    .map((p) => `| ${p.name} | ${p.version} | ${p.licence} |`);
  const optional = [
    ...new Set(
      shipped()
        .filter((p) => p.entry.optional)
        .map((p) => p.name),
    ),
  ].sort();
  return `# Licences of what ships

Sort Shelf is under the MIT licence. It ships with these packages of the npm registry (\`node scripts/licences.mjs\`; \`npm run soak doors\` checks the list). FFmpeg, ExifTool's Perl and the browser are the system's own. The fonts of the screens are under the Open Font License; those that reports draw other letters with are under their own, which allows to pass them on.

| Package | Version | Licence |
|---|---|---|
${[...new Set(all)].sort().join('\n')}

Binaries of some of these for one system each, of which only one's own is installed: ${optional.join(', ')}. sharp's, which Next.js asks for and nothing here uses, hold libvips (LGPL-3.0-or-later).
`;
}

if (process.argv[1] === import.meta.filename) writeFileSync(LIST, page());
