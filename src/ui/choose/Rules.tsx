'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { LONGEST_NAME, Rule, RuleKind, type RuleView, SEARCH_FIELDS } from '../../core/choose';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import styles from './rules.module.css';
import { faultOf } from './SearchLine';
import type { Changes } from './useChanges';

const KINDS: Record<RuleKind, string> = {
  search: 'What a search finds',
  field: 'What a field says',
  folders: 'Names of folders',
};
const blank = (kind: RuleKind): Rule =>
  Rule.parse({ kind, field: kind === 'field' ? 'scene' : '', words: kind === 'field' ? 'Scene' : '' });
/** Fields of the catalogue whose values are words. */
const WORDED = SEARCH_FIELDS.filter((f) => f.fact !== null && f.type === 'text');

/** By which rules clips are given keywords; each is changed, removed, or added. */
export function Rules({
  rules,
  changes,
  close,
}: {
  rules: readonly RuleView[];
  changes: Changes;
  close: () => void;
}) {
  const [open, setOpen] = useState<{ id: string | null; rule: Rule } | null>(
    rules.length === 0 ? { id: null, rule: blank('search') } : null,
  );
  const { change } = changes.acts;
  const keep = () => {
    if (!open) return;
    const was = rules.find((r) => r.id === open.id);
    if (was) change({ do: 'editRule', rule: was.id, set: open.rule, was: Rule.parse(was) });
    else change({ do: 'addRule', rule: open.rule });
    setOpen(null);
  };
  const not = open && missing(open.rule);
  return (
    <Dialog open onClose={close} maxWidth="sm" fullWidth aria-labelledby="rules">
      <DialogTitle id="rules">Keywords by rule</DialogTitle>
      <DialogContent className={styles.rules}>
        <ErrorNotice error={changes.error} close={changes.forgetError} />
        <p className="soft">
          Clips get and lose these keywords by themselves as they come to fit and cease to. What you give or
          take by hand stays as you did it.
        </p>
        {rules.length > 0 && (
          <ul aria-label="Rules">
            {rules.map((r) => (
              <li key={r.id} data-open={open?.id === r.id ? '' : undefined}>
                <span className={styles.says}>{r.says}</span>
                <span className={r.fault === null ? 'figures soft' : styles.fault}>
                  {r.fault ??
                    `${plural(r.clips, 'clip')}${r.kind === 'search' ? '' : `, ${plural(r.keywords, 'keyword')}`}`}
                </span>
                <button type="button" onClick={() => setOpen({ id: r.id, rule: Rule.parse(r) })}>
                  Change
                </button>
                <button
                  type="button"
                  aria-label={`Remove the rule ${r.says}`}
                  onClick={() => {
                    change({ do: 'removeRule', rule: r.id });
                    setOpen(null);
                  }}
                >
                  Remove
                </button>
              </li>
            ))}
          </ul>
        )}
        {open ? (
          <form
            aria-label={open.id === null ? 'New rule' : 'The rule'}
            onSubmit={(e) => {
              e.preventDefault();
              if (not === null) keep();
            }}
          >
            <Form rule={open.rule} set={(rule) => setOpen({ ...open, rule })} />
            <div className={styles.keep}>
              <Button type="submit" variant="contained" size="small" disabled={not !== null}>
                {open.id === null ? 'Add the rule' : 'Change the rule'}
              </Button>
              {rules.length > 0 && (
                <Button size="small" onClick={() => setOpen(null)}>
                  Cancel
                </Button>
              )}
              {not && <span className="soft">{not}</span>}
            </div>
          </form>
        ) : (
          <Button size="small" onClick={() => setOpen({ id: null, rule: blank('search') })}>
            New rule …
          </Button>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

/** What a rule lacks yet; null where it is whole. */
function missing({ kind, words, query }: Rule): string | null {
  if (kind !== 'search') return null;
  if (words.trim() === '') return 'Write which keyword it gives.';
  if (query.trim() === '') return 'Write what is searched for.';
  return faultOf(query)?.message ?? null;
}

function Form({ rule, set }: { rule: Rule; set: (rule: Rule) => void }) {
  return (
    <div className={styles.form}>
      <label>
        From
        <select
          aria-label="From"
          autoFocus
          value={rule.kind}
          onChange={(e) => set(blank(RuleKind.parse(e.target.value)))}
        >
          {RuleKind.options.map((k) => (
            <option key={k} value={k}>
              {KINDS[k]}
            </option>
          ))}
        </select>
      </label>
      {rule.kind === 'search' && <OfSearch {...{ rule, set }} />}
      {rule.kind === 'field' && <OfField {...{ rule, set }} />}
      {rule.kind === 'folders' && <OfFolders {...{ rule, set }} />}
      {rule.kind !== 'search' && (
        <label className={styles.wide}>
          Never these, one a line
          <textarea
            rows={2}
            value={rule.without}
            onChange={(e) => set({ ...rule, without: e.target.value })}
          />
        </label>
      )}
    </div>
  );
}

interface Part {
  rule: Rule;
  set: (rule: Rule) => void;
}

function OfSearch({ rule, set }: Part) {
  return (
    <>
      <label>
        Keyword
        <input
          maxLength={LONGEST_NAME}
          value={rule.words}
          onChange={(e) => set({ ...rule, words: e.target.value })}
        />
      </label>
      <label className={styles.wide}>
        Where this is so
        <input
          placeholder="rate over edit"
          spellCheck={false}
          value={rule.query}
          onChange={(e) => set({ ...rule, query: e.target.value })}
        />
      </label>
      <p className={`soft ${styles.wide}`}>
        Written as in the search line. “rate over edit” finds what is recorded faster than the edit runs.{' '}
        <button
          type="button"
          className={styles.example}
          onClick={() => set({ ...rule, words: rule.words || 'slow motion', query: 'rate over edit' })}
        >
          Use it
        </button>
      </p>
    </>
  );
}

function OfField({ rule, set }: Part) {
  return (
    <>
      <label>
        Field
        <select
          aria-label="Field"
          value={rule.field}
          onChange={(e) =>
            set({ ...rule, field: e.target.value, words: e.target.value === 'scene' ? 'Scene' : '' })
          }
        >
          {WORDED.map((f) => (
            <option key={f.word} value={f.word}>
              {f.term}
            </option>
          ))}
        </select>
      </label>
      <label>
        Put before it
        <input maxLength={60} value={rule.words} onChange={(e) => set({ ...rule, words: e.target.value })} />
      </label>
    </>
  );
}

function OfFolders({ rule, set }: Part) {
  const server = useServer();
  const levels = useQuery({ queryKey: ['choose', 'folders'], queryFn: server.folderLevels });
  const all = levels.data ?? [];
  const chosen = rule.levels === '' ? all.map((l) => l.level) : rule.levels.split(' ').map(Number);
  const turn = (level: number) => {
    const next = chosen.includes(level)
      ? chosen.filter((l) => l !== level)
      : [...chosen, level].sort((a, b) => a - b);
    // None would mean all of them.
    if (next.length > 0) set({ ...rule, levels: next.length === all.length ? '' : next.join(' ') });
  };
  return (
    <fieldset className={styles.wide}>
      <legend>Folders the clips were taken in from</legend>
      <ErrorNotice error={levels.error} />
      {levels.data?.length === 0 && <p className="soft">The clips stood in no folder.</p>}
      {all.map(({ level, names, more }) => (
        <label key={level} className={styles.level}>
          <input type="checkbox" checked={chosen.includes(level)} onChange={() => turn(level)} />
          <span>
            {names.join(', ')}
            {more > 0 && <span className="soft"> and {more} more</span>}
          </span>
        </label>
      ))}
      <p className="soft">Folders that every card has, as DCIM and CLIP, are left out.</p>
    </fieldset>
  );
}
