import { eq, inArray } from 'drizzle-orm';
import { createHash } from 'node:crypto';

import { factsOf, rateOf, startOf } from '../../core/facts';
import type { NamingClip } from '../../core/naming/render';
import { renderNames } from '../../core/naming/render';
import {
  type Plan,
  placeKey,
  type PlanClip,
  planNames,
  type PlanOptions,
  targetOf,
} from '../../core/naming/plan';
import type { NamingPreview, NamingRequest, NamingRow } from '../../core/naming/shapes';
import type { FolderPlan } from '../../core/naming/convention';
import { clipsOf } from '../platform/db/ofJob';
import { cards, clips, days, files, plans, steps } from '../platform/db/schema';
import { plainName, shownPath } from '../../core/platform/names';
import { resolveIn } from '../platform/files/paths';
import type { InJob, Runtime } from '../runtime';
import { clipsBeingCopied } from '../offload';
import { theJob } from '../jobs';
import { splitPath } from '../cards';
import { contextsOf } from '../facts';
import { isMovable, listRoots, type Root } from '../places';
import { namesIn } from '../platform/files/onDisk';

type FileRow = typeof files.$inferSelect;

/** The plan for a naming request, with what the person sees of it. Reads the disk, changes nothing. */
export async function planNaming(
  runtime: InJob,
  request: NamingRequest,
): Promise<{ preview: NamingPreview; plan: Plan }> {
  const job = await theJob(runtime);
  const [clipRows, cardRows, dayRows, fileRows, roots] = await Promise.all([
    runtime.db.select().from(clips).where(eq(clips.job, job.id)),
    runtime.db.select().from(cards).where(eq(cards.job, job.id)),
    runtime.db.select().from(days).where(eq(days.job, job.id)),
    runtime.db
      .select()
      .from(files)
      .where(inArray(files.clip, clipsOf(runtime.db, job.id))),
    listRoots(runtime),
  ]);
  const contexts = await contextsOf(runtime, job);
  const cardOf = new Map(cardRows.map((c) => [c.id, c]));
  const dateOf = new Map(dayRows.map((d) => [d.number, d.date]));
  const familyOf = new Map<string, FileRow[]>();
  for (const f of fileRows) familyOf.set(f.clip, [...(familyOf.get(f.clip) ?? []), f]);
  const naming = clipRows.map((c): NamingClip => {
    const card = cardOf.get(c.card)!;
    const facts = factsOf(c.statements, contexts.get(c.card));
    const recorded = facts.get('recordedAt')?.chosen.value;
    return {
      id: c.id,
      job: job.code,
      day: card.day,
      date: dateOf.get(card.day) ?? null,
      camera: card.camera,
      card: card.id,
      rate: rateOf(facts),
      original: plainName(c.original),
      recordedAt: recorded?.type === 'moment' ? recorded.moment.local : null,
      startFrame: startOf(facts)?.frame ?? null,
    };
  });
  const rendered = renderNames(request.convention, request.folderPlan, naming);
  const copying = await clipsBeingCopied(runtime);
  const moving = await clipsInOpenPlans(runtime);
  const wanted = new Set(request.cards);
  const without = new Set(request.without);
  const clipOf = new Map(clipRows.map((c) => [c.id, c]));
  const isOut = (id: string): boolean =>
    without.has(id) || clipOf.get(id)!.state !== 'read' || copying.has(id) || moving.has(id);
  const chosen = rendered.filter((r) => wanted.size === 0 || wanted.has(clipOf.get(r.clipId)!.card));
  const inPlan = chosen
    .filter((r) => !isOut(r.clipId))
    .sort((a, b) => `${a.folder}/${a.stem}`.localeCompare(`${b.folder}/${b.stem}`, 'en', { numeric: true }));
  const planClips = inPlan.map((r): PlanClip => ({
    id: r.clipId,
    stem: r.stem,
    folder: r.folder,
    files: (familyOf.get(r.clipId) ?? []).map((f) => ({
      id: f.id,
      role: f.role,
      place: { root: f.root, path: f.path },
      suffix: f.suffix,
      size: f.size,
      modified: f.modified,
    })),
  }));
  const rules = ruleOf(roots, request.folderPlan);
  const plan = planNames(planClips, {
    ...rules,
    occupied: await occupiedBy(runtime, roots, planClips, rules),
  });

  const stepsOf = new Map<string, number>();
  for (const s of plan.steps) stepsOf.set(s.clipId, (stepsOf.get(s.clipId) ?? 0) + 1);
  const rows = chosen.map((r): NamingRow => {
    const clip = clipOf.get(r.clipId)!;
    const family = familyOf.get(r.clipId) ?? [];
    const at = splitPath(family.find((f) => f.role === 'original')?.path ?? clip.original);
    const out = isOut(r.clipId);
    const problems: NamingRow['problems'] = out
      ? []
      : [
          ...(stepsOf.has(r.clipId) ? r.problems : []),
          ...plan.problems
            .filter((p) => p.clipId === r.clipId)
            .map(({ level, code, text }) => ({ level, code, text })),
        ];
    if (clip.state === 'unreadable')
      problems.push({ level: 'look', code: 'unreadable', text: 'cannot be read: left where it is' });
    if (moving.has(clip.id))
      problems.push({
        level: 'look',
        code: 'moving',
        text: 'belongs to a naming that was interrupted and waits for its drive: left out for now',
      });
    if (copying.has(clip.id))
      problems.push({ level: 'look', code: 'copying', text: 'is still being copied: left out for now' });
    else if (clip.state === 'waiting')
      problems.push({ level: 'look', code: 'waiting', text: 'is still being read: left out for now' });
    return {
      clipId: r.clipId,
      original: shownPath(clip.original),
      current: shownPath(at.stem),
      extension: at.extension,
      card: clip.card,
      day: cardOf.get(clip.card)!.day,
      parts: r.parts,
      stem: r.stem,
      folder: r.folder,
      files: family.length,
      steps: stepsOf.get(r.clipId) ?? 0,
      out,
      problems,
    };
  });
  const order = new Map(
    naming.map((n) => [
      n.id,
      `${String(n.day).padStart(4, '0')}${n.card}\0${n.recordedAt ?? '9'}\0${String(n.startFrame ?? 0).padStart(9, '0')}`,
    ]),
  );
  rows.sort((a, b) => (order.get(a.clipId)! < order.get(b.clipId)! ? -1 : 1));
  const copies = plan.steps.filter((s) => s.kind === 'copy');
  const problems = rows.flatMap((r) => r.problems);
  return {
    plan,
    preview: {
      rows,
      steps: plan.steps.length,
      clips: stepsOf.size,
      copies: copies.length,
      copyBytes: copies.reduce((n, s) => n + s.size, 0),
      stops: problems.filter((p) => p.level === 'stop').length,
      looks: problems.filter((p) => p.level === 'look').length,
      shelf: shelfAfter(rows, familyOf, roots),
      fingerprint: createHash('sha256').update(JSON.stringify(plan.steps)).digest('hex'),
    },
  };
}

/** Clips of plans that wait for a drive: they are not named anew before those are finished. */
async function clipsInOpenPlans(runtime: Pick<Runtime, 'db'>): Promise<Set<string>> {
  const rows = await runtime.db
    .selectDistinct({ clip: steps.clip })
    .from(steps)
    .innerJoin(plans, eq(plans.id, steps.plan))
    .where(eq(plans.state, 'doing'));
  return new Set(rows.map((r) => r.clip));
}

function ruleOf(roots: readonly Root[], folderPlan: FolderPlan): Omit<PlanOptions, 'occupied'> {
  const kind = new Map(roots.map((r) => [r.id, r.kind]));
  return {
    shelf: 'shelf',
    proxyFolder: folderPlan.proxyFolder,
    movable: (root) => isMovable(kind.get(root) ?? 'source'),
  };
}

/** What stands on disk at the targets: each target folder is listed once. */
async function occupiedBy(
  runtime: InJob,
  roots: readonly Root[],
  planClips: readonly PlanClip[],
  rules: Omit<PlanOptions, 'occupied'>,
): Promise<PlanOptions['occupied']> {
  const folders = new Map<string, { root: string; folder: string }>();
  for (const c of planClips) {
    for (const f of c.files) {
      const to = targetOf(c, f, rules);
      const folder = splitPath(to.path).folder;
      folders.set(`${to.root}\0${folder}`, { root: to.root, folder });
    }
  }
  const taken = new Set<string>();
  for (const { root, folder } of folders.values()) {
    const place = roots.find((r) => r.id === root);
    if (!place) continue;
    const names = await resolveIn(place, folder)
      .then((at) => namesIn(at))
      .catch(() => []);
    for (const n of names) taken.add(placeKey({ root, path: folder === '' ? n : `${folder}/${n}` }));
  }
  return (p) => taken.has(placeKey(p));
}

function shelfAfter(
  rows: readonly NamingRow[],
  familyOf: Map<string, FileRow[]>,
  roots: readonly Root[],
): NamingPreview['shelf'] {
  const shelves = new Set(roots.filter((r) => r.kind === 'shelf').map((r) => r.id));
  const tree = new Map<string, { clips: number; changed: boolean }>();
  for (const r of rows) {
    const original = familyOf.get(r.clipId)?.find((f) => f.role === 'original');
    const folder = r.out
      ? original && shelves.has(original.root)
        ? splitPath(original.path).folder
        : null
      : r.folder;
    if (folder === null) continue;
    const at = tree.get(folder) ?? { clips: 0, changed: false };
    tree.set(folder, { clips: at.clips + 1, changed: at.changed || (!r.out && r.steps > 0) });
  }
  return [...tree]
    .map(([folder, v]) => ({ folder, ...v }))
    .sort((a, b) => a.folder.localeCompare(b.folder, 'en', { numeric: true }));
}
