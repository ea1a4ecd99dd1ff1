import { sql } from 'drizzle-orm';
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { cached } from '../../src/server/analysis';
import { clips } from '../../src/server/cards/tables';
import { allUpToDate } from '../../src/server/facts';
import { endReports, makeReport } from '../../src/server/handover';
import { testShelf } from '../../src/server/testing/media';
import { storeJobOfMany } from '../../src/server/testing/manyClips';

const PICTURES = 40;

/** Seconds that a contact sheet of so many clips takes as a PDF, each with a picture that differs, and what poppler's programs find in it. */
export async function sheetOf(n: number): Promise<{ seconds: number; found: string }> {
  const shelf = await testShelf({ kept: true });
  const folder = mkdtempSync(path.join(tmpdir(), 'shelf-bench-'));
  try {
    const { runtime } = shelf;
    await storeJobOfMany(runtime, path.join(shelf.dir, 'cards'), n);
    await allUpToDate(runtime);
    await runtime.db.execute(sql`update clips set filmstrip = true`);
    const source = 'mandelbrot=s=480x270:rate=1:start_scale=3';
    execFileSync('ffmpeg', [
      ...['-v', 'error', '-f', 'lavfi', '-i', source, '-frames:v', String(PICTURES), '-q:v', '4'],
      path.join(folder, '%d.jpg'),
    ]);
    const pictures = Array.from({ length: PICTURES }, (_, i) =>
      readFileSync(path.join(folder, `${i + 1}.jpg`)),
    );
    mkdirSync(path.dirname(cached(runtime, 'posters', '')), { recursive: true });
    for (const [i, { id }] of (await runtime.db.select({ id: clips.id }).from(clips)).entries()) {
      // A comment in it (ITU-T T.81) makes each another one.
      const jpeg = pictures[i % PICTURES]!;
      const comment = Buffer.from([0xff, 0xfe, 0, 6, ...Buffer.from(String(i).padStart(4, '0'))]);
      writeFileSync(
        cached(runtime, 'posters', id),
        Buffer.concat([jpeg.subarray(0, 2), comment, jpeg.subarray(2)]),
      );
    }
    const begun = performance.now();
    const { body } = await makeReport(runtime, { kind: 'sheet', set: { kind: 'job' } }, 'pdf');
    const seconds = (performance.now() - begun) / 1000;
    const file = path.join(folder, 'sheet.pdf');
    writeFileSync(file, body);
    const drawn = execFileSync('pdfimages', ['-list', file], { encoding: 'utf8' }).match(/\bjpeg\b/g)?.length;
    const [, pages] = /Pages:\s+(\d+)/.exec(execFileSync('pdfinfo', [file], { encoding: 'utf8' }))!;
    if (drawn !== n) throw new Error(`${drawn} of ${n} pictures are in it`);
    return { seconds, found: `${drawn} pictures on ${pages} pages, ${(body.length / 1e6).toFixed(1)} MB` };
  } finally {
    await endReports();
    await shelf.close();
    rmSync(folder, { recursive: true });
  }
}
