import { and, count, desc, eq, sql, sum } from 'drizzle-orm';
import type { PackageName, PackageView, SendingView } from '../../../core/handover';
import { HASH_WORDS } from '../../../core/hashLists';
import { shownPath } from '../../../core/platform/names';
import { listRoots } from '../../places';
import { joinPath } from '../../platform/files/names';
import type { Writer } from '../../platform/db/transaction';
import type { InJob } from '../ports';
import { packageFiles, packages, sendings } from '../tables';
import { type PackedFile, remarkViews } from './plan';
import { HASH, packageOf } from './kept';

/** Files that are told one by one. */
const MOST_FILES = 500;

type SendingRow = typeof sendings.$inferSelect;

/** The packages of the job, the one that was sent last first. */
export async function packageNames({ db, job }: InJob): Promise<PackageName[]> {
  const rows = await db
    .select({ of: packages, last: sendings })
    .from(packages)
    .innerJoin(sendings, eq(sendings.package, packages.id))
    .where(
      and(
        eq(packages.job, job),
        sql`${sendings.number} = (select max(s.number) from sendings s where s.package = ${packages.id})`,
      ),
    )
    .orderBy(desc(sendings.queuedAt));
  return rows.map(({ of, last }) => ({
    ...{ id: of.id, name: of.name, to: of.wanted.to, form: of.wanted.form.name },
    ...{ state: last.state, fault: last.fault, sentAt: last.queuedAt.toISOString() },
  }));
}

export async function packageView(runtime: InJob, id: string): Promise<PackageView> {
  const { db } = runtime;
  const row = await packageOf(runtime, id);
  const root = (await listRoots(runtime)).find((r) => r.id === row.root)!;
  const sent = await db
    .select()
    .from(sendings)
    .where(eq(sendings.package, id))
    .orderBy(desc(sendings.number));
  const tally = new Map(
    (
      await db
        .select({
          state: packageFiles.state,
          n: count(),
          bytes: sum(packageFiles.size).mapWith(Number),
        })
        .from(packageFiles)
        .where(eq(packageFiles.package, id))
        .groupBy(packageFiles.state)
    ).map((t) => [t.state, t]),
  );
  const of = (...states: PackedFile['state'][]) => {
    const those = states.flatMap((s) => tally.get(s) ?? []);
    return {
      files: those.reduce((n, t) => n + t.n, 0),
      bytes: those.reduce((n, t) => n + t.bytes, 0),
    };
  };
  const list = await db
    .select()
    .from(packageFiles)
    .where(eq(packageFiles.package, id))
    .orderBy(sql`case state when 'failed' then 0 when 'waiting' then 1 else 2 end`, packageFiles.place)
    .limit(MOST_FILES);
  const [last] = sent;
  const verified = of('verified');
  return {
    ...{ id, name: row.name, to: row.wanted.to, wanted: row.wanted },
    ...{ state: last!.state, fault: last!.fault, sentAt: last!.queuedAt.toISOString() },
    place: shownPath(joinPath(root.path, row.folder)),
    rootName: root.name,
    ...of('verified', 'waiting', 'failed'),
    ...{ verified: verified.files, verifiedBytes: verified.bytes, failed: of('failed').files },
    hash: HASH_WORDS[HASH],
    ...(await remarkViews(runtime, last!.remarks)),
    sendings: sent.map(sendingView),
    check: row.check,
    list: list.map((f) => ({
      ...{ place: shownPath(f.place), size: f.size, state: f.state, hash: f.hash },
      fault: f.fault === null ? null : shownPath(f.fault),
    })),
  };
}

function sendingView(s: SendingRow): SendingView {
  const { fresh, changed, same, left } = s;
  return {
    ...{ number: s.number, who: s.who, state: s.state, fault: s.fault, bytes: s.bytes },
    counts: { fresh, changed, same, left },
    queuedAt: s.queuedAt.toISOString(),
    endedAt: s.endedAt?.toISOString() ?? null,
  };
}

/** Forgets the packages of a job; nothing at their places is touched. */
export async function forgetPackages(tx: Writer, job: string): Promise<void> {
  await tx.delete(packages).where(eq(packages.job, job));
}
