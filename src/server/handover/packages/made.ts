import { and, eq, inArray, isNotNull } from 'drizzle-orm';
import {
  type Form,
  imagesIn,
  joinParts,
  madeFor,
  type Packable,
  recipeForUsed,
} from '../../../core/handover';
import { type Part, type Recipe, isInterFrame } from '../../../core/proxies';
import { OPEN_WORK } from '../../../core/platform/shapes';
import { addWork, grouped, splitPath } from '../../cards';
import { ranges } from '../../choose/tables';
import { shown } from '../../facts/tables';
import { among } from '../../platform/db/among';
import { NotFound } from '../../platform/errors';
import { work } from '../../platform/work/tables';
import { recipesView } from '../../proxies';
import { pairs } from '../../proxies/tables';
import type { InJob } from '../ports';
import type { Placed } from '../sides';
import type { SetNow } from './sets';

/** A file that has to be made before it can go: by which recipe, of which part of its clip (null for all of it). */
export interface Making {
  clip: string;
  recipe: Recipe;
  part: Part | null;
}

/** What was made of a clip for a form, what is still to be made, and what should be known. */
export interface MadeOf {
  files: { file: string; what: Packable['what'] }[];
  making: Making[];
  /** The used frames with handles, where they go as images. */
  images: Part[];
  notes: { what: Packable['what']; why: string }[];
}

/** Frames of a part as persons count them. */
const framesOf = ({ from, to }: Part): string => `frames ${from + 1} to ${to}`;

/** Of clips with a moving picture, what a form wants that is made of them: the used frames with handles, and what is made to be watched. */
export async function madeOf(
  runtime: InJob,
  { ids, used }: SetNow,
  form: Form,
  clips: readonly Placed[],
): Promise<(clip: string) => MadeOf> {
  const { db } = runtime;
  const none: MadeOf = { files: [], making: [], images: [], notes: [] };
  const wants = (what: 'used' | 'view'): boolean => form.media.includes(what);
  if (!wants('used') && !wants('view')) return () => none;
  const [usedRecipe, viewRecipe] = [
    wants('used') && imagesIn(form) === null ? await recipeNamed(runtime, form.usedRecipe) : null,
    wants('view') ? await recipeNamed(runtime, form.viewRecipe) : null,
  ];
  const selected = wants('used') ? (used ?? (await selectsOf(runtime, ids))) : new Map<string, Part[]>();
  const made = grouped(
    await db
      .select({ clip: pairs.clip, file: pairs.file, recipe: pairs.recipe, part: pairs.part })
      .from(pairs)
      .where(and(among(pairs.clip, ids), eq(pairs.state, 'proven'), isNotNull(pairs.recipe))),
    (m) => m.clip,
    ({ file, recipe, part }) => ({ file, part, recipe: recipe!.name }),
  );
  const briefs = new Map(
    (await db.select({ clip: shown.clip, brief: shown.brief }).from(shown).where(among(shown.clip, ids))).map(
      (r) => [r.clip, r.brief],
    ),
  );
  const placed = new Map(clips.map((c) => [c.clip, c]));
  return (clip) => {
    const of = placed.get(clip);
    if (!of?.original.frames || of.original.sound) return none;
    const out: MadeOf = { files: [], making: [], images: [], notes: [] };
    const take = (what: 'used' | 'view', recipe: Recipe, part: Part | null): void => {
      const there = madeFor(made.get(clip) ?? [], recipe.name, part);
      if (there) out.files.push({ what, file: there.file });
      else {
        out.making.push({ clip, recipe, part });
        out.notes.push({
          what,
          why: part ? `${framesOf(part)} are still to be made` : 'the viewing copy is still to be made',
        });
      }
    };
    if (viewRecipe) take('view', viewRecipe, null);
    if (!wants('used')) return out;
    const parts = joinParts(selected.get(clip) ?? [], form.handles, of.original.frames);
    if (parts.length === 0)
      out.notes.push({
        what: 'used',
        why: used === null ? 'nothing of it is selected' : 'nothing of it is used',
      });
    else if (usedRecipe === null) out.images = parts;
    else {
      const { codec = null, allIntra = null } = briefs.get(clip) ?? {};
      const recipe = recipeForUsed(
        {
          extension: splitPath(of.places.original.path).extension,
          isInterFrame: isInterFrame({ codec, allIntra }),
        },
        usedRecipe,
      );
      for (const part of parts) take('used', recipe, part);
      if (recipe.purpose !== 'rewrap')
        out.notes.push({
          what: 'used',
          why: `transcoded by “${recipe.name}”: its codec is inter-frame, so that it cannot be cut as it is`,
        });
    }
    return out;
  };
}

async function recipeNamed(runtime: InJob, name: string): Promise<Recipe> {
  const known = (await recipesView(runtime)).find((r) => r.recipe.name === name);
  if (!known)
    throw new NotFound(`There is no recipe “${name}” any more.`, { next: 'Choose another in the form.' });
  return known.recipe;
}

/** The stretches of clips that are selected. */
export async function selectsOf({ db }: InJob, ids: readonly string[]): Promise<Map<string, Part[]>> {
  return grouped(
    await db
      .select({ clip: ranges.clip, from: ranges.from, to: ranges.to })
      .from(ranges)
      .where(and(among(ranges.clip, ids), eq(ranges.kind, 'select'))),
    (r) => r.clip,
    ({ from, to }) => ({ from, to }),
  );
}

/** As it is asked of the queue. */
const asked = ({ recipe, part }: Making) => ({ recipe, ...(part ? { part } : {}) });

/** Which of these are being made already, or wait for it. */
export async function openOf(runtime: InJob, making: readonly Making[]): Promise<Set<Making>> {
  const clips = [...new Set(making.map((m) => m.clip))];
  const open = new Set(
    (
      await runtime.db
        .select({ clip: work.clip, wanted: work.wanted })
        .from(work)
        .where(and(eq(work.kind, 'proxy'), inArray(work.state, [...OPEN_WORK]), among(work.clip, clips)))
    ).map((w) => `${w.clip} ${JSON.stringify(w.wanted)}`),
  );
  return new Set(making.filter((m) => open.has(`${m.clip} ${JSON.stringify(asked(m))}`)));
}

/** Queues the making of what is still to be made. */
export async function makeAll(runtime: InJob, making: readonly Making[]): Promise<{ added: number }> {
  const alike = grouped(
    making,
    (m) => JSON.stringify(asked(m)),
    (m) => m,
  );
  let added = 0;
  for (const these of alike.values()) {
    const clips = these.map((m) => m.clip);
    added += (await addWork(runtime, 'proxy', clips, asked(these[0]!))).added;
  }
  return { added };
}
