import { asc, eq } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { type Form, type FormFile, type FormsView, isReadyForm, READY_FORMS } from '../../../core/handover';
import { NotFound, Refused } from '../../platform/errors';
import type { Ports } from '../ports';
import { forms } from '../tables';

type Library = Pick<Ports, 'db' | 'events'>;

/** The forms that are always there, then the kept ones by name. */
export async function formsView({ db }: Library): Promise<FormsView> {
  const kept = await db.select().from(forms).orderBy(asc(forms.name));
  return [
    ...READY_FORMS.map((form) => ({ id: `ready ${form.name}`, ready: true, form })),
    ...kept.map(({ id, form }) => ({ id, ready: false, form })),
  ];
}

/** Keeps a form under its name; one of that name is replaced. */
export async function keepForm({ db, events }: Library, form: Form): Promise<{ id: string }> {
  if (isReadyForm(form.name))
    throw new Refused(`“${form.name}” is one of the forms that are always there.`, {
      next: 'Give yours another name.',
    });
  const [row] = await db
    .insert(forms)
    .values({ id: randomUUID(), name: form.name, form })
    .onConflictDoUpdate({ target: forms.name, set: { form } })
    .returning({ id: forms.id });
  events.changed('packages');
  return { id: row!.id };
}

/** Keeps what a file holds; what is always there is passed over. */
export async function importForms(library: Library, file: FormFile): Promise<{ added: number }> {
  const own = file.forms.filter((f) => !isReadyForm(f.name));
  for (const form of own) await keepForm(library, form);
  return { added: own.length };
}

export async function dropForm({ db, events }: Library, id: string): Promise<void> {
  if ((await db.delete(forms).where(eq(forms.id, id)).returning()).length === 0)
    throw new NotFound('This form has already been removed.');
  events.changed('packages');
}
