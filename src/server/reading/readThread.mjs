// What a reading thread loads first: it makes TypeScript loadable, then hands over. The threads run outside the bundle.
import { register } from 'tsx/esm/api';

register();
const { firstPass } = await import('./firstPass.ts');
const core = await import('../../core/intake/recognise.ts');

/** One clip after another. */
export async function read({ clips, options }) {
  const readings = [];
  for (const clip of clips) readings.push(await firstPass(clip, options));
  return readings;
}
export const recognise = ({ entries, options }) => core.recognise(entries, options);
export const ready = () => undefined;
