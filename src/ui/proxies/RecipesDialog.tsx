'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import {
  faultsOf,
  LIGHT,
  type Recipe,
  RecipeFile,
  type RecipesView,
  recipeWords,
  sameRecipe,
} from '../../core/proxies/recipe';
import { library } from '../platform/client';
import { plural } from '../platform/format';
import { ImportButton, savedAs, readShaped } from '../platform/JsonFile';
import { ErrorNotice } from '../platform/Notice';
import { RecipeEditor } from './RecipeEditor';
import { TryRecipe } from './TryRecipe';
import type { Makeable } from '../../core/proxies/shapes';
import styles from './proxies.module.css';

/** The recipes of the library: looked at, changed, kept, removed, and exchanged as JSON files. */
export function RecipesDialog({ clips, close }: { clips: readonly Makeable[]; close: () => void }) {
  const queries = useQueryClient();
  const list = useQuery({ queryKey: ['recipes'], queryFn: library.recipes }).data ?? [];
  const [recipe, setRecipe] = useState<Recipe>(LIGHT);
  const [said, setSaid] = useState<string | null>(null);
  const act = useMutation({
    mutationFn: (work: () => Promise<string>) => work(),
    onMutate: () => setSaid(null),
    onSuccess: (text) => {
      setSaid(text);
      void queries.invalidateQueries({ queryKey: ['recipes'] });
    },
  });
  const kept = list.find((k) => k.recipe.name.toLowerCase() === recipe.name.trim().toLowerCase());
  const changed = !kept || recipe.name !== kept.recipe.name || !sameRecipe(kept.recipe, recipe);
  const faults = [
    ...faultsOf(recipe),
    ...(kept?.ready === true && changed ? ['Give it a name of its own: this one is always there.'] : []),
    ...(recipe.name.trim() === '' ? ['Give it a name.'] : []),
  ];
  return (
    <Dialog open onClose={close} maxWidth="md" fullWidth>
      <DialogTitle sx={{ pb: 0 }}>Recipes</DialogTitle>
      <DialogContent className={styles.recipes}>
        <Kept
          list={list}
          chosen={kept?.id ?? null}
          choose={(next) => {
            setRecipe(next);
            setSaid(null);
            act.reset();
          }}
        />
        <div>
          <RecipeEditor recipe={recipe} set={setRecipe} />
          {changed && <Faults faults={faults} />}
          <TryRecipe
            key={JSON.stringify(recipe)}
            recipe={recipe}
            clips={clips}
            faulty={faultsOf(recipe).length > 0}
          />
          {said && (
            <p role="status" className="soft">
              {said}
            </p>
          )}
          <ErrorNotice error={act.error} close={() => act.reset()} />
        </div>
      </DialogContent>
      <DialogActions>
        <ImportButton
          label="Recipe file"
          read={(chosen) =>
            act.mutate(async () => {
              const { added } = await library.importRecipes(await readShaped(chosen, RecipeFile, 'recipes'));
              return `${plural(added, 'recipe')} added from ${chosen.name}`;
            })
          }
        />
        <Button color="inherit" href={savedAs('recipes', recipe)} download={`${recipe.name}.json`}>
          Export
        </Button>
        {kept && !kept.ready && (
          <Button
            color="inherit"
            onClick={() =>
              act.mutate(() => library.dropRecipe(kept.id).then(() => `“${kept.recipe.name}” was removed`))
            }
          >
            Remove
          </Button>
        )}
        <span style={{ flex: 1 }} />
        <Button
          disabled={faults.length > 0 || !changed || act.isPending}
          onClick={() => act.mutate(() => library.keepRecipe(recipe).then(() => `“${recipe.name}” is kept`))}
        >
          Keep
        </Button>
        <Button variant="contained" onClick={close}>
          Done
        </Button>
      </DialogActions>
    </Dialog>
  );
}

const Faults = ({ faults }: { faults: readonly string[] }) =>
  faults.length === 0 ? null : (
    <ul className={styles.faults} role="alert">
      {faults.map((f) => (
        <li key={f}>{f}</li>
      ))}
    </ul>
  );

const Kept = ({
  list,
  chosen,
  choose,
}: {
  list: RecipesView;
  chosen: string | null;
  choose: (recipe: Recipe) => void;
}) => (
  <ul aria-label="Recipes">
    {list.map((k) => (
      <li key={k.id}>
        <button type="button" aria-pressed={k.id === chosen} onClick={() => choose(k.recipe)}>
          {k.recipe.name}
          {k.cannot && <span className={styles.fault}>{k.cannot}</span>}
          <span className="soft">{k.ready ? recipeWords(k.recipe) : `yours · ${recipeWords(k.recipe)}`}</span>
        </button>
      </li>
    ))}
  </ul>
);
