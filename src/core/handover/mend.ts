import { READY_RECIPES, type Recipe } from '../proxies';

/**
 * How an original is given its timecode back: the same streams in a file of the same name beside all others of that kind, in its own
 * container where that can be written here.
 */
export function rewrapWithTimecode(extension: string): Recipe {
  const container = extension.toLowerCase() === '.mp4' ? 'mp4' : 'mov';
  const ready = READY_RECIPES.find((r) => r.purpose === 'rewrap' && r.container === container)!;
  return {
    ...ready,
    name: `Rewrap with its timecode, in ${container.toUpperCase()}`,
    words: '',
    place: { at: 'folder', folder: 'With timecode' },
  };
}
