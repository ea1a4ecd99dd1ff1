import { formatTimecode, type Timecode } from '../platform/timecode/timecode';
import { type Followed, READY_RECIPES, type Recipe } from '../proxies';

/** The same streams in a file of the same name beside all others of that kind, in the original's own container where that can be written here. */
function rewrapBeside(extension: string, of: { name: string; folder: string; words: string }): Recipe {
  const container = extension.toLowerCase() === '.mp4' ? 'mp4' : 'mov';
  const ready = READY_RECIPES.find((r) => r.purpose === 'rewrap' && r.container === container)!;
  return {
    ...ready,
    name: `${of.name}, in ${container.toUpperCase()}`,
    words: of.words,
    place: { at: 'folder', folder: of.folder },
  };
}

/** How an original is given its timecode back. */
export const rewrapWithTimecode = (extension: string): Recipe =>
  rewrapBeside(extension, { name: 'Rewrap with its timecode', folder: 'With timecode', words: '' });

/** How an original is made a file that counts as an edit does. `words`: what the name of the file it was cut from has after the original's. */
export function rewrapThatStarts(extension: string, startsAt: Timecode, words: string): Followed {
  const start = formatTimecode(startsAt);
  const of = { name: `Rewrap that starts at ${start}`, folder: `Starts at ${start.replace(/[:;]/g, '.')}` };
  return { ...rewrapBeside(extension, { ...of, words }), startsAt };
}
