import { expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { Report } from '../../../core/handover';
import { pdf } from './pdf';

// PDFs as another program opens them: pdftotext, pdfinfo, pdfimages and pdftoppm of Debian's poppler-utils.

const report = (of: Partial<Report> = {}): Report => ({
  ...{ kind: 'camera', title: 'Camera report', job: 'Slack Water (SLW)', of: 'the whole job' },
  ...{ made: '2026-05-06 20:00 UTC', summary: ['3 clips'], sections: [], none: 'There are none.' },
  ...of,
});
const table = (rows: string[][], heads: readonly string[] = ['Clip', 'Notes']) => ({
  ...{ heading: 'B001', about: 'Camera B', more: [] },
  table: { columns: heads.map((head, i) => ({ head, width: 1 + i, exact: i === 0 })), rows },
});

/** What a program of poppler's says of a PDF. */
async function opened<T>(
  of: Report,
  look: (run: (program: string, ...args: string[]) => string) => T,
  pictures = new Map<string, string>(),
): Promise<T> {
  const folder = mkdtempSync(path.join(tmpdir(), 'shelf-pdf-'));
  try {
    const file = path.join(folder, 'report.pdf');
    writeFileSync(file, await pdf({ report: of, pictures }));
    return look((program, ...args) =>
      execFileSync(program, [...args, file, ...(program === 'pdftotext' ? ['-'] : [])], { encoding: 'utf8' }),
    );
  } finally {
    rmSync(folder, { recursive: true });
  }
}
const textOf = (of: Report) => opened(of, (run) => run('pdftotext', '-layout'));

test('every line is there; each page has its number, and says again of which card it is', async () => {
  const rows = Array.from({ length: 300 }, (_, i) => [`T${String(i).padStart(4, '0')}`, 'wheel']);
  const text = await textOf(report({ sections: [table(rows)] }));
  for (const [name] of rows) expect(text).toContain(name);
  const pages = text.split('\f').slice(0, -1);
  expect(pages.length).toBeGreaterThan(5);
  for (const [i, page] of pages.entries()) {
    expect(page).toContain(`${i + 1} of ${pages.length}`);
    expect(page).toContain('B001');
    expect(page).toMatch(/Clip\s+Notes/);
  }
  expect(text).toContain('Slack Water (SLW) · the whole job · 2026-05-06 20:00 UTC');
});

test('letters of other tongues are drawn; one that no face has is written as its number', async () => {
  const text = await textOf(
    report({ sections: [table([['Mühle_č', 'Ščúr žluť · Ω Ж · 流 → ≥ “quoted” ✓']])] }),
  );
  for (const word of ['Mühle_č', 'Ščúr žluť', 'Ω Ж', '[U+6D41]', '→ ≥ “quoted” ✓'])
    expect(text).toContain(word);
  expect(text).not.toContain('流');
});

test('a name without a place to break it stays in its column, and on the paper', async () => {
  const long = `SLW_${'x'.repeat(240)}`;
  const name = 'SLW_D1_A001_001_25p_wheel-turns_again_from_the_other_side_of_the_river.MOV';
  const words = await opened(
    report({
      sections: [
        table([
          [long, 'beside'],
          [name, 'beside'],
          ['T1', `${'y'.repeat(900)} end`],
        ]),
      ],
    }),
    (run) => run('pdftotext', '-bbox'),
  );
  const width = Number(/<page width="([\d.]+)"/.exec(words)![1]);
  const boxes = [
    ...words.matchAll(/xMin="([\d.]+)" yMin="[\d.]+" xMax="([\d.]+)" yMax="[\d.]+">([^<]*)</g),
  ].map(([, from, to, word]) => ({ from: Number(from), to: Number(to), word: word! }));
  const column = Math.min(...boxes.filter((b) => b.word === 'beside').map((b) => b.from));
  expect(boxes.filter((b) => /^(?:SLW|x)/.test(b.word) && b.word !== 'SLW').length).toBeGreaterThan(2);
  for (const b of boxes.filter((x) => /^(?:SLW_|x+$)/.test(x.word))) expect(b.to).toBeLessThan(column);
  for (const b of boxes) expect(b.to).toBeLessThan(width - 30);
  // It is broken after a part of it, and all of it is there.
  expect(boxes.map((b) => b.word)).toContain('side_of_the_river.MOV');
  expect(boxes.map((b) => b.word).join('')).toContain(long);
});

const JPEG = () =>
  execFileSync(
    'ffmpeg',
    ['-v', 'error', '-f', 'lavfi', '-i', 'color=red:s=240x134', '-frames:v', '1', '-f', 'mjpeg', '-'],
    { encoding: 'buffer' },
  );

test('pictures are in it; a damaged one and one that is not there are said to be none, and spoil nothing', async () => {
  const whole = JPEG();
  const tiles = ['a', 'half', 'none', 'other'].map((picture) => ({ picture, name: picture, lines: ['x'] }));
  const sheet = report({ kind: 'sheet', sections: [{ heading: 'B001', about: '', more: [], tiles }] });
  const pictures = new Map([
    ['a', whole.toString('base64')],
    ['half', whole.subarray(0, whole.length >> 1).toString('base64')],
    ['other', Buffer.from('not a picture at all').toString('base64')],
  ]);
  const [list, text] = await opened(
    sheet,
    (run) => [run('pdfimages', '-list').split('\n'), run('pdftotext')] as const,
    pictures,
  );
  expect(list.filter((l) => /\bjpeg\b/.test(l))).toHaveLength(1);
  expect(text.match(/no picture/g)).toHaveLength(3);
});

test('a report without anything says so', async () => {
  expect(await textOf(report())).toContain('There are none.');
});
