import { xmlText as text } from '../../hashLists';
import type { Cell, Report, Section, Tile } from './shapes';

/** Pictures by clips' ids, as JPEG in base64. */
export type Pictures = ReadonlyMap<string, string>;

export const MARK_WORDS = { good: '✓', look: '!', stop: '✕' } as const;

const lines = (words: string): string => text(words).replaceAll('&#10;', '<br>');

const image = (pictures: Pictures, clip: string): string => {
  const data = pictures.get(clip);
  return data === undefined
    ? '<span class="none">no picture</span>'
    : `<img alt="" src="data:image/jpeg;base64,${data}">`;
};

function cell(of: Cell, pictures: Pictures): string {
  if (typeof of === 'string') return lines(of);
  if ('picture' in of) return image(pictures, of.picture);
  return `<span class="${of.mark}">${MARK_WORDS[of.mark]} ${lines(of.text)}</span>`;
}

function table({ columns, rows }: NonNullable<Section['table']>, pictures: Pictures): string {
  const whole = columns.reduce((n, c) => n + c.width, 0);
  const widths = columns.map((c) => `<col style="width:${((100 * c.width) / whole).toFixed(2)}%">`).join('');
  const head = columns.map((c) => `<th scope="col">${text(c.head)}</th>`).join('');
  const body = rows
    .map(
      (row) =>
        `<tr>${row.map((c, i) => `<td${columns[i]!.exact ? ' class="exact"' : ''}>${cell(c, pictures)}</td>`).join('')}</tr>`,
    )
    .join('\n');
  return `<table><colgroup>${widths}</colgroup><thead><tr>${head}</tr></thead><tbody>\n${body}\n</tbody></table>`;
}

const tile = (of: Tile, pictures: Pictures): string =>
  `<figure>${image(pictures, of.picture)}<figcaption><b class="exact">${text(of.name)}</b>${of.lines.map((l) => `<br>${text(l)}`).join('')}</figcaption></figure>`;

function section({ heading, about, table: rows, tiles, more }: Section, pictures: Pictures): string {
  const [kind, h] = rows || tiles ? ['card', 3] : ['day', 2];
  return `<section class="${kind}">
<h${h}>${text(heading)}</h${h}>
${about === '' ? '' : `<p>${text(about)}</p>`}
${rows ? table(rows, pictures) : ''}${tiles ? `<div class="tiles">${tiles.map((t) => tile(t, pictures)).join('\n')}</div>` : ''}
${more.map((m) => `<p class="more">${text(m)}</p>`).join('\n')}
</section>`;
}

/** A report as a page to look at and to print: HTML that needs nothing from elsewhere and runs nothing. */
export const reportPage = (r: Report, pictures: Pictures): string => `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${text(`${r.job}: ${r.title}`)}</title>
<style>
@page { size: A4 landscape; margin: 14mm 12mm 16mm; @bottom-left { content: "${text(r.job).replaceAll('"', '').replaceAll('\\', '')}"; font: 8pt sans-serif; } @bottom-right { content: counter(page) " of " counter(pages); font: 8pt sans-serif; } }
body { font: 10pt/1.35 system-ui, sans-serif; color: #1E2733; background: #fff; margin: 16px 20px; }
h1 { font-size: 19pt; margin: 0; } h2 { font-size: 14pt; margin: 9mm 0 1mm; } h3 { font-size: 11pt; margin: 6mm 0 1mm; }
section.day { break-before: page; } section.day:first-of-type { break-before: avoid; } h2, h3 { break-after: avoid; }
p { margin: 0 0 2mm; color: #444; } p.more { margin: 1mm 0; color: inherit; } ul { margin: 3mm 0; padding-left: 5mm; }
table { border-collapse: collapse; width: 100%; table-layout: fixed; font-size: 8.5pt; } thead { display: table-header-group; }
th { color: #444; font-weight: 400; } th, td { text-align: left; vertical-align: top; border-bottom: 1px solid #bbb; padding: 1mm 2.5mm 1mm 0; overflow-wrap: anywhere; } tr, figure { break-inside: avoid; }
.exact { font-family: ui-monospace, monospace; font-size: 0.92em; } td img { width: 100%; display: block; }
.good { color: #3f5a2e; } .look { color: #7a530c; } .stop { color: #A8442A; font-weight: 600; } .none { color: #5B6470; font-size: 0.85em; }
.tiles { display: grid; grid-template-columns: repeat(auto-fill, minmax(42mm, 1fr)); gap: 4mm; } figure { margin: 0; font-size: 8pt; } figure img, figure .none { width: 100%; display: block; margin-bottom: 1mm; } figcaption { overflow-wrap: anywhere; }
</style></head><body>
<h1>${text(r.title)}</h1>
<p>${text([r.job, r.of, r.made].join(' · '))}</p>
<ul>${r.summary.map((s) => `<li>${cell(s, pictures)}</li>`).join('')}</ul>
${r.sections.length === 0 ? `<p>${text(r.none)}</p>` : r.sections.map((s) => section(s, pictures)).join('\n')}
</body></html>
`;
