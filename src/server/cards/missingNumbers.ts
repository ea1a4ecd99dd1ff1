import type { ClipView } from '../../core/cards';
import { counterGaps } from '../../core/intake';
import type { Everything } from './clipViews';
import { splitPath } from './clipName';

/** The camera's names whose numbers count for gaps: each chapter has its own, a row of stills says its gaps itself. */
const numbersOf = (all: Everything, v: ClipView): string[] =>
  v.kind === 'stills'
    ? []
    : (all.families.get(v.id) ?? [])
        .filter((f) => f.role === 'original' || f.role === 'segment')
        .map((f) => (/^_\d$/.test(f.suffix) && f.takenPath ? splitPath(f.takenPath).stem : v.original));

/** Which numbers are missing among the clips of a card, in words. */
export const missingNumbers = (all: Everything, views: readonly ClipView[]): string[] =>
  counterGaps(views.flatMap((v) => numbersOf(all, v))).map((g) =>
    g.count === 1
      ? `${g.from} is missing after ${g.after}`
      : `${g.from} to ${g.to} are missing after ${g.after}`,
  );
