import { and, eq } from 'drizzle-orm';
import pMap from 'p-map';
import { type Report, REPORT_WORDS, reportPage, type ReportRequest } from '../../../core/handover';
import { formatCount } from '../../../core/platform/words';
import { posterOf } from '../../analysis';
import { clips } from '../../cards/tables';
import { requireJob } from '../../jobs';
import { among } from '../../platform/db/among';
import { Refused } from '../../platform/errors';
import { Threads } from '../../platform/threads';
import type { InJob } from '../ports';
import { fileName } from '../fileName';
import { reportNow } from './gather';
import type { PdfTask } from './pdf';

/** Lines, and pictures, beyond which a report is refused: nobody turns so many pages, and all of them are in memory at once. */
const MOST = { lines: 20_000, pictures: 5_000 };
/** Pictures read at once. */
const AT_ONCE = 8;
/** Milliseconds: thousands of pages take seconds. */
const LONGEST = 180_000;

const threads = new Threads('.cache/threads/report.mjs', 1);
export const endReports = (): Promise<void> => threads.end();

export type ReportFormat = 'html' | 'pdf';
/** A report as a file. */
export interface ReportFile {
  name: string;
  type: string;
  body: string | Uint8Array;
}

/** The clips of which a report shows a picture. */
const picturedIn = (report: Report): string[] => [
  ...new Set(
    report.sections.flatMap((s) => [
      ...(s.tiles ?? []).map((t) => t.picture),
      ...(s.table?.rows ?? [])
        .flat()
        .flatMap((c) => (typeof c === 'object' && 'picture' in c ? [c.picture] : [])),
    ]),
  ),
];

/** The middle picture of each, as JPEG in base64; those of which none was made are left out. */
async function picturesOf(runtime: InJob, wanted: readonly string[]): Promise<Map<string, string>> {
  const made = await runtime.db
    .select({ clip: clips.id })
    .from(clips)
    .where(and(eq(clips.filmstrip, true), among(clips.id, wanted)));
  const read = await pMap(
    made,
    async ({ clip }) => {
      const jpeg = await posterOf(runtime, clip).catch(() => null);
      return jpeg && ([clip, Buffer.from(jpeg).toString('base64')] as const);
    },
    { concurrency: AT_ONCE },
  );
  return new Map(read.filter((r) => r !== null));
}

/** The report as a page or a PDF, as of now. Throws NotFound where what names the set is gone, and Refused where it would be too long. */
export async function makeReport(
  runtime: InJob,
  request: ReportRequest,
  format: ReportFormat,
): Promise<ReportFile> {
  const report = await reportNow(runtime, request);
  const lines = report.sections.reduce((n, s) => n + (s.table?.rows.length ?? 0), 0);
  const pictured = picturedIn(report);
  if (lines > MOST.lines || pictured.length > MOST.pictures)
    throw new Refused(
      `This report would have ${formatCount(lines)} lines and ${formatCount(pictured.length)} pictures; at most ${formatCount(MOST.lines)} and ${formatCount(MOST.pictures)} are put in one.`,
      { next: 'Choose a day, a card, a bin or a search.' },
    );
  const pictures = await picturesOf(runtime, pictured);
  const job = await requireJob(runtime);
  const name = fileName(
    [job.code, REPORT_WORDS[request.kind].name, request.set.kind === 'job' ? '' : report.of]
      .filter(Boolean)
      .join(' '),
  );
  if (format === 'html')
    return { name: `${name}.html`, type: 'text/html; charset=utf-8', body: reportPage(report, pictures) };
  const task: PdfTask = { report, pictures };
  const body = await threads.run<Uint8Array>('pdf', task, LONGEST);
  return { name: `${name}.pdf`, type: 'application/pdf', body };
}
