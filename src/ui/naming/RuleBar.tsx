'use client';
import Button from '@mui/material/Button';
import Popover from '@mui/material/Popover';
import { useState } from 'react';
import { ClipKind, KIND_WORDS } from '../../core/intake';
import type { NamingRule, RuleScope } from '../../core/naming/convention';
import { Ticks } from '../platform/Ticks';
import styles from './naming.module.css';

/** What the clips of a scope are called. */
export function scopeWords(scope: RuleScope): string {
  const parts = [
    ...(scope.kinds.length > 0 ? [scope.kinds.map((k) => KIND_WORDS[k]).join(', ')] : []),
    ...(scope.cameras.length > 0 ? [`camera ${scope.cameras.join(', ')}`] : []),
    ...(scope.rates.length > 0 ? [`${scope.rates.join(', ')} fps`] : []),
    ...(scope.cards.length > 0 ? [scope.cards.join(', ')] : []),
  ];
  return parts.length > 0 ? parts.join(' · ') : 'every clip';
}

/** Which clips take which convention: a tab for each rule, and one for all other clips. */
export function RuleBar({
  rules,
  set,
  editing,
  edit,
  begin,
  known,
}: {
  rules: readonly NamingRule[];
  set: (rules: NamingRule[]) => void;
  /** The rule that is on the bench, "" for the job's own convention. */
  editing: string;
  edit: (rule: string) => void;
  /** A rule like the one on the bench, for some clips. */
  begin: (scope: RuleScope) => NamingRule;
  known: { cameras: readonly string[]; rates: readonly string[]; cards: readonly string[] };
}) {
  const [open, setOpen] = useState<HTMLElement | null>(null);
  const rule = rules.find((r) => r.id === editing);
  const change = (scope: RuleScope) => set(rules.map((r) => (r.id === editing ? { ...r, scope } : r)));
  const add = (at: HTMLElement) => {
    const made = begin({ kinds: [], cameras: [], rates: [], cards: [] });
    set([...rules, made]);
    edit(made.id);
    setOpen(at);
  };
  return (
    <div className={styles.rules} role="group" aria-label="Rules">
      {rules.map((r) => (
        <button
          key={r.id}
          type="button"
          aria-pressed={r.id === editing}
          onClick={(e) => (r.id === editing ? setOpen(e.currentTarget) : edit(r.id))}
          title="The first rule that fits a clip counts"
        >
          {scopeWords(r.scope)}
        </button>
      ))}
      {rules.length > 0 && (
        <button type="button" aria-pressed={editing === ''} onClick={() => edit('')}>
          all other clips
        </button>
      )}
      <button
        type="button"
        className={styles.more}
        onClick={(e) => add(e.currentTarget)}
        disabled={rules.length >= 40}
      >
        {rules.length === 0 ? 'Other names for some clips …' : '+ rule'}
      </button>
      <Popover
        open={open !== null && rule !== undefined}
        anchorEl={open}
        onClose={() => setOpen(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      >
        {rule && (
          <Scope
            scope={rule.scope}
            change={change}
            known={known}
            remove={() => {
              setOpen(null);
              edit('');
              set(rules.filter((r) => r.id !== rule.id));
            }}
            done={() => setOpen(null)}
          />
        )}
      </Popover>
    </div>
  );
}

/** Which clips a rule is for. */
function Scope({
  scope,
  change,
  known,
  remove,
  done,
}: {
  scope: RuleScope;
  change: (scope: RuleScope) => void;
  known: { cameras: readonly string[]; rates: readonly string[]; cards: readonly string[] };
  remove: () => void;
  done: () => void;
}) {
  return (
    <div className={styles.scope} role="group" aria-label="Clips of this rule">
      <strong>This rule is for</strong>
      <Ticks
        word="kinds"
        options={ClipKind.options.map((k) => [k, KIND_WORDS[k]])}
        chosen={scope.kinds}
        set={(kinds) => change({ ...scope, kinds })}
      />
      <Ticks
        word="cameras"
        options={known.cameras.map((c) => [c, c])}
        chosen={scope.cameras}
        set={(cameras) => change({ ...scope, cameras })}
      />
      <Ticks
        word="rates"
        options={known.rates.map((c) => [c, c])}
        chosen={scope.rates}
        set={(rates) => change({ ...scope, rates })}
      />
      <Ticks
        word="cards"
        options={known.cards.map((c) => [c, c])}
        chosen={scope.cards}
        set={(cards) => change({ ...scope, cards })}
      />
      <span className="soft">Nothing ticked in a line is any.</span>
      <div>
        <Button size="small" color="inherit" onClick={remove}>
          Remove the rule
        </Button>
        <Button size="small" variant="contained" onClick={done}>
          Done
        </Button>
      </div>
    </div>
  );
}
