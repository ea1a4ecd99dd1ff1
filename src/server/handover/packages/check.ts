import { eq, sql } from 'drizzle-orm';
import type { CheckReport } from '../../../core/custody';
import { shownPath } from '../../../core/platform/names';
import { plural } from '../../../core/platform/words';
import { writeLog } from '../../logbook';
import { rootById } from '../../places';
import { Interrupted, NotFound } from '../../platform/errors';
import type { Writer } from '../../platform/db/transaction';
import { lstat } from '../../platform/files/onDisk';
import { resolveIn } from '../../platform/files/paths';
import type { TaskContext } from '../../platform/work/context';
import { checkRecorded, type FoundFile, type Recorded } from '../../transfer';
import type { InJob } from '../ports';
import { packageFiles, packages } from '../tables';
import { HASH, isThere, packageOf } from './kept';

/**
 * Reads every file of a package at its place again and compares it with what was recorded when it was sent; the hash list beside it is a
 * second witness. Throws NotFound where the place is not connected, STOPPED where it was stopped.
 */
export async function checkPackage(runtime: InJob, id: string, task: TaskContext): Promise<CheckReport> {
  const row = await packageOf(runtime, id);
  const root = await rootById(runtime, row.root);
  const at = await resolveIn(root, row.folder);
  const isHere = async (): Promise<boolean> =>
    (await isThere(runtime, row)) && (await lstat(at).catch(() => null)) !== null;
  if (!(await isHere()))
    throw new NotFound(`${row.name} is not in ${root.name}/${shownPath(row.folder)} now.`, {
      file: at,
      next: 'Connect its drive, then check again.',
    });
  const files = await runtime.db.select().from(packageFiles).where(eq(packageFiles.package, id));
  const { report, found } = await checkRecorded(
    at,
    files.flatMap((f): Recorded[] =>
      f.hash === null || f.stoodSize === null
        ? []
        : [{ number: f.number, path: f.place, size: f.stoodSize, hash: { kind: HASH, value: f.hash } }],
    ),
    { kind: HASH, gate: task.gate, progress: task.progress },
  );
  // What was not found then is missing only from another drive, or from none.
  if (!(await isHere()))
    throw new Interrupted(`${root.name} was taken away while ${row.name} was read: it does not count.`, {
      file: at,
      next: 'Connect its drive, then check again.',
    });
  await runtime.db.transaction(async (tx) => {
    await tx.update(packages).set({ check: report }).where(eq(packages.id, id));
    await noLongerVerified(tx, id, found);
  });
  const wrong = [
    [report.changed.length, 'changed'],
    [report.missing.length, 'missing'],
    [report.unreadable.length, 'unreadable'],
  ] as const;
  await writeLog(
    runtime,
    'handover',
    `Checked ${row.name} in ${root.name}/${shownPath(row.folder)}: ${[
      `${plural(report.same, 'file')} as they were sent`,
      ...wrong.filter(([n]) => n > 0).map(([n, what]) => `${n} ${what}`),
    ].join(', ')}`,
  );
  runtime.events.changed('packages', 'log');
  return report;
}

const WRONG: Partial<Record<FoundFile['result'], string>> = {
  missing: 'It is no longer there. Send what is new: it goes again.',
  unreadable: 'It could not be read there. Send what is new: it goes again.',
};

/** What was not found as it was sent counts as verified no more, and goes again with the next sending. */
async function noLongerVerified(tx: Writer, id: string, found: readonly FoundFile[]): Promise<void> {
  const rows = found
    .filter((f) => f.result !== 'same')
    .map(({ number, result }) => ({
      number,
      fault: WRONG[result] ?? 'It does not hold what was sent. Send what is new: it goes again.',
    }));
  await tx.execute(sql`
    update package_files f set state = 'failed', fault = r.fault
    from json_to_recordset(${JSON.stringify(rows)}::json) as r(number int, fault text)
    where f.package = ${id} and f.number = r.number and f.state = 'verified'`);
}
