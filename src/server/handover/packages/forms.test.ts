import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { type Form, READY_FORMS } from '../../../core/handover';
import { type TestShelf, testShelf } from '../../testing/media';
import { dropForm, formsView, importForms, keepForm } from './forms';

let s: TestShelf;
beforeAll(async () => {
  s = await testShelf();
});
afterAll(() => s.close());

const own = (name: string): Form => ({ ...READY_FORMS[0]!, name });
const names = async () => (await formsView(s.runtime)).map((f) => f.form.name);

test('a form is kept under its name, and replaced by one of that name; what is always there is not', async () => {
  const ready = READY_FORMS.map((f) => f.name);
  expect(await names()).toEqual(ready);
  const { id } = await keepForm(s.runtime, own('Colour'));
  expect(await keepForm(s.runtime, { ...own('Colour'), handles: 3 })).toEqual({ id });
  expect((await formsView(s.runtime)).at(-1)).toMatchObject({ id, ready: false, form: { handles: 3 } });
  await expect(keepForm(s.runtime, own('edit'))).rejects.toThrow('one of the forms that are always there');
  expect(
    await importForms(s.runtime, {
      format: 'sort-shelf-forms',
      version: 1,
      forms: [own('Archive'), READY_FORMS[0]!],
    }),
  ).toEqual({ added: 1 });
  expect(await names()).toEqual([...ready, 'Archive', 'Colour']);
  await dropForm(s.runtime, id);
  await expect(dropForm(s.runtime, id)).rejects.toThrow('already been removed');
  expect(await names()).toEqual([...ready, 'Archive']);
});
