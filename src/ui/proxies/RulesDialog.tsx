'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useMutation } from '@tanstack/react-query';
import { type ReactNode, useState } from 'react';
import type { NeedRule, ProxyRules } from '../../core/proxies/need';
import { type Recipe, recipeWords, sameRecipe } from '../../core/proxies/recipe';
import type { ProxiesView } from '../../core/proxies/shapes';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { Ticks } from '../platform/Ticks';
import styles from './proxies.module.css';

type Rule = ProxyRules['rules'][number];

/** What needs a proxy in this job, and by which recipe it is made. Each change counts at once. */
export function RulesDialog({
  view,
  recipes,
  close,
}: {
  view: ProxiesView;
  recipes: readonly Recipe[];
  close: () => void;
}) {
  const server = useServer();
  const [rules, setRules] = useState(view.rules);
  // One after the other: the last change is the one that stays.
  const save = useMutation({ mutationFn: server.saveSettings, scope: { id: 'proxy rules' } });
  const set = (next: ProxyRules) => {
    setRules(next);
    save.mutate({ proxies: next });
  };
  const setNeed = (need: NeedRule) => set({ ...rules, need });
  const setRule = (id: string, change: Partial<Rule>) =>
    set({ ...rules, rules: rules.rules.map((r) => (r.id === id ? { ...r, ...change } : r)) });
  const needed = view.clips.filter((c) => c.needed).length;
  return (
    <Dialog open onClose={close} maxWidth="md" fullWidth>
      <DialogTitle sx={{ pb: 0 }}>What needs a proxy, and how it is made</DialogTitle>
      <DialogContent>
        <div className={styles.rules}>
          <Needs need={rules.need} set={setNeed} codecs={view.known.codecs} />
          <ByItself rules={rules} set={set} />
          <p role="status" className="soft">
            By this rule {plural(needed, 'clip needs', 'clips need')} a proxy that{' '}
            {needed === 1 ? 'has' : 'have'} none proven.
          </p>
          <h2>By which recipe</h2>
          {rules.rules.map((r, i) => (
            <SomeClips
              key={r.id}
              number={i + 1}
              rule={r}
              known={view.known}
              recipes={recipes}
              set={(change) => setRule(r.id, change)}
              remove={() => set({ ...rules, rules: rules.rules.filter((x) => x.id !== r.id) })}
            />
          ))}
          <div className={styles.rule}>
            <div>
              <Choice
                label={rules.rules.length === 0 ? 'Every clip by' : 'All others by'}
                recipes={recipes}
                value={rules.recipe}
                set={(recipe) => set({ ...rules, recipe })}
              />
              <Button
                size="small"
                disabled={rules.rules.length >= 40}
                onClick={() =>
                  set({
                    ...rules,
                    rules: [
                      ...rules.rules,
                      {
                        id: newId(rules.rules),
                        scope: { cameras: [], rates: [], codecs: [] },
                        recipe: rules.recipe,
                      },
                    ],
                  })
                }
              >
                Another recipe for some clips …
              </Button>
            </div>
          </div>
          <p className="soft">The first line that fits a clip counts; nothing ticked in a line is any.</p>
        </div>
        <ErrorNotice error={save.error} close={() => save.reset()} />
      </DialogContent>
      <DialogActions>
        <Button variant="contained" onClick={close}>
          Done
        </Button>
      </DialogActions>
    </Dialog>
  );
}

const newId = (rules: readonly Rule[]): string => {
  let n = rules.length + 1;
  while (rules.some((r) => r.id === `r${n}`)) n++;
  return `r${n}`;
};

/** Which clips take a recipe of their own. */
function SomeClips({
  number,
  rule: r,
  known,
  recipes,
  set,
  remove,
}: {
  number: number;
  rule: Rule;
  known: ProxiesView['known'];
  recipes: readonly Recipe[];
  set: (change: Partial<Rule>) => void;
  remove: () => void;
}) {
  const ticks = (word: 'cameras' | 'rates' | 'codecs') => (
    <Ticks
      word={word}
      options={known[word].map((c) => [c, c])}
      chosen={r.scope[word]}
      set={(chosen) => set({ scope: { ...r.scope, [word]: chosen } })}
    />
  );
  return (
    <div className={styles.rule} role="group" aria-label={`Recipe for some clips, ${number}`}>
      {ticks('cameras')}
      {ticks('rates')}
      {ticks('codecs')}
      <div>
        <Choice label="These by" recipes={recipes} value={r.recipe} set={(recipe) => set({ recipe })} />
        <Button size="small" color="inherit" onClick={remove}>
          Remove
        </Button>
      </div>
    </div>
  );
}

function Choice({
  label,
  recipes,
  value,
  set,
}: {
  label: string;
  recipes: readonly Recipe[];
  value: Recipe;
  set: (recipe: Recipe) => void;
}) {
  const now = recipes.find((r) => r.name === value.name);
  return (
    <div>
      <TextField
        select
        size="small"
        label={label}
        value={value.name}
        helperText={recipeWords(value)}
        onChange={(e) => {
          const recipe = recipes.find((r) => r.name === e.target.value);
          if (recipe) set(recipe);
        }}
        sx={{ minWidth: 320 }}
      >
        {recipes.map((r) => (
          <MenuItem key={r.name} value={r.name}>
            {r.name}
          </MenuItem>
        ))}
      </TextField>
      {now && !sameRecipe(now, value) && (
        <Button size="small" onClick={() => set(now)}>
          It was changed since: take it as it is now
        </Button>
      )}
    </div>
  );
}

/** A number that is taken once it makes sense. */
function Figure({
  label,
  value,
  least,
  most,
  set,
}: {
  label: string;
  value: number;
  least: number;
  most: number;
  set: (n: number) => void;
}) {
  const [text, setText] = useState(String(value));
  const n = Number(text);
  const fits = text.trim() !== '' && Number.isFinite(n) && n >= least && n <= most;
  return (
    <input
      className={`figures ${styles.figure}`}
      aria-label={label}
      aria-invalid={!fits}
      title={fits ? undefined : `from ${least} to ${most}`}
      value={text}
      onChange={(e) => {
        setText(e.target.value);
        const next = Number(e.target.value);
        if (e.target.value.trim() !== '' && next >= least && next <= most) set(next);
      }}
    />
  );
}

/** Whether what needs a proxy gets it without being asked for. */
const ByItself = ({ rules, set }: { rules: ProxyRules; set: (next: ProxyRules) => void }) => (
  <Tick on={rules.byItself === true} turn={() => set({ ...rules, byItself: rules.byItself !== true })}>
    make what needs one by itself, as soon as clips are read; while a card is being copied, each clip once it
    is verified
  </Tick>
);

/** One thing that is so or not, with its limit where it has one. */
const Tick = ({ on, turn, children }: { on: boolean; turn: () => void; children: ReactNode }) => (
  <div>
    <label>
      <input type="checkbox" checked={on} onChange={turn} /> {children}
    </label>
  </div>
);

/** What makes a clip heavy: any that is ticked. */
function Needs({
  need,
  set,
  codecs,
}: {
  need: NeedRule;
  set: (need: NeedRule) => void;
  codecs: readonly string[];
}) {
  const { bits, larger, faster, bitRate } = need;
  const change = (part: Partial<NeedRule>) => set({ ...need, ...part });
  const figure = (
    label: string,
    value: number,
    least: number,
    most: number,
    to: (n: number) => Partial<NeedRule>,
  ) => <Figure label={label} value={value} least={least} most={most} set={(n) => change(to(n))} />;
  return (
    <fieldset className={styles.heavy}>
      <legend>A clip needs a proxy where it is any of these</legend>
      <Tick on={need.interFrame} turn={() => change({ interFrame: !need.interFrame })}>
        coded between frames (long GOP)
      </Tick>
      <Tick on={need.fineChroma} turn={() => change({ fineChroma: !need.fineChroma })}>
        coded between frames with chroma 4:2:2 or 4:4:4
      </Tick>
      <Tick on={bits !== null} turn={() => change({ bits: bits === null ? 10 : null })}>
        of at least{' '}
        {bits === null ? 'ten' : figure('Bits a sample', bits, 8, 32, (n) => ({ bits: Math.round(n) }))} bits
      </Tick>
      <Tick
        on={larger !== null}
        turn={() => change({ larger: larger === null ? { width: 2048, height: 1152 } : null })}
      >
        larger than{' '}
        {larger === null ? (
          'a given frame size'
        ) : (
          <>
            {figure('Width in pixels', larger.width, 16, 32_768, (n) => ({
              larger: { ...larger, width: Math.round(n) },
            }))}{' '}
            ×{' '}
            {figure('Height in pixels', larger.height, 16, 32_768, (n) => ({
              larger: { ...larger, height: Math.round(n) },
            }))}
          </>
        )}
      </Tick>
      <Tick on={faster !== null} turn={() => change({ faster: faster === null ? 60 : null })}>
        faster than{' '}
        {faster === null
          ? 'a given rate'
          : figure('Frames a second', faster, 1, 1000, (n) => ({ faster: n }))}
        {faster === null ? '' : ' fps'}
      </Tick>
      <Tick on={bitRate !== null} turn={() => change({ bitRate: bitRate === null ? 250_000_000 : null })}>
        of more than{' '}
        {bitRate === null
          ? 'a given bit rate'
          : figure('Megabits a second', bitRate / 1e6, 0.1, 100_000, (n) => ({
              bitRate: Math.round(n * 1e6),
            }))}
        {bitRate === null ? '' : ' Mbit/s'}
      </Tick>
      <Ticks
        word="coded as"
        options={[...new Set([...codecs, ...need.codecs])].map((c) => [c, c])}
        chosen={need.codecs}
        set={(chosen) => change({ codecs: chosen })}
      />
      <Tick on={need.all} turn={() => change({ all: !need.all })}>
        every clip, whatever it is
      </Tick>
    </fieldset>
  );
}
