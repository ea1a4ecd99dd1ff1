import { and, eq, inArray, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import type { Item, NewPackage, PackageAction, SendingState } from '../../../core/handover';
import { sentKey } from '../../../core/handover';
import { OPEN_WORK } from '../../../core/platform/shapes';
import { formatBytes, plural } from '../../../core/platform/words';
import { requireJob } from '../../jobs';
import { writeLog } from '../../logbook';
import { among } from '../../platform/db/among';
import type { Writer } from '../../platform/db/transaction';
import { Clash, NotFound, Refused } from '../../platform/errors';
import { work } from '../../platform/work/tables';
import type { InJob, Ports } from '../ports';
import { packageFiles, packages, sendings } from '../tables';
import { isThere, lastSending, packageOf, type PackageRow } from './kept';
import { countsOf, placeFault, type Planned, planned, toCopy } from './plan';

/** Files stored by one statement. */
const BATCH = 2000;
/** States of a sending that is not at its end. */
const UNDER_WAY: readonly SendingState[] = ['queued', 'running', 'paused', 'waiting'];

/** Hands a set over: for the first time to its place, or what is new or has changed since the last time. */
export function sendPackage(runtime: InJob, wanted: NewPackage): Promise<{ id: string }> {
  return runtime.exclusively(async () => {
    const job = await requireJob(runtime);
    const plan = await planned(runtime, wanted);
    if (plan.before) await refuseUnderWay(runtime, plan.before);
    const fault = await placeFault(runtime, wanted, plan);
    if (fault !== null) throw new Refused(fault);
    const id = plan.before?.id ?? randomUUID();
    const bytes = toCopy(plan.compared).reduce((n, i) => n + i.size, 0);
    const number = plan.before ? (await lastSending(runtime, id)).number + 1 : 1;
    const { root, folder } = wanted;
    // What an earlier check found is no more said of what stands there now.
    const about = { name: plan.name, wanted, check: null };
    await runtime.db.transaction(async (tx) => {
      if (plan.before) await tx.update(packages).set(about).where(eq(packages.id, id));
      else await tx.insert(packages).values({ id, job: job.id, ...about, root, folder, madeAt: new Date() });
      await tx.insert(sendings).values({
        ...{ package: id, number, who: runtime.who, state: 'queued', bytes, ...countsOf(plan.compared) },
        ...{ remarks: plan.remarks, queuedAt: new Date() },
      });
      await storeFiles(tx, id, number, plan);
    });
    await writeLog(
      runtime,
      'handover',
      `Started handing over ${plan.name}${wanted.to ? ` to ${wanted.to}` : ''}: ${plural(toCopy(plan.compared).length, 'file')}, ${formatBytes(bytes)}`,
    );
    runtime.events.changed('log', 'packages');
    await queuePackage(runtime, { id, job: job.id, root });
    return { id };
  });
}

async function refuseUnderWay(runtime: InJob, { id, name }: PackageRow): Promise<void> {
  if (UNDER_WAY.includes((await lastSending(runtime, id)).state))
    throw new Clash(`${name} is being handed over to this folder.`, {
      next: 'Let it finish, or cancel it first.',
    });
}

/** What is copied waits; what stands at its place stays as it is noted; what belongs to it no more is said to. */
async function storeFiles(
  tx: Writer,
  id: string,
  sending: number,
  { compared, sent }: Planned,
): Promise<void> {
  const rowOf = new Map(
    sent.map((f) => [sentKey({ file: f.file, what: f.what as Item['what'], image: f.image }), f]),
  );
  const first = (
    await tx.execute<{ n: number }>(
      sql`select coalesce(max(number), 0)::int + 1 as n from package_files where package = ${id}`,
    )
  ).rows[0]!.n;
  let next = first;
  const changed = new Set(compared.changed);
  const rows = toCopy(compared).map((i) => {
    const was = rowOf.get(sentKey(i));
    return {
      ...{ number: was?.number ?? next++, place: i.place, what: i.what, file: i.file, clip: i.clip },
      ...{ root: i.root, path: i.path, on_card: i.onCard, size: i.size, modified: i.modified },
      ...{ image: i.image, replaces: changed.has(i) },
    };
  });
  for (let at = 0; at < rows.length; at += BATCH)
    await tx.execute(sql`
      insert into package_files (package, number, place, what, file, clip, root, path, on_card, size, modified, image, state, sending, replaces)
      select ${id}, r.number, r.place, r.what, r.file, r.clip, r.root, r.path, r.on_card, r.size, r.modified, r.image, 'waiting', ${sending}, r.replaces
      from json_to_recordset(${JSON.stringify(rows.slice(at, at + BATCH))}::json)
        as r(number int, place text, what text, file text, clip text, root text, path text, on_card text, size bigint, modified bigint, image jsonb, replaces boolean)
      on conflict (package, number) do update set clip = excluded.clip, root = excluded.root, path = excluded.path, on_card = excluded.on_card,
        size = excluded.size, modified = excluded.modified, image = excluded.image, state = 'waiting', sending = excluded.sending, replaces = excluded.replaces, fault = null`);
  const of = (places: readonly string[]) =>
    and(eq(packageFiles.package, id), among(packageFiles.place, places));
  // Where they are now, as they may have been moved or named since.
  const back = compared.same.map((i) => i.place);
  await tx.update(packageFiles).set({ state: 'verified' }).where(of(back));
  const left = compared.left.map((f) => f.place);
  await tx.delete(packageFiles).where(and(of(left), sql`hash is null`));
  await tx.update(packageFiles).set({ state: 'left', fault: null }).where(of(left));
}

const queuePackage = (
  { queue }: Pick<Ports, 'queue'>,
  { id, job, root }: Pick<PackageRow, 'id' | 'job' | 'root'>,
  state: 'queued' | 'paused' | 'waiting' = 'queued',
): Promise<{ task: string }> =>
  queue.begin({ job, kind: 'handover', subject: id, needs: [`root ${root}`], state });

/** Queues the sendings that no work is there for, as after a database was rebuilt. */
export async function queuePackages(runtime: Pick<Ports, 'db' | 'queue'>): Promise<void> {
  const open = await runtime.db
    .select({ subject: work.subject })
    .from(work)
    .where(and(eq(work.kind, 'handover'), inArray(work.state, [...OPEN_WORK])));
  const known = new Set(open.map((o) => o.subject));
  const rows = await runtime.db
    .select({ id: packages.id, job: packages.job, root: packages.root, state: sendings.state })
    .from(packages)
    .innerJoin(sendings, eq(sendings.package, packages.id))
    .where(inArray(sendings.state, [...UNDER_WAY]));
  for (const row of rows) {
    if (known.has(row.id)) continue;
    await queuePackage(
      runtime,
      row,
      row.state === 'paused' || row.state === 'waiting' ? row.state : 'queued',
    );
  }
}

export async function actOnPackage(runtime: InJob, id: string, { action }: PackageAction): Promise<void> {
  const row = await packageOf(runtime, id);
  const piece = (await runtime.queue.openFor('handover', id)).map((w) => w.id);
  switch (action) {
    case 'again':
      await sendPackage(runtime, row.wanted);
      return;
    case 'pause':
      await runtime.queue.pause(piece);
      return runtime.queue.ended(piece);
    case 'resume':
      await runtime.queue.resume(piece);
      return;
    case 'cancel':
      await runtime.queue.cancel(piece);
      await runtime.queue.ended(piece);
      await writeLog(runtime, 'handover', `Cancelled handing over ${row.name}: what was verified stays`);
      runtime.events.changed('log', 'packages');
      return;
    case 'retry':
      return retry(runtime, row);
    case 'check':
      await refuseUnderWay(runtime, row);
      if (!(await isThere(runtime, row)))
        throw new NotFound(`The drive that ${row.name} is on is not connected.`, {
          next: 'Connect it, then check again.',
        });
      await runtime.queue.begin({
        ...{ job: row.job, kind: 'checkHandover', subject: id, needs: [`root ${row.root}`] },
      });
  }
}

/** Tries the files again that could not be copied. */
async function retry(runtime: InJob, row: PackageRow): Promise<void> {
  const { number, state } = await lastSending(runtime, row.id);
  if (state !== 'partly') throw new Refused(`No file of ${row.name} has failed.`);
  await runtime.db.transaction(async (tx) => {
    await tx
      .update(packageFiles)
      .set({ state: 'waiting', fault: null })
      .where(and(eq(packageFiles.package, row.id), eq(packageFiles.state, 'failed')));
    await tx
      .update(sendings)
      .set({ state: 'queued', fault: null, endedAt: null })
      .where(and(eq(sendings.package, row.id), eq(sendings.number, number)));
  });
  await queuePackage(runtime, row);
  runtime.events.changed('packages');
}

/** Forgets a package; nothing at its place is touched. */
export async function dropPackage(runtime: InJob, id: string): Promise<void> {
  const row = await packageOf(runtime, id);
  await refuseUnderWay(runtime, row);
  await runtime.db.delete(packages).where(eq(packages.id, id));
  await writeLog(
    runtime,
    'handover',
    `Removed the package ${row.name} from the list; its files stay where they are`,
  );
  runtime.events.changed('log', 'packages');
}
