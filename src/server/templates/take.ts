import { isDeepStrictEqual } from 'node:util';
import { eq } from 'drizzle-orm';
import { SHIPPED_SETS } from '../../core/facts';
import { formatRate } from '../../core/platform/timecode/rate';
import { plural } from '../../core/platform/words';
import { READY_RECIPES } from '../../core/proxies';
import { type TakenParts, type Template, TemplatePart, watchedFolder } from '../../core/templates';
import type { NewWatch } from '../../core/watch';
import { addCameras } from '../cards';
import { cameras } from '../cards/tables';
import { planChoice, takeChoice } from '../choose';
import { fieldSetsView, importFieldSets } from '../facts';
import { type Job, requireJob, saveSettings } from '../jobs';
import { writeLog } from '../logbook';
import { skeleton } from '../naming';
import { importRecipes, recipesView } from '../proxies';
import { watchesBelow, watchFolder } from '../watch';
import type { InJob } from './ports';
import { templateById } from './library';

/** What a part of a template would change in a job, in lines; none where the job has it all. */
type Difference = (runtime: InJob, job: Job, t: Template) => string[] | Promise<string[]>;

const other = (now: unknown, then: unknown, words: string): string[] =>
  isDeepStrictEqual(now, then) ? [] : [words];

const count = (n: number, one: string): string => (n === 0 ? `no ${one}s` : plural(n, one));

/** A plan keeps the places that it has: a template names none. */
const planHere = (job: Job, t: Template): Template['folderPlan'] => ({
  ...t.folderPlan,
  root: job.folderPlan.root,
  roles: Object.fromEntries(
    Object.entries(t.folderPlan.roles).map(([role, place]) => [
      role,
      place && {
        ...place,
        root: job.folderPlan.roles[role as keyof typeof job.folderPlan.roles]?.root ?? null,
      },
    ]),
  ),
});

/** Rules of single folders are of this computer, and stay. */
const intakeHere = (job: Job, t: Template): Template['intake'] => ({
  ...t.intake,
  folders: job.intake.folders,
});

async function missingCameras(runtime: InJob, t: Template): Promise<Template['cameras']> {
  const have = await runtime.db
    .select({ label: cameras.label })
    .from(cameras)
    .where(eq(cameras.job, runtime.job));
  return t.cameras.filter((c) => !have.some((h) => h.label === c.label));
}

/** Those of the library that it has not, or has otherwise under the same name: what is there stays. */
async function missingInLibrary(
  runtime: InJob,
  t: Template,
): Promise<Pick<Template, 'fieldSets' | 'recipes'>> {
  const names = async (list: Promise<readonly { name: string }[]>) =>
    new Set((await list).map((x) => x.name.toLowerCase()));
  const sets = await names(fieldSetsView(runtime));
  const recipes = await names(recipesView(runtime).then((list) => list.map((r) => r.recipe)));
  for (const s of SHIPPED_SETS) sets.add(s.name.toLowerCase());
  for (const r of READY_RECIPES) recipes.add(r.name.toLowerCase());
  return {
    fieldSets: t.fieldSets.filter((s) => !sets.has(s.name.toLowerCase())),
    recipes: t.recipes.filter((r) => !recipes.has(r.name.toLowerCase())),
  };
}

/** Folders of a template that the job does not watch yet: below the place that its clips go to. */
async function missingWatches(runtime: InJob, job: Job, t: Template): Promise<NewWatch[]> {
  const root = job.folderPlan.root ?? 'shelf';
  const have = new Set((await watchesBelow(runtime, root)).map((w) => w.path));
  return t.watches
    .map(({ path, options }) => ({ root, path: watchedFolder(path, job.code), options }))
    .filter((w) => !have.has(w.path));
}

const DIFFERENCES: Record<TemplatePart, Difference> = {
  naming: (_, job, t) => [
    ...other(
      job.convention,
      t.convention,
      `the convention “${job.convention.name}” becomes “${t.convention.name}” of the template`,
    ),
    ...other(
      job.folderPlan,
      planHere(job, t),
      'the folder plan becomes that of the template; its places stay',
    ),
    ...other(
      job.naming,
      t.naming,
      `${count(job.naming.rules.length, 'rule')} for some clips become ${count(t.naming.rules.length, 'rule')} of the template`,
    ),
  ],
  proxies: (_, job, t) => [
    ...other(job.proxies.need, t.proxies.need, 'what needs a proxy is told by the template'),
    ...other(
      [job.proxies.recipe, job.proxies.rules],
      [t.proxies.recipe, t.proxies.rules],
      `the recipe “${job.proxies.recipe.name}” with ${count(job.proxies.rules.length, 'rule')} becomes “${t.proxies.recipe.name}” with ${count(t.proxies.rules.length, 'rule')}`,
    ),
    ...other(
      job.proxies.byItself ?? false,
      t.proxies.byItself ?? false,
      t.proxies.byItself ? 'proxies are made by themselves' : 'proxies are no longer made by themselves',
    ),
  ],
  intake: (_, job, t) =>
    other(
      job.intake,
      intakeHere(job, t),
      'file types, folders that are left out, card shapes, and how cards are copied become those of the template',
    ),
  days: (_, job, t) => [
    ...other(job.dayStart, t.dayStart, `a day begins at ${t.dayStart}:00, not at ${job.dayStart}:00`),
    ...other(
      job.rate,
      t.rate,
      `the rate of the edit becomes ${t.rate ? formatRate(t.rate) : 'that of the footage'}`,
    ),
    ...other(job.trust, t.trust, 'the order of trust between sources becomes that of the template'),
  ],
  cameras: async (runtime, _, t) => {
    const missing = await missingCameras(runtime, t);
    return missing.length === 0
      ? []
      : [`${plural(missing.length, 'camera')} added: ${missing.map((c) => c.label).join(', ')}`];
  },
  choice: async (runtime, _, t) => (await planChoice(runtime.db, runtime.job, t.choice)).changes,
  library: async (runtime, _, t) => {
    const { fieldSets, recipes } = await missingInLibrary(runtime, t);
    return [
      ...(fieldSets.length > 0
        ? [`${plural(fieldSets.length, 'field set')} added: ${fieldSets.map((s) => s.name).join(', ')}`]
        : []),
      ...(recipes.length > 0
        ? [`${plural(recipes.length, 'recipe')} added: ${recipes.map((r) => r.name).join(', ')}`]
        : []),
    ];
  },
  watches: async (runtime, job, t) => {
    const missing = await missingWatches(runtime, job, t);
    return missing.length === 0
      ? []
      : [`${plural(missing.length, 'folder')} watched from now on: ${missing.map((w) => w.path).join(', ')}`];
  },
};

/** What each part of a template would change in a job. Nothing is changed. */
export async function previewParts(runtime: InJob, id: string): Promise<TakenParts> {
  const [job, t] = [await requireJob(runtime), await templateById(runtime, id)];
  const out: TakenParts = [];
  for (const part of TemplatePart.options)
    out.push({ part, changes: await DIFFERENCES[part](runtime, job, t) });
  return out;
}

/** Takes parts of a template into a job. Returns what changed by it, as the preview said. */
export async function takeParts(
  runtime: InJob,
  t: Template,
  parts: readonly TemplatePart[],
): Promise<TakenParts> {
  const job = await requireJob(runtime);
  const done: TakenParts = [];
  for (const part of parts) {
    const changes = await DIFFERENCES[part](runtime, job, t);
    if (changes.length > 0) done.push({ part, changes });
  }
  const has = (part: TemplatePart) => done.some((d) => d.part === part);
  // What can be refused comes first: then nothing of the rest is taken.
  if (has('choice')) await takeChoice(runtime, t.choice);
  if (has('library')) {
    const { fieldSets, recipes } = await missingInLibrary(runtime, t);
    if (fieldSets.length > 0)
      await importFieldSets(runtime, { kind: 'sort-shelf field sets', sets: fieldSets });
    if (recipes.length > 0)
      await importRecipes(runtime, { format: 'sort-shelf-recipes', version: 1, recipes });
  }
  if (has('watches'))
    for (const watch of await missingWatches(runtime, job, t)) {
      await skeleton(runtime, { skeleton: [watch.path], root: watch.root, layOut: true });
      await watchFolder(runtime, watch);
    }
  if (has('cameras')) await addCameras(runtime.db, runtime.job, await missingCameras(runtime, t));
  await saveSettings(runtime, {
    ...(has('naming') && { convention: t.convention, folderPlan: planHere(job, t), naming: t.naming }),
    ...(has('proxies') && { proxies: t.proxies }),
    ...(has('intake') && { intake: intakeHere(job, t) }),
    ...(has('days') && { dayStart: t.dayStart, rate: t.rate, trust: t.trust }),
  });
  if (done.length > 0)
    await writeLog(
      runtime,
      'job',
      `Took over from the template ${t.name}: ${done.flatMap((d) => d.changes).join('; ')}`,
    );
  runtime.events.changed('job', 'log', 'clips', 'choose');
  return done;
}
