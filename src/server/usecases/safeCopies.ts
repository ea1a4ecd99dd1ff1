import { and, desc, eq, ne } from 'drizzle-orm';
import path from 'node:path';
import { type CheckFolder, type CheckReport, isUnderWay, type Receipt, type SafeCopyView, type WipeView } from '../../core/copying/shapes';
import { type Cannot, type CardCopy, type CardFile, mayBeWiped } from '../../core/copying/wipe';
import type { Verification } from '../../core/copying/verification';
import { shownPath } from '../../core/names';
import { cards, offloads, safeCopies } from '../db/schema';
import { checkFolder } from '../copy/checkCopy';
import { filesOf, type OffloadFile } from '../copy/fileList';
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

type KnownFile = Pick<OffloadFile, 'path' | 'size' | 'to' | 'state' | 'hash' | 'fault'>;

/** The files of copyings, each copying's once. */
async function filesOfEach(runtime: Runtime, offloadIds: readonly string[]): Promise<Map<string, KnownFile[]>> {
  const out = new Map<string, KnownFile[]>();
  for (const id of new Set(offloadIds)) {
    const list: KnownFile[] = [];
    for await (const page of filesOf(runtime, id, ['waiting', 'verified', 'failed', 'left'])) list.push(...page.map(({ path, size, to, state, hash, fault }) => ({ path, size, to, state, hash, fault })));
    out.set(id, list);
  }
  return out;
}

interface KnownCopy { row: CopyRow; view: SafeCopyView; holds: Map<string, KnownFile> }

async function copyViews(runtime: Runtime, rows: readonly CopyRow[], lists: ReadonlyMap<string, KnownFile[]>): Promise<KnownCopy[]> {
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  return Promise.all(rows.map(async (row) => {
    const root: Root | undefined = roots.get(row.root);
    const place = path.join(root?.path ?? '', row.folder);
    const volume = await runtime.devices.volumeOf(place);
    const holds = new Map((lists.get(row.offload) ?? []).filter((f) => f.state === 'verified' && f.to.includes(row.destination)).map((f) => [f.path, f]));
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

/** What could not be copied, by any copying; what could not be looked at, when the card was offered last. */
function cannotOf(newestFirst: readonly (typeof offloads.$inferSelect)[]): Cannot[] {
  const all = newestFirst.flatMap((o, i) => o.cannot.filter((c) => !c.unread || i === 0)).map((c) => ({ ...c, path: shownPath(c.path) }));
  return [...new Map(all.map((c) => [c.path, c])).values()];
}

/** May this card be wiped? Every file that stood on it when it was offered, against every copy there is. */
export async function receipt(runtime: Runtime, cardId: string): Promise<Receipt> {
  const job = await theJob(runtime);
  const offloadRows = await runtime.db.select().from(offloads).where(and(eq(offloads.card, cardId), ne(offloads.state, 'cancelled'))).orderBy(desc(offloads.queuedAt));
  const [card] = await runtime.db.select().from(cards).where(eq(cards.id, cardId));
  if (!card && offloadRows.length === 0) throw new NotFound(`There is no card ${cardId} in this job.`, { next: 'Go back to the Wall.' });
  const copyRows = await runtime.db.select().from(safeCopies).where(eq(safeCopies.card, cardId)).orderBy(safeCopies.verifiedAt);
  const lists = await filesOfEach(runtime, [...offloadRows.map((o) => o.id), ...copyRows.map((c) => c.offload)]);
  const copies = await copyViews(runtime, copyRows, lists);
  const onCard = new Map<string, CardFile>();
  for (const o of offloadRows) {
    for (const f of lists.get(o.id)!) {
      const old = onCard.get(f.path);
      if (!old || (old.left && f.state !== 'left') || (old.fault !== null && f.fault === null)) onCard.set(f.path, { path: f.path, size: f.size, fault: f.fault, left: f.state === 'left' });
    }
  }
  const partial = offloadRows.some((o) => o.destinations.every((d) => d.kind === 'shelf'));
  const answer = mayBeWiped([...onCard.values()], copies.map(({ view, holds }): CardCopy => ({
    id: view.id, place: `${view.rootName}: ${view.folder}`, volume: view.volume, volumeName: view.volumeName, verification: view.verification, kind: view.hash, verifiedAt: view.verifiedAt,
    holds: new Set(holds.keys()), present: view.present, spoilt: spoiltOf(view.check),
  })), cannotOf(offloadRows), offloadRows.some((o) => isUnderWay(o.state) && o.state !== 'naming'));
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
