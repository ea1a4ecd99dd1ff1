import { eq, getTableColumns, inArray } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import { type Brief, NO_BRIEF } from '../../core/facts';
import type { NamingClip, RenderedName } from '../../core/naming/render';
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
import { cards, clips, days, files } from '../cards/tables';
import { plans, steps } from './tables';
import { shown } from '../facts/tables';
import { plainName, shownPath } from '../../core/platform/names';
import { resolveIn } from '../platform/files/paths';
import type { InJob, Ports } from './ports';
import { clipsBeingCopied } from '../offload';
import { requireJob } from '../jobs';
import { clipsOf, byClip, type FileRow, splitPath } from '../cards';
import { allUpToDate } from '../facts';
import { isMovable, listRoots, type Root } from '../places';
import { namesIn } from '../platform/files/onDisk';

/** What a plan is made of: the job's clips with their cards, days, files and facts. */
interface Loaded {
  clips: (typeof clips.$inferSelect & { brief: Brief | null })[];
  cards: ReadonlyMap<string, typeof cards.$inferSelect>;
  families: ReadonlyMap<string, FileRow[]>;
  roots: Root[];
  naming: NamingClip[];
}

async function loadJob(runtime: InJob): Promise<Loaded> {
  await allUpToDate(runtime);
  const job = await requireJob(runtime);
  const [clipRows, cardRows, dayRows, fileRows, roots] = await Promise.all([
    runtime.db
      .select({ ...getTableColumns(clips), brief: shown.brief })
      .from(clips)
      .innerJoin(shown, eq(shown.clip, clips.id))
      .where(eq(clips.job, job.id)),
    runtime.db.select().from(cards).where(eq(cards.job, job.id)),
    runtime.db.select().from(days).where(eq(days.job, job.id)),
    runtime.db
      .select()
      .from(files)
      .where(inArray(files.clip, clipsOf(runtime.db, job.id))),
    listRoots(runtime),
  ]);
  const cardOf = new Map(cardRows.map((c) => [c.id, c]));
  const dateOf = new Map(dayRows.map((d) => [d.number, d.date]));
  const naming = clipRows.map((c): NamingClip => {
    const card = cardOf.get(c.card)!;
    const brief = c.brief ?? NO_BRIEF;
    return {
      id: c.id,
      job: job.code,
      day: card.day,
      date: dateOf.get(card.day) ?? null,
      camera: card.camera,
      card: card.id,
      rate: brief.rate,
      original: plainName(c.original),
      recordedAt: brief.recordedAt,
      startFrame: brief.startFrame,
    };
  });
  return { clips: clipRows, cards: cardOf, families: byClip(fileRows), roots, naming };
}

/** Why a clip is left out of a plan for now, as the person is told; null where it is not, or was left out by the person. */
function leftOut(
  clip: Loaded['clips'][number],
  { copying, moving }: Record<'copying' | 'moving', ReadonlySet<string>>,
): NamingRow['problems'] {
  const look = (
    code: NamingRow['problems'][number]['code'],
    text: string,
  ): NamingRow['problems'][number] => ({
    level: 'look',
    code,
    text,
  });
  return [
    ...(clip.state === 'unreadable' ? [look('unreadable', 'cannot be read: left where it is')] : []),
    ...(moving.has(clip.id)
      ? [look('moving', 'belongs to a naming that was interrupted and waits for its drive: left out for now')]
      : []),
    ...(copying.has(clip.id)
      ? [look('copying', 'is still being copied: left out for now')]
      : clip.state === 'waiting'
        ? [look('waiting', 'is still being read: left out for now')]
        : []),
  ];
}

/** A clip that is to be named, with its files. */
const planClipOf = (r: RenderedName, family: readonly FileRow[]): PlanClip => ({
  id: r.clipId,
  stem: r.stem,
  folder: r.folder,
  files: family.map((f) => ({
    id: f.id,
    role: f.role,
    place: { root: f.root, path: f.path },
    suffix: f.suffix,
    size: f.size,
    modified: f.modified,
  })),
});

/** Rows in the order of days, cards and shooting. */
function inShootingOrder(rows: NamingRow[], naming: readonly NamingClip[]): NamingRow[] {
  const order = new Map(
    naming.map((n) => [
      n.id,
      `${String(n.day).padStart(4, '0')}${n.card}\0${n.recordedAt ?? '9'}\0${String(n.startFrame ?? 0).padStart(9, '0')}`,
    ]),
  );
  return rows.sort((a, b) => (order.get(a.clipId)! < order.get(b.clipId)! ? -1 : 1));
}

/** The plan for a naming request, with what the person sees of it. Reads the disk, changes nothing. */
export async function planNaming(
  runtime: InJob,
  request: NamingRequest,
): Promise<{ preview: NamingPreview; plan: Plan }> {
  const job = await loadJob(runtime);
  const rendered = renderNames(request.convention, request.folderPlan, job.naming);
  const busy = { copying: await clipsBeingCopied(runtime), moving: await clipsInOpenPlans(runtime) };
  const [wanted, without] = [new Set(request.cards), new Set(request.without)];
  const clipOf = new Map(job.clips.map((c) => [c.id, c]));
  const isOut = (id: string): boolean =>
    without.has(id) || clipOf.get(id)!.state !== 'read' || busy.copying.has(id) || busy.moving.has(id);
  const chosen = rendered.filter((r) => wanted.size === 0 || wanted.has(clipOf.get(r.clipId)!.card));
  const planClips = chosen
    .filter((r) => !isOut(r.clipId))
    .sort((a, b) => `${a.folder}/${a.stem}`.localeCompare(`${b.folder}/${b.stem}`, 'en', { numeric: true }))
    .map((r) => planClipOf(r, job.families.get(r.clipId) ?? []));
  const rules = ruleOf(job.roots, request.folderPlan);
  const plan = planNames(planClips, {
    ...rules,
    occupied: await occupiedBy(job.roots, planClips, rules),
  });
  const stepsOf = new Map<string, number>();
  for (const s of plan.steps) stepsOf.set(s.clipId, (stepsOf.get(s.clipId) ?? 0) + 1);
  const found = new Map<string, NamingRow['problems']>();
  for (const { clipId, level, code, text } of plan.problems)
    found.set(clipId, [...(found.get(clipId) ?? []), { level, code, text }]);
  const rows = chosen.map((r): NamingRow => {
    const clip = clipOf.get(r.clipId)!;
    const family = job.families.get(r.clipId) ?? [];
    const at = splitPath(family.find((f) => f.role === 'original')?.path ?? clip.original);
    const out = isOut(r.clipId);
    return {
      clipId: r.clipId,
      original: shownPath(clip.original),
      current: shownPath(at.stem),
      extension: at.extension,
      card: clip.card,
      day: job.cards.get(clip.card)!.day,
      parts: r.parts,
      stem: r.stem,
      folder: r.folder,
      files: family.length,
      steps: stepsOf.get(r.clipId) ?? 0,
      out,
      problems: [
        ...(out ? [] : [...(stepsOf.has(r.clipId) ? r.problems : []), ...(found.get(r.clipId) ?? [])]),
        ...leftOut(clip, busy),
      ],
    };
  });
  return { plan, preview: previewOf(inShootingOrder(rows, job.naming), plan, stepsOf.size, job) };
}

/** What the person sees of a plan. */
function previewOf(
  rows: readonly NamingRow[],
  plan: Plan,
  moved: number,
  { families, roots }: Loaded,
): NamingPreview {
  const copies = plan.steps.filter((s) => s.kind === 'copy');
  const problems = rows.flatMap((r) => r.problems);
  return {
    rows: [...rows],
    steps: plan.steps.length,
    clips: moved,
    copies: copies.length,
    copyBytes: copies.reduce((n, s) => n + s.size, 0),
    stops: problems.filter((p) => p.level === 'stop').length,
    looks: problems.filter((p) => p.level === 'look').length,
    shelf: shelfAfter(rows, families, roots),
    fingerprint: createHash('sha256').update(JSON.stringify(plan.steps)).digest('hex'),
  };
}

/** Clips of plans that wait for a drive: they are not named anew before those are finished. */
async function clipsInOpenPlans(runtime: Pick<Ports, 'db'>): Promise<Set<string>> {
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

/** What is on disk at the targets: each target folder is listed once. */
async function occupiedBy(
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
  familyOf: ReadonlyMap<string, FileRow[]>,
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
