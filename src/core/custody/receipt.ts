import { HASH_WORDS, xmlText } from '../hashLists';
import { diskWords } from '../platform/disks';
import { formatBytes, formatUtc } from '../platform/words';
import { VERDICT_WORDS } from './wipe';
import type { Receipt } from './shapes';
import { VERIFICATION_WORDS } from '../offload';

const text = xmlText;

/** The receipt of a card as a page to print: HTML that needs nothing from elsewhere and runs nothing. */
export function receiptPage(r: Receipt): string {
  const rows = r.copies
    .map(
      (
        c,
      ) => `<tr><td>${text(c.rootName)}<br><small>${text(c.place)}</small></td><td>${text(diskWords(c.disk))}${c.standIn ? ' (stand-in)' : ''}</td>
<td>${text(VERIFICATION_WORDS[c.verification].name)}<br><small>${text(HASH_WORDS[c.hash])}</small></td><td>${formatUtc(c.verifiedAt)}</td><td>${c.files} files<br><small>${formatBytes(c.bytes)}</small></td>
<td>${c.proven} of ${c.files} proven<br><small>${c.present ? `looked at ${formatUtc(r.at)}` : `offline${c.seenAt ? `, last seen ${formatUtc(c.seenAt)}` : ''}`}${c.check ? `; checked again ${formatUtc(c.check.at)}` : ''}</small></td></tr>`,
    )
    .join('\n');
  const list = (items: readonly string[]) =>
    items.length === 0 ? '' : `<ul>${items.map((i) => `<li>${text(i)}</li>`).join('')}</ul>`;
  const files = r.list
    .map(
      (f) =>
        `<tr><td>${text(f.path)}</td><td class="n">${f.size.toLocaleString('en-GB')}</td><td class="n">${f.copies}</td><td>${f.hash && f.kind ? `${text(HASH_WORDS[f.kind])} ${f.hash}` : 'no copy'}</td></tr>`,
    )
    .join('\n');
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${text(r.card)}: receipt</title>
<style>
body { font: 11pt/1.4 system-ui, sans-serif; color: #1E2733; margin: 18mm; }
h1 { font-size: 18pt; margin: 0; } h2 { font-size: 12pt; margin: 8mm 0 2mm; }
.answer { border: 2px solid; padding: 4mm 5mm; margin: 6mm 0; font-size: 13pt; font-weight: bold; }
table { border-collapse: collapse; width: 100%; } th, td { text-align: left; vertical-align: top; border-bottom: 1px solid #aaa; padding: 1.2mm 3mm 1.2mm 0; }
.files { font: 8pt/1.35 ui-monospace, monospace; overflow-wrap: anywhere; } .n { text-align: right; } small { color: #444; } tr { break-inside: avoid; }
</style></head><body>
<h1>Card ${text(r.card)}</h1>
<p>${text(r.job)} (${text(r.code)}) · camera ${text(r.camera)} · day ${r.day} · ${r.files} files, ${formatBytes(r.bytes)} · as of ${formatUtc(r.at)}</p>
<div class="answer">May this ${r.scope === 'volume' ? 'card' : 'folder'} be wiped? ${VERDICT_WORDS[r.verdict]}.<br>${text(r.because)}</div>
${list(r.reasons.map((m) => m.text).filter((m) => m !== r.because))}
<h2>Copies</h2>
<table><thead><tr><th>Copy</th><th>Disk</th><th>Verified</th><th>When</th><th>Holds</th><th>Now</th></tr></thead><tbody>
${rows || '<tr><td colspan="6">None.</td></tr>'}
</tbody></table>
${list(r.notes)}
<h2>Files</h2>
<table class="files"><thead><tr><th>File</th><th class="n">Bytes</th><th class="n">Copies</th><th>Hash</th></tr></thead><tbody>
${files}
</tbody></table>
</body></html>
`;
}
