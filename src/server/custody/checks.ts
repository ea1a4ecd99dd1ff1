import { eq, sql } from 'drizzle-orm';
import type { CheckFolder, CheckReport } from '../../core/custody/shapes';
import type { CopyReading, FileHash } from '../../core/custody/proof';
import { shownPath } from '../../core/platform/names';
import { checkFolder, checkRecorded, type FoundFile, type Recorded } from '../transfer';
import { physicalCards, safeCopies } from './tables';
import { Interrupted, isCode, NotFound, Refused } from '../platform/errors';
import { type OnVolume, onVolume, requireVolume } from '../platform/files/onVolume';
import { resolveIn } from '../platform/files/paths';
import type { InJob, Ports } from './ports';
import { alone, type TaskContext } from '../platform/work/context';
import { writeLog } from '../logbook';
import { type Root, rootById } from '../places';
import { cardHashes, findCopy, readingsOf } from './copies';
import { manifestOf } from './physicalCards';

/** Checks that run in a runtime, by the copy's id: share done. */
const running = new WeakMap<Ports['db'], Map<string, { share: number }>>();
const runningIn = (runtime: InJob) => {
  const known = running.get(runtime.db) ?? new Map<string, { share: number }>();
  running.set(runtime.db, known);
  return known;
};

/** Share of a copy's check that runs; `null` where none does. */
export const checking = (runtime: InJob, copy: string): number | null =>
  runningIn(runtime).get(copy)?.share ?? null;

/** Queues the check of a safe copy: one at a time on a root, for two would keep each other's disk busy. Throws NotFound. */
export async function beginCheck(runtime: InJob, id: string): Promise<{ task: string }> {
  const [row] = await runtime.db
    .select({ root: safeCopies.root })
    .from(safeCopies)
    .where(eq(safeCopies.id, id));
  if (!row) throw new NotFound('There is no such copy.');
  return runtime.queue.begin({ kind: 'check', job: runtime.job, subject: id, needs: [`root ${row.root}`] });
}

/**
 * Reads every file of a safe copy again and compares it with what was recorded while copying; the hash list beside it is heard as
 * a second witness. Each finding is kept as a row, and a generation is added to the lists.
 */
export async function checkAgain(
  runtime: InJob,
  id: string,
  task: TaskContext = alone(),
): Promise<CheckReport> {
  const [row] = await runtime.db.select().from(safeCopies).where(eq(safeCopies.id, id));
  if (!row) throw new NotFound('There is no such copy.');
  if (runningIn(runtime).has(id)) throw new Refused('This copy is already being checked.');
  const now = { share: 0 };
  runningIn(runtime).set(id, now);
  runtime.events.changed('copies');
  try {
    const [physical] = await runtime.db
      .select()
      .from(physicalCards)
      .where(eq(physicalCards.id, row.physical));
    const root = await rootById(runtime, row.root);
    const at = await resolveIn(root, row.folder);
    const volume = await onVolume(root.path).catch(() => null);
    const place = await findCopy(runtime, row, root);
    if (!place || !volume)
      throw new NotFound(`The copy of ${physical!.label} on ${root.name} is offline.`, {
        file: at,
        next: 'Connect its drive, then check again.',
      });
    const hashes = await cardHashes(runtime, row.physical);
    const paths = new Map((await manifestOf(runtime.db, row.physical)).map((f) => [f.number, f]));
    const recorded = (await readingsOf(runtime, id)).flatMap((r): Recorded[] => {
      const file = paths.get(r.number)!;
      const hash: FileHash | undefined = (hashes.get(r.number) ?? []).find((h) => h.kind === row.hash);
      return hash ? [{ number: r.number, path: file.path, size: file.size, hash }] : [];
    });
    const { report, found } = await whileThere(root, volume, () =>
      checkRecorded(at, recorded, {
        kind: row.hash,
        gate: task.gate,
        progress: (done, total) => {
          task.progress(done, total);
          now.share = total > 0 ? done / total : 1;
        },
      }),
    );
    const after = await findCopy(runtime, row, root);
    if (!after || JSON.stringify(after.disk.disks) !== JSON.stringify(place.disk.disks)) {
      throw new Interrupted(
        `Another drive came to the place of ${root.name} while it was read: it does not count.`,
        { file: at, next: 'Leave the drive where it is, and check again.' },
      );
    }
    await keepFindings(runtime, id, row.hash, found);
    await runtime.db.update(safeCopies).set({ check: report, disk: place.disk }).where(eq(safeCopies.id, id));
    await runtime.keepNow();
    await writeLog(
      runtime,
      'check',
      `Checked the copy of ${physical!.label} on ${root.name}: ${sentence(report)}`,
    );
    return report;
  } catch (e) {
    if (isCode(e, 'STOPPED'))
      throw new Interrupted('The check was stopped: it does not count.', {
        next: 'Check again when there is time.',
      });
    throw e;
  } finally {
    runningIn(runtime).delete(id);
    runtime.events.changed('copies', 'log', 'cards');
  }
}

/** Reads what is in a root. Throws Interrupted where its volume was taken away meanwhile: what was not found then is not missing. */
const whileThere = <T>(root: Root, volume: OnVolume, read: () => Promise<T>): Promise<T> =>
  read().finally(() =>
    requireVolume(volume).catch(() => {
      throw new Interrupted(`${root.name} was taken away while it was read: it does not count.`, {
        file: root.path,
        next: 'Connect its drive, then check again.',
      });
    }),
  );

const PAGE = 2000;

async function keepFindings(
  runtime: InJob,
  copy: string,
  kind: FileHash['kind'],
  found: readonly FoundFile[],
): Promise<void> {
  const at = new Date().toISOString();
  await runtime.db.transaction(async (tx) => {
    for (let i = 0; i < found.length; i += PAGE) {
      const rows = found.slice(i, i + PAGE).map((f) => ({
        number: f.number,
        result: resultOf(f),
        value: f.value,
        size: f.size,
        modified: f.modified,
      }));
      await tx.execute(sql`insert into copy_readings (copy, number, at, how, result, kind, value, size, modified)
        select ${copy}, r.number, ${at}::timestamptz, 'check', r.result, ${kind}, r.value, r.size, r.modified
        from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as r(number int, result text, value text, size bigint, modified bigint)`);
      await new Promise((r) => setImmediate(r));
    }
  });
}

const resultOf = (f: FoundFile): CopyReading['result'] => (f.result === 'same' ? 'read' : f.result);

export const sentence = (r: CheckReport): string =>
  [
    `${r.same} the same`,
    `${r.changed.length} changed`,
    `${r.missing.length} missing`,
    `${r.added.length} new`,
    ...(r.unreadable.length > 0 ? [`${r.unreadable.length} unreadable`] : []),
    ...(r.unchecked.length > 0 ? [`${r.unchecked.length} without a hash known here`] : []),
    ...(r.witness === 'altered'
      ? ['the hash list does not agree']
      : r.witness === 'missing'
        ? ['the hash list is missing']
        : []),
    ...r.lists,
  ].join(', ');

/** Checks any folder below a root against its own lists, or one made elsewhere. Nothing is written. */
export async function checkAnyFolder(
  runtime: InJob,
  { root: rootId, folder, list }: CheckFolder,
  task: TaskContext = alone(),
): Promise<CheckReport> {
  const root = await rootById(runtime, rootId);
  const at = await resolveIn(root, folder);
  const beside = list ? { list: await resolveIn(root, list) } : {};
  const report = await whileThere(root, await onVolume(root.path), () =>
    checkFolder(at, { kind: 'xxh128', gate: task.gate, progress: task.progress, ...beside }),
  );
  await writeLog(
    runtime,
    'check',
    `Checked ${root.name}/${shownPath(folder)} against ${report.list}: ${sentence(report)}`,
  );
  runtime.events.changed('log');
  return report;
}
