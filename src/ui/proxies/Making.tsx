'use client';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useMutation, useQuery } from '@tanstack/react-query';
import Link from '../platform/Link';
import { useState } from 'react';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { type Recipe, recipeWords } from '../../core/proxies/recipe';
import type { Makeable, ProxiesView } from '../../core/proxies/shapes';
import { library } from '../platform/client';
import { formatBytes, formatLeft, plural } from '../platform/format';
import { useAddress, useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { foreseen } from './foreseen';
import { RecipesDialog } from './RecipesDialog';
import { RulesDialog } from './RulesDialog';
import styles from './proxies.module.css';
import { Unwatched } from './Unwatched';

/** Rows that are drawn: a job of very many clips is made by all that are shown, not by ticking one by one. */
const MOST_ROWS = 500;

/** The recipes of the library, and those of the job's rules that are in it no more. One that was changed there counts as it is now. */
function useRecipes(view: ProxiesView): Recipe[] {
  const kept = useQuery({ queryKey: ['recipes'], queryFn: library.recipes }).data ?? [];
  const own = [view.rules.recipe, ...view.rules.rules.map((r) => r.recipe)];
  const all = [...own, ...kept.map((k) => k.recipe)];
  return [...new Map(all.map((r) => [r.name, r])).values()];
}

/** What is ticked, against what is at first: proxies of all that need one, and nothing else. */
function useTicks(proxies: boolean) {
  const [turned, setTurned] = useState<ReadonlySet<string>>(new Set());
  return {
    isTicked: (c: Makeable) => (proxies && c.needed) !== turned.has(c.clip),
    toggle: (clips: readonly Makeable[]) =>
      setTurned((old) => {
        const next = new Set(old);
        for (const { clip } of clips) if (!next.delete(clip)) next.add(clip);
        return next;
      }),
    forget: () => setTurned(new Set()),
  };
}

/** What is made next: of the clips that need a proxy, or of any, by the job's rules or a recipe; with size and time foreseen. */
export function Making({ view }: { view: ProxiesView }) {
  const server = useServer();
  const recipes = useRecipes(view);
  const [chosen, setChosen] = useState('');
  const [all, setAll] = useState(false);
  const recipe = recipes.find((r) => r.name === chosen) ?? null;
  const { isTicked, toggle, forget } = useTicks(recipe === null || recipe.purpose === 'proxy');
  const choose = (name: string) => {
    setChosen(name);
    forget();
  };
  const make = useMutation({
    mutationFn: ({ clips, recipe }: { clips: string[]; recipe: Recipe | null }) =>
      server.makeProxies(clips, recipe),
    onSuccess: forget,
  });
  const free = view.clips.filter((c) => !c.has.includes(recipe?.name ?? c.recipe));
  const needed = free.filter((c) => c.needed);
  const rows = all ? free : needed;
  const ticked = rows.filter(isTicked);
  const { recipe: most, rules } = view.rules;
  const byName = new Map([most, ...rules.map((r) => r.recipe)].map((r) => [r.name, r]));
  const will = foreseen(
    ticked.map((clip) => ({ clip, recipe: recipe ?? byName.get(clip.recipe) ?? most })),
    view.measured,
  );
  return (
    <section className={styles.panel} aria-label="What to make">
      <Head
        view={view}
        recipes={recipes}
        needed={needed.length}
        free={free.length}
        all={all}
        setAll={setAll}
      />
      <By recipes={recipes} recipe={recipe} rules={view.rules.recipe} set={choose} />
      {rows.length === 0 ? (
        <p className={styles.none}>{noneWords(view, free.length)}</p>
      ) : (
        <>
          <div className={styles.needs}>
            <table aria-label="Clips">
              <tbody>
                {rows.slice(0, MOST_ROWS).map((c) => (
                  <Row key={c.clip} clip={c} ticked={isTicked(c)} toggle={() => toggle([c])} />
                ))}
              </tbody>
            </table>
            {rows.length > MOST_ROWS && (
              <p className={styles.none}>
                and {plural(rows.length - MOST_ROWS, 'more clip')}, not drawn here
              </p>
            )}
          </div>
          <footer>
            <span className="soft">
              <Button size="small" color="inherit" onClick={() => toggle(ticked.length > 0 ? ticked : rows)}>
                {ticked.length > 0 ? 'Untick all' : `Tick all ${rows.length}`}
              </Button>
              {ticked.length > 0 && (
                <>
                  About <b>{formatBytes(will.bytes)}</b> and <b>{formatLeft(will.seconds)}</b>
                  {will.guessed ? ', a guess so far' : ', as measured here'}.
                </>
              )}
            </span>
            <Button
              variant="contained"
              disabled={ticked.length === 0 || make.isPending}
              onClick={() => make.mutate({ clips: ticked.map((t) => t.clip), recipe })}
            >
              Make {madeWords(ticked.length, recipe)}
            </Button>
          </footer>
        </>
      )}
      <ErrorNotice error={make.error} close={() => make.reset()} />
      <Unwatched clips={view.unwatched} />
    </section>
  );
}

/** Which clips are listed, and the ways to rules and recipes. */
function Head({
  view,
  recipes,
  needed,
  free,
  all,
  setAll,
}: {
  view: ProxiesView;
  recipes: readonly Recipe[];
  needed: number;
  free: number;
  all: boolean;
  setAll: (all: boolean) => void;
}) {
  const [open, setOpen] = useState<'rules' | 'recipes' | null>(null);
  const close = () => setOpen(null);
  return (
    <header>
      <div>
        <h1>Needs a proxy</h1>
        <span className={styles.which} role="group" aria-label="Which clips">
          <button type="button" aria-pressed={!all} onClick={() => setAll(false)}>
            {plural(needed, 'needs', 'need')} one
          </button>
          <button type="button" aria-pressed={all} onClick={() => setAll(true)}>
            all {free}
          </button>
        </span>
      </div>
      <Button size="small" onClick={() => setOpen('rules')}>
        Rules …
      </Button>
      <Button size="small" onClick={() => setOpen('recipes')}>
        Recipes …
      </Button>
      {open === 'rules' && <RulesDialog view={view} recipes={recipes} close={close} />}
      {open === 'recipes' && <RecipesDialog clips={view.clips} close={close} />}
    </header>
  );
}

/** By which recipe it is made. */
const By = ({
  recipes,
  recipe,
  rules,
  set,
}: {
  recipes: readonly Recipe[];
  recipe: Recipe | null;
  /** The recipe of most clips by the job's rules. */
  rules: Recipe;
  set: (name: string) => void;
}) => (
  <div className={styles.by}>
    <TextField
      select
      size="small"
      label="Made by"
      value={recipe?.name ?? ''}
      onChange={(e) => set(e.target.value)}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
    >
      <MenuItem value="">the rules of the job</MenuItem>
      {recipes.map((r) => (
        <MenuItem key={r.name} value={r.name}>
          {r.name}
        </MenuItem>
      ))}
    </TextField>
    <span className="soft">{recipeWords(recipe ?? rules)}</span>
  </div>
);

const madeWords = (n: number, recipe: Recipe | null): string =>
  recipe?.purpose === 'transcode'
    ? plural(n, 'transcode')
    : recipe?.purpose === 'rewrap'
      ? plural(n, 'rewrap')
      : plural(n, 'proxy', 'proxies');

function noneWords(view: ProxiesView, free: number): string {
  if (free === 0 && view.clips.length > 0) return 'Every clip has one by this recipe.';
  const first = view.pairs.filter((p) => p.first);
  return first.every((p) => p.state === 'proven')
    ? 'Every clip has a proven proxy.'
    : 'No clip is waiting for a proxy.';
}

function Row({ clip: c, ticked, toggle }: { clip: Makeable; ticked: boolean; toggle: () => void }) {
  const address = useAddress();
  return (
    <tr>
      <td>
        <input type="checkbox" checked={ticked} onChange={toggle} aria-label={`Make a proxy of ${c.name}`} />
      </td>
      <th className="figures">
        <Link href={address(`/card/${c.card}?clip=${c.clip}`)}>{c.name}</Link>
      </th>
      <td className="figures soft">{c.card}</td>
      <td className="figures">{formatRunningTime(c.seconds)}</td>
      <td className="soft">{c.because}</td>
    </tr>
  );
}
