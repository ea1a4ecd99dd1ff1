import { and, desc, eq, ne } from 'drizzle-orm';
import path from 'node:path';
import { type CheckFolder, type CheckReport, isUnderWay, type Receipt, type SafeCopyView, type WipeView } from '../../core/copying/shapes';
import { type CardCopy, mayBeWiped } from '../../core/copying/wipe';
import type { Verification } from '../../core/copying/verification';
import { shownPath } from '../../core/names';
import { cards, offloadFiles, offloads, safeCopies } from '../db/schema';
import { checkFolder } from '../copy/checkCopy';
import { NotFound, Refused } from '../errors';
import { resolveIn } from '../files/paths';
import type { Runtime } from '../runtime';
import { theJob } from './job';
import { writeLog } from './log';
import { listRoots, type Root, rootById } from './roots';

type CopyRow = typeof safeCopies.$inferSelect;

/** Checks that run, by the copy's id: share done, and the sign to stop. */
const running = new Map<string, { share: number; gate: SharedArrayBuffer }>();

const spoiltOf = (r: CheckReport | null): number => (r ? r.changed.length + r.missing.length + r.unreadable.length : 0);

/** A check that read every byte proves by contents what was compared by sizes before. */
const provenBy = (row: CopyRow): Verification => (row.verification === 'sizes' && row.check && spoiltOf(row.check) === 0 && row.check.unchecked.length === 0 ? 'contents' : row.verification);

/** Checks a safe copy again against its hash lists and adds a generation to them. */
export async function checkAgain(runtime: Runtime, id: string): Promise<CheckReport> {
  const [row] = await runtime.db.select().from(safeCopies).where(eq(safeCopies.id, id));
  if (!row) throw new NotFound('This copy is not known.');
  if (running.has(id)) throw new Refused('This copy is being checked already.');
  const root = await rootById(runtime, row.root);
  const at = await resolveIn(root, row.folder);
  if (!(await runtime.devices.volumeOf(at))) throw new NotFound(`The copy of ${row.card} on ${root.name} is not there.`, { file: at, next: 'Connect the volume.' });
  const now = { share: 0, gate: new SharedArrayBuffer(8) };
  running.set(id, now);
  runtime.events.changed('copies');
  try {
    const report = await checkFolder(at, {
      kind: row.hash, record: true, gate: now.gate,
      progress: (done, total) => {
        now.share = total > 0 ? done / total : 1;
        runtime.events.changed('copies');
      },
    });
    await runtime.db.update(safeCopies).set({ check: report, ...(spoiltOf(report) === 0 ? { verifiedAt: new Date(report.at) } : {}) }).where(eq(safeCopies.id, id));
    await writeLog(runtime, 'check', `Checked the copy of ${row.card} on ${root.name}: ${sentence(report)}`);
    return report;
  } finally {
    running.delete(id);
    runtime.events.changed('copies', 'log', 'cards');
  }
}

export const sentence = (r: CheckReport): string =>
  [`${r.same} the same`, `${r.changed.length} changed`, `${r.missing.length} missing`, `${r.added.length} new`, ...(r.unreadable.length > 0 ? [`${r.unreadable.length} unreadable`] : []), ...(r.unchecked.length > 0 ? [`${r.unchecked.length} without a hash known here`] : []), ...r.lists].join(', ');

/** Checks any folder below a root against its own lists, or one made elsewhere. Nothing is written. */
export async function checkAnyFolder(runtime: Runtime, { root: rootId, folder, list }: CheckFolder): Promise<CheckReport> {
  const root = await rootById(runtime, rootId);
  const at = await resolveIn(root, folder);
  const report = await checkFolder(at, { kind: 'xxh128', record: false, gate: new SharedArrayBuffer(8), progress: () => undefined, ...(list ? { list: await resolveIn(root, list) } : {}) });
  await writeLog(runtime, 'check', `Checked ${path.join(root.name, folder)} against ${report.list}: ${sentence(report)}`);
  runtime.events.changed('log');
  return report;
}

async function copyViews(runtime: Runtime, rows: readonly CopyRow[]): Promise<{ row: CopyRow; view: SafeCopyView; holds: Map<string, { size: number; hash: string }> }[]> {
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  return Promise.all(rows.map(async (row) => {
    const root: Root | undefined = roots.get(row.root);
    const place = path.join(root?.path ?? '', row.folder);
    const volume = await runtime.devices.volumeOf(place);
    const held = await runtime.db.select().from(offloadFiles).where(and(eq(offloadFiles.offload, row.offload), eq(offloadFiles.state, 'verified')));
    const holds = new Map(held.filter((f) => f.to.includes(row.destination)).map((f) => [f.path, { size: f.size, hash: f.hash! }]));
    return {
      row, holds, view: {
        id: row.id, root: row.root, rootName: root?.name ?? row.root, folder: row.folder, place, present: volume !== null, volume: volume?.id ?? 'unknown', volumeName: volume?.name ?? root?.name ?? 'unknown',
        standIn: volume?.standIn ?? false, verification: provenBy(row), hash: row.hash, verifiedAt: row.verifiedAt.toISOString(),
        files: holds.size, bytes: [...holds.values()].reduce((n, f) => n + f.size, 0),
        check: row.check, checking: running.get(row.id)?.share ?? null,
      },
    };
  }));
}

/** How many safe copies each card has. */
export async function safeCopyCounts(runtime: Pick<Runtime, 'db'>): Promise<Map<string, number>> {
  const out = new Map<string, number>();
  for (const r of await runtime.db.select({ card: safeCopies.card }).from(safeCopies)) out.set(r.card, (out.get(r.card) ?? 0) + 1);
  return out;
}

/** May this card be wiped? Every file that stood on it when it was offered, against every copy there is. */
export async function receipt(runtime: Runtime, cardId: string): Promise<Receipt> {
  const job = await theJob(runtime);
  const offloadRows = await runtime.db.select().from(offloads).where(and(eq(offloads.card, cardId), ne(offloads.state, 'cancelled'))).orderBy(desc(offloads.queuedAt));
  const [card] = await runtime.db.select().from(cards).where(eq(cards.id, cardId));
  if (!card && offloadRows.length === 0) throw new NotFound(`There is no card ${cardId} in this job.`, { next: 'Go back to the Wall.' });
  const copies = await copyViews(runtime, await runtime.db.select().from(safeCopies).where(eq(safeCopies.card, cardId)).orderBy(safeCopies.verifiedAt));
  const onCard = new Map<string, { path: string; size: number; fault: string | null }>();
  for (const o of offloadRows) {
    for (const f of await runtime.db.select().from(offloadFiles).where(eq(offloadFiles.offload, o.id)).orderBy(offloadFiles.number)) {
      const old = onCard.get(f.path);
      if (!old || (old.fault !== null && f.fault === null)) onCard.set(f.path, { path: f.path, size: f.size, fault: f.fault });
    }
  }
  const partial = offloadRows.some((o) => o.destinations.every((d) => d.kind === 'shelf'));
  const answer = mayBeWiped([...onCard.values()], copies.map(({ view, holds }): CardCopy => ({
    id: view.id, place: `${view.rootName}: ${view.folder}`, volume: view.volume, volumeName: view.volumeName, verification: view.verification, kind: view.hash, verifiedAt: view.verifiedAt,
    holds: new Set(holds.keys()), present: view.present, spoilt: spoiltOf(view.check),
  })), [...new Set(offloadRows.flatMap((o) => o.cannot.map((c) => shownPath(c.path))))], offloadRows.some((o) => isUnderWay(o.state) && o.state !== 'naming'));
  if (copies.some((c) => c.view.standIn)) answer.notes.push('Volumes marked “stand-in” are folders that play the part of drives in the demonstration.');
  if (partial) answer.notes.push('A copying to the shelf alone makes a working copy, which does not count.');
  return {
    card: cardId, camera: card?.camera ?? '', day: card?.day ?? 0, at: new Date().toISOString(), job: job.name, code: job.code, ...answer, files: onCard.size,
    bytes: [...onCard.values()].reduce((n, f) => n + f.size, 0), copies: copies.map((c) => c.view), shelf: offloadRows.some((o) => o.destinations.some((d) => d.kind === 'shelf')),
    list: [...onCard.values()].map((f) => {
      const in_ = copies.filter((c) => c.holds.has(f.path));
      return { path: shownPath(f.path), size: f.size, hash: in_[0]?.holds.get(f.path)?.hash ?? null, kind: in_[0]?.view.hash ?? null, copies: in_.length };
    }),
  };
}

/** The answer without the list of files. */
export async function wipeView(runtime: Runtime, cardId: string): Promise<WipeView> {
  const { list: _, ...view } = await receipt(runtime, cardId);
  return view;
}
