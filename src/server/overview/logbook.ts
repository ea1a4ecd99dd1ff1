import { and, count as drizzleCount, desc, eq, isNull, or, sql } from 'drizzle-orm';
import type { z } from 'zod';
import { shownPath } from '../../core/platform/names';
import type { LogEntry, LogPage, LogQuery } from '../../core/logbook';
import type { PlanDetail } from '../../core/naming';
import { log } from '../logbook/tables';
import { plans, steps } from '../naming/tables';
import { NotFound } from '../platform/errors';
import type { InJob } from './ports';
import { clips } from '../cards/tables';
import { stepsOf, toStep, undoable, undoablePlans } from '../naming';
import { among } from '../platform/db/among';

/** Entries of one page. */
const PAGE = 200;

/** A page of what was done in the job and for all jobs, the newest first: of a kind, with some words, older than an entry, where that is said. */
export async function logView(
  runtime: InJob,
  { kind, words, before }: z.infer<typeof LogQuery> = {},
): Promise<LogPage> {
  const { db } = runtime;
  const all = or(eq(log.job, runtime.job), isNull(log.job));
  const found = await db
    .select()
    .from(log)
    .where(
      and(
        all,
        kind && eq(log.kind, kind),
        words ? sql`position(lower(${words}) in lower(${log.text})) > 0` : undefined,
        before ? sql`(${log.at}, ${log.id}) < (select at, id from log where id = ${before})` : undefined,
      ),
    )
    .orderBy(desc(log.at), desc(log.id))
    .limit(PAGE + 1);
  const rows = found.slice(0, PAGE);
  const kinds = await db.selectDistinct({ kind: log.kind }).from(log).where(all);
  const told = [...new Set(rows.flatMap((r) => r.plan ?? []))];
  const planRows = new Map(
    (await db.select().from(plans).where(among(plans.id, told))).map((p) => [p.id, p]),
  );
  const counts = new Map(
    (
      await db
        .select({ plan: steps.plan, n: drizzleCount() })
        .from(steps)
        .where(among(steps.plan, told))
        .groupBy(steps.plan)
    ).map((r) => [r.plan, r.n]),
  );
  const undoable = await undoablePlans(runtime, told);
  const entries = rows.map((r): LogEntry => ({
    id: r.id,
    at: r.at.toISOString(),
    who: r.who,
    kind: r.kind,
    text: r.text,
    planId: r.plan,
    planState: (r.plan ? planRows.get(r.plan)?.state : null) ?? null,
    undoable: r.plan !== null && r.kind === 'name' && undoable.has(r.plan),
    steps: (r.plan ? counts.get(r.plan) : 0) ?? 0,
  }));
  return {
    entries,
    kinds: kinds.map((k) => k.kind),
    older: found.length > PAGE ? (rows.at(-1)?.id ?? null) : null,
  };
}

export async function planDetail(runtime: InJob, id: string): Promise<PlanDetail> {
  const [plan] = await runtime.db
    .select()
    .from(plans)
    .where(and(eq(plans.job, runtime.job), eq(plans.id, id)));
  if (!plan) throw new NotFound('This change is not in the logbook.');
  const all = await stepsOf(runtime, id);
  const ids = [...new Set(all.map((s) => s.clip))];
  const names = new Map(
    (
      await runtime.db
        .select({ id: clips.id, original: clips.original })
        .from(clips)
        .where(among(clips.id, ids))
    ).map((c) => [c.id, c.original]),
  );
  const back = new Map((await undoable(runtime, [id])).map((u) => [u.clip, u.back]));
  return {
    id,
    state: plan.state,
    clips: ids.map((clip) => ({
      id: clip,
      original: shownPath(names.get(clip) ?? all.find((s) => s.clip === clip)!.fromPath),
      back: back.get(clip) ?? 'undone',
    })),
    steps: all.map(stepView),
  };
}

const stepView = (s: Awaited<ReturnType<typeof stepsOf>>[number]): PlanDetail['steps'][number] => ({
  ...toStep(s),
  from: { root: s.fromRoot, path: shownPath(s.fromPath) },
  to: { root: s.toRoot, path: shownPath(s.toPath) },
  state: s.state,
  fault: s.fault,
});
