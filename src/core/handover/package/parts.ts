import { type Part, READY_RECIPES, type Recipe, withHandles } from '../../proxies';

/** The recipes of which forms are without: what used frames are made by where they cannot be cut, and what is made to be watched. */
export const USED_RECIPE = 'ProRes LT in MOV, same size';
export const VIEW_RECIPE = 'For viewing, with name and timecode';

/** Stretches of a clip of so many frames, with so many frames more on both sides; those that meet are one. */
export function joinParts(parts: readonly Part[], handles: number, frames: number): Part[] {
  const out: Part[] = [];
  for (const part of [...parts].sort((a, b) => a.from - b.from)) {
    const { from, to } = withHandles({ from: Math.max(0, part.from), to: part.to }, handles, frames);
    if (to <= from) continue;
    const last = out.at(-1);
    if (last && from <= last.to) last.to = Math.max(last.to, to);
    else out.push({ from, to });
  }
  return out;
}

/**
 * By which recipe used frames are made: as they were recorded where each frame stands by itself, so that it is cut exactly there; else
 * encoded anew by the recipe that was chosen.
 */
export const recipeForUsed = (
  { extension, isInterFrame }: { extension: string; isInterFrame: boolean },
  chosen: Recipe,
): Recipe => {
  if (isInterFrame) return chosen;
  const container = extension.toLowerCase() === '.mp4' ? 'mp4' : 'mov';
  return READY_RECIPES.find((r) => r.purpose === 'rewrap' && r.container === container)!;
};

/** The least of what was made by a recipe that has all of a part; `undefined` where nothing has. Of no part it is all of the clip. */
export function madeFor<M extends { recipe: string; part: Part | null }>(
  made: readonly M[],
  recipe: string,
  part: Part | null,
): M | undefined {
  if (part === null) return made.find((m) => m.recipe === recipe && m.part === null);
  return made
    .filter(
      (m) =>
        m.part !== null &&
        m.recipe.startsWith(`${recipe}, frames `) &&
        m.part.from <= part.from &&
        m.part.to >= part.to,
    )
    .sort((a, b) => a.part!.to - a.part!.from - (b.part!.to - b.part!.from))[0];
}
