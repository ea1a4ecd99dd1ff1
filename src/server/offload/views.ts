import { and, asc, desc, eq, inArray, isNotNull } from 'drizzle-orm';
import { type OffloadDetail, type OffloadView } from '../../core/offload/shapes';
import { shownPath } from '../../core/platform/names';
import { cards } from '../cards/tables';
import { offloadFiles, offloads } from './tables';
import { type OffloadFile, tallies } from './fileList';
import { joinPath } from '../platform/files/names';
import type { InJob } from './ports';
import { isAway, listRoots, type Root } from '../places';

import { offloadOf } from './act';

interface Tally {
  verified: number;
  failed: number;
  bytes: number;
}
function viewOf(
  row: typeof offloads.$inferSelect,
  roots: ReadonlyMap<string, Root>,
  tally: Tally | undefined,
  label: string | undefined,
): OffloadView {
  return {
    id: row.id,
    card: label ?? row.card,
    physical: row.physical,
    from: `${roots.get(row.root)?.name ?? row.root}${row.folder ? ` / ${shownPath(row.folder)}` : ''}`,
    state: row.state,
    verification: row.verification,
    hash: row.hash,
    destinations: row.destinations.map((d) => ({
      ...d,
      rootName: roots.get(d.root)?.name ?? d.root,
      place: shownPath(joinPath(roots.get(d.root)?.path ?? '', d.folder)),
    })),
    files: row.files,
    bytes: row.bytes,
    verified: tally?.verified ?? 0,
    failed: tally?.failed ?? 0,
    verifiedBytes: tally?.bytes ?? 0,
    fault: row.fault,
    speed: row.speed,
    startedAt: row.startedAt?.toISOString() ?? null,
    endedAt: row.endedAt?.toISOString() ?? null,
    cannot: row.cannot.map((c) => ({ path: shownPath(c.path), reason: c.reason })),
  };
}

/** What each physical card is called now: an id that was corrected is said as it is. */
async function labelsOf(runtime: InJob): Promise<Map<string, string>> {
  const rows = await runtime.db
    .select({ id: cards.id, physical: cards.physical })
    .from(cards)
    .where(and(eq(cards.job, runtime.job), isNotNull(cards.physical)))
    .orderBy(desc(cards.id));
  return new Map(rows.map((r) => [r.physical!, r.id]));
}

/** The copies of this job, the newest first. */
export async function offloadViews(runtime: InJob): Promise<OffloadView[]> {
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const [rows, tally] = [
    await runtime.db
      .select()
      .from(offloads)
      .where(eq(offloads.job, runtime.job))
      .orderBy(desc(offloads.queuedAt))
      .limit(200),
    await tallies(runtime),
  ];
  const labels = await labelsOf(runtime);
  return rows.map((r) => viewOf(r, roots, tally.get(r.id), labels.get(r.physical)));
}

/** One copy with its files: those that failed or are noted first, then those that wait; at most 500. */
export async function offloadDetail(runtime: InJob, id: string): Promise<OffloadDetail> {
  const row = await offloadOf(runtime, id);
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const list: OffloadFile[] = [];
  const of = (...states: OffloadFile['state'][]) =>
    runtime.db
      .select()
      .from(offloadFiles)
      .where(and(eq(offloadFiles.offload, id), inArray(offloadFiles.state, states)))
      .orderBy(asc(offloadFiles.number))
      .limit(500 - list.length);
  list.push(...(await of('failed')));
  if (list.length < 500)
    list.push(
      ...(await runtime.db
        .select()
        .from(offloadFiles)
        .where(
          and(eq(offloadFiles.offload, id), eq(offloadFiles.state, 'verified'), isNotNull(offloadFiles.note)),
        )
        .limit(500 - list.length)),
    );
  if (list.length < 500) list.push(...(await of('verified', 'waiting')).filter((f) => f.note === null));
  const view = viewOf(
    row,
    roots,
    (await tallies(runtime)).get(id),
    (await labelsOf(runtime)).get(row.physical),
  );
  const away = (root: Root | undefined) => root !== undefined && isAway(runtime, root);
  return {
    ...view,
    destinations:
      row.state === 'waiting'
        ? await Promise.all(
            view.destinations.map(async (d) => ({ ...d, away: await away(roots.get(d.root)) })),
          )
        : view.destinations,
    rates: runtime.meter.ratesOf(id),
    list: list.map((f) => ({
      path: shownPath(f.path),
      size: f.size,
      state: f.state as Exclude<OffloadFile['state'], 'left'>,
      hash: f.hash,
      fault: f.fault,
      note: f.note,
    })),
  };
}
