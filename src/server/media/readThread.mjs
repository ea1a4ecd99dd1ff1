// What a reading thread loads first: it makes TypeScript loadable, then hands over. The threads run outside the bundle.
import { register } from 'tsx/esm/api';

register();
const { readContainer } = await import('./container.ts');

/** One file after another; a file that cannot be opened says so and does not hold up the others. */
const one = (file, options) => readContainer(file, options).then((says) => ({ says }), (e) => ({ fault: { code: e.code, message: e.message } }));
export async function read({ files, options }) {
  const answers = [];
  for (const file of files) answers.push(await one(file, options));
  return answers;
}
export const ready = () => undefined;
