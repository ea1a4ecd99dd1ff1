import { randomUUID } from 'node:crypto';
import { type BegunJob, NewFromTemplate, type Template, TemplatePart } from '../../core/templates';
import { beginJob, saveSettings } from '../jobs';
import { skeleton } from '../naming';
import { addRoot, removeRoot } from '../places';
import { messageOf } from '../platform/errors';
import { inJob } from '../services';
import { templateById } from './library';
import type { Ports } from './ports';
import { takeParts } from './take';

/** Begins a job by a template of the library. */
export async function beginFromTemplate(runtime: Ports, asked: NewFromTemplate): Promise<BegunJob> {
  const wanted = NewFromTemplate.parse(asked);
  return beginBy(runtime, await templateById(runtime, wanted.template), wanted);
}

/**
 * Begins a job by a template: it has what the template says, and its further folders are laid out in its own folder. Where the folder or
 * the code cannot be used nothing is begun; what goes wrong after that is said in `warnings`, and the job is there. `isCopy` where the
 * folder was copied from a place, whose mark it carries.
 */
export async function beginBy(
  runtime: Ports,
  template: Template,
  wanted: { name: string; code: string; folder: string | null },
  isCopy = false,
): Promise<BegunJob> {
  const root =
    wanted.folder === null
      ? null
      : (await addRoot(runtime, { kind: 'shelf', path: wanted.folder }, isCopy)).id;
  const id = randomUUID();
  try {
    await beginJob(
      runtime,
      {
        name: wanted.name,
        code: wanted.code,
        ...(template.zoneMinutes !== null && { zoneMinutes: template.zoneMinutes }),
      },
      id,
    );
  } catch (e) {
    if (root !== null) await removeRoot(runtime, root);
    throw e;
  }
  const job = inJob(runtime, id);
  const warnings: string[] = [];
  const step = async (what: string, work: () => Promise<unknown>) => {
    await work().catch((e: unknown) => warnings.push(`${what}: ${messageOf(e)}`));
  };
  const take = (part: TemplatePart) =>
    step(`Not taken over from the template (${part})`, () => takeParts(job, template, [part]));
  for (const part of TemplatePart.options) if (part !== 'watches') await take(part);
  if (root !== null)
    await step('The folder is not that of the folder plan', () =>
      saveSettings(job, { folderPlan: { ...template.folderPlan, root } }),
    );
  if (template.folderPlan.skeleton.length > 0)
    await step('Folders were not laid out', () =>
      skeleton(job, { skeleton: template.folderPlan.skeleton, root, layOut: true }),
    );
  // They are in the job's own folder, which is known by now.
  await take('watches');
  return { code: wanted.code, root, warnings };
}
