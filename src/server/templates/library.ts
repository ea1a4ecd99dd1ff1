import { asc, eq, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import {
  type KeepTemplate,
  READY_TEMPLATES,
  Template,
  type TemplateFile,
  type TemplatesView,
} from '../../core/templates';
import { cameras } from '../cards/tables';
import { choiceSet } from '../choose';
import { fieldSetsView } from '../facts';
import { requireJob } from '../jobs';
import { writeLog } from '../logbook';
import { Clash, NotFound, Refused } from '../platform/errors';
import { recipesView } from '../proxies';
import { watchesBelow } from '../watch';
import type { InJob, Ports } from './ports';
import { templates } from './tables';

type Library = Pick<Ports, 'db' | 'events'>;

const isReady = (name: string): boolean =>
  READY_TEMPLATES.some((t) => t.name.toLowerCase() === name.toLowerCase());

/** The templates that are always there, then the kept ones by name. */
export async function templatesView({ db }: Pick<Library, 'db'>): Promise<TemplatesView> {
  const kept = await db.select().from(templates).orderBy(asc(templates.name));
  return [
    ...READY_TEMPLATES.map((template) => ({ id: `ready ${template.name}`, ready: true, template })),
    ...kept.map(({ id, template }) => ({ id, ready: false, template })),
  ];
}

export async function templateById(from: Pick<Library, 'db'>, id: string): Promise<Template> {
  const found = (await templatesView(from)).find((t) => t.id === id);
  if (!found)
    throw new NotFound('This template was removed meanwhile.', { next: 'Choose another template.' });
  return found.template;
}

/** What a job was told, as a template. */
export async function templateOf(
  runtime: Pick<InJob, 'db' | 'job'>,
  { name, note = '' }: KeepTemplate,
): Promise<Template> {
  const job = await requireJob(runtime);
  return Template.parse({
    name,
    note,
    zoneMinutes: job.zoneMinutes,
    dayStart: job.dayStart,
    rate: job.rate,
    trust: job.trust,
    convention: job.convention,
    folderPlan: job.folderPlan,
    naming: job.naming,
    proxies: job.proxies,
    intake: job.intake,
    cameras: await runtime.db
      .select({ label: cameras.label, model: cameras.model })
      .from(cameras)
      .where(eq(cameras.job, job.id))
      .orderBy(asc(cameras.label)),
    choice: await choiceSet(runtime.db, job.id),
    watches: (await watchesBelow(runtime, job.folderPlan.root ?? 'shelf')).map(({ path, options }) => ({
      path: path
        .split('/')
        .map((folder) => (folder === job.code ? '{job}' : folder))
        .join('/'),
      options,
    })),
    fieldSets: (await fieldSetsView(runtime))
      .filter((s) => !s.shipped)
      .map(({ name: of, fields }) => ({ name: of, fields })),
    recipes: (await recipesView(runtime)).filter((r) => !r.ready).map((r) => r.recipe),
  });
}

/** Keeps what a job was told as a template. */
export async function keepTemplate(runtime: InJob, wanted: KeepTemplate): Promise<{ id: string }> {
  const template = await templateOf(runtime, wanted);
  const kept = await keep(runtime, template, wanted.replace ?? false);
  await writeLog(runtime, 'job', `Kept as the template ${template.name}`);
  runtime.events.changed('log');
  return kept;
}

async function keep({ db, events }: Library, template: Template, replace: boolean): Promise<{ id: string }> {
  if (isReady(template.name))
    throw new Refused(`“${template.name}” is one of the templates that are always there.`, {
      next: 'Give yours another name.',
    });
  const row = { id: randomUUID(), name: template.name, template };
  const into = db.insert(templates).values(row);
  const [kept] = await (
    replace
      ? into.onConflictDoUpdate({ target: templates.name, set: { template } })
      : into.onConflictDoNothing()
  ).returning({ id: templates.id });
  if (!kept)
    throw new Clash(`There is a template “${template.name}” already.`, {
      next: 'Replace it, or give this one another name.',
    });
  events.changed('job');
  return kept;
}

/** Keeps what a file holds. What is always there is passed over; one whose name is taken gets a number behind it. */
export async function importTemplates(library: Library, file: TemplateFile): Promise<{ added: string[] }> {
  const added: string[] = [];
  const taken = new Set((await templatesView(library)).map((t) => t.template.name.toLowerCase()));
  for (const template of file.templates.filter((t) => !isReady(t.name))) {
    let name = template.name;
    for (let n = 2; taken.has(name.toLowerCase()); n++) name = `${template.name.slice(0, 75)} ${n}`;
    taken.add(name.toLowerCase());
    await keep(library, { ...template, name }, false);
    added.push(name);
  }
  return { added };
}

export async function dropTemplate({ db, events }: Library, id: string): Promise<void> {
  if (
    (
      await db
        .delete(templates)
        .where(eq(templates.id, id))
        .returning({ one: sql`1` })
    ).length === 0
  )
    throw new NotFound('This template has already been removed.');
  events.changed('job');
}
