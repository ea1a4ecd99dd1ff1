import { asc, eq } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { neededOf } from '../../core/proxies/arguments';
import { READY_RECIPES, type Recipe, type RecipeFile, type RecipesView } from '../../core/proxies/recipe';
import { NotFound, Refused } from '../platform/errors';
import { abilities } from '../platform/media/tools';
import type { Ports } from './ports';
import { recipes } from './tables';

type Library = Pick<Ports, 'db' | 'events'>;

const isReady = (name: string): boolean =>
  READY_RECIPES.some((r) => r.name.toLowerCase() === name.toLowerCase());

/** The recipes that are always there, then the kept ones by name. */
export async function recipesView({ db }: Pick<Library, 'db'>): Promise<RecipesView> {
  const kept = await db.select().from(recipes).orderBy(asc(recipes.name));
  const all = [
    ...READY_RECIPES.map((recipe) => ({ id: `ready ${recipe.name}`, ready: true, recipe })),
    ...kept.map(({ id, recipe }) => ({ id, ready: false, recipe })),
  ];
  return Promise.all(all.map(async (k) => ({ ...k, cannot: await cannot(k.recipe) })));
}

/** Why the FFmpeg that is here cannot make what a recipe says, in a sentence; null where it can. */
export async function cannot(recipe: Recipe): Promise<string | null> {
  const [needed, has] = [neededOf(recipe), await abilities()];
  const missing = [
    ...needed.encoders.filter((e) => !has.encoders.has(e)).map((e) => `encoder “${e}”`),
    ...needed.filters.filter((f) => !has.filters.has(f)).map((f) => `filter “${f}”`),
  ];
  return missing.length === 0
    ? null
    : `The FFmpeg that is here was built without the ${missing.join(' and the ')}.`;
}

/** Keeps a recipe under its name; one of that name is replaced. */
export async function keepRecipe({ db, events }: Library, recipe: Recipe): Promise<{ id: string }> {
  if (isReady(recipe.name))
    throw new Refused(`“${recipe.name}” is one of the recipes that are always there.`, {
      next: 'Give yours another name.',
    });
  const [row] = await db
    .insert(recipes)
    .values({ id: randomUUID(), name: recipe.name, recipe })
    .onConflictDoUpdate({ target: recipes.name, set: { recipe } })
    .returning({ id: recipes.id });
  events.changed('job');
  return { id: row!.id };
}

/** Keeps what a file holds; what is always there is passed over. */
export async function importRecipes(library: Library, file: RecipeFile): Promise<{ added: number }> {
  const own = file.recipes.filter((r) => !isReady(r.name));
  for (const recipe of own) await keepRecipe(library, recipe);
  return { added: own.length };
}

export async function dropRecipe({ db, events }: Library, id: string): Promise<void> {
  if ((await db.delete(recipes).where(eq(recipes.id, id)).returning()).length === 0)
    throw new NotFound('This recipe has already been removed.');
  events.changed('job');
}
