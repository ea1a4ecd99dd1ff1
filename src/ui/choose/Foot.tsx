'use client';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import type { BinView, StringOutView, Wanted } from '../../core/choose';
import type { ChangeAsked } from '../platform/client';
import { plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import styles from './choose.module.css';
import type { Asking } from './NameDialog';
import type { Acts, Changes } from './useChanges';
import { HANDED, useHandOn } from './useHandOn';

interface Props {
  chosen: ReadonlySet<string>;
  bins: readonly BinView[];
  lists: readonly StringOutView[];
  /** What is shown. */
  wanted: Wanted;
  /** The bin that is shown; null where none is. */
  here: string | null;
  changes: Changes;
  ask: (asking: Asking) => void;
}

/** Clips that are said to have run at once, at most. */
const MOST_TOGETHER = 1000;

/** What is done with the chosen clips. */
export function Foot(props: Props) {
  const { chosen, bins, here, changes, ask } = props;
  const clips = [...chosen];
  const none = clips.length === 0;
  const on = useHandOn(changes);
  const bin = bins.find((b) => b.id === here);
  const put = () =>
    ask(
      bins.length === 0
        ? {
            title: `New bin with ${plural(clips.length, 'clip')}`,
            label: 'Name',
            value: '',
            done: 'Make it',
            take: (name) => changes.acts.change({ do: 'addBin', name, clips }),
          }
        : {
            title: `Put ${plural(clips.length, 'clip')} in a bin`,
            label: 'Bin',
            value: bins[0]!.id,
            options: bins.map((b) => ({ value: b.id, words: b.name })),
            done: 'Put them in',
            take: (to) => changes.acts.change({ do: 'putInBin', bin: to, clips }),
          },
    );
  return (
    <footer className={styles.foot}>
      <strong aria-live="polite">{clips.length} chosen</strong>
      <Button size="small" disabled={none} onClick={put}>
        Put in a bin …
      </Button>
      {bin && (
        <Button
          size="small"
          disabled={none}
          onClick={() => changes.acts.change({ do: 'takeFromBin', bin: bin.id, clips })}
        >
          Take out of {bin.name}
        </Button>
      )}
      <StringOutButton {...props} />
      {clips.length > 1 && <TogetherButton clips={clips} acts={changes.acts} />}
      <HandOnButton clips={clips} on={on} />
      <ErrorNotice error={on.error} close={on.forget} />
      <span className={styles.space} />
      <Button size="small" color="inherit" disabled={!changes.canUndo} onClick={changes.undo} title="Ctrl Z">
        Undo
      </Button>
      <Button
        size="small"
        color="inherit"
        disabled={!changes.canRedo}
        onClick={changes.redo}
        title="Ctrl Shift Z"
      >
        Redo
      </Button>
    </footer>
  );
}

/** Gives the chosen clips to another screen, or has their proxies made. */
function HandOnButton({ clips, on }: { clips: readonly string[]; on: ReturnType<typeof useHandOn> }) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        size="small"
        aria-haspopup="menu"
        disabled={clips.length === 0 || on.pending}
        onClick={(e) => setAt(e.currentTarget)}
      >
        Hand on …
      </Button>
      <Menu anchorEl={at} open={at !== null} onClose={() => setAt(null)}>
        {HANDED.map(([to, words]) => (
          <MenuItem
            key={to}
            dense
            onClick={() => {
              setAt(null);
              on.handOn(to, clips);
            }}
          >
            {words}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

/** Adds the chosen clips, all that is shown, or the selects of that to a string-out. */
function StringOutButton({ chosen, lists, wanted, changes, ask }: Props) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  const take = (words: string, what: Pick<ChangeOf, 'items' | 'found'>) => {
    setAt(null);
    const made = {
      title: `New string-out of ${words}`,
      label: 'Name',
      value: '',
      done: 'Make it',
      take: (name: string) => changes.acts.change({ do: 'addStringOut', name, ...what }),
    };
    if (lists.length === 0) return ask(made);
    ask({
      title: `Add ${words} to a string-out`,
      label: 'String-out',
      value: lists[0]!.id,
      options: [...lists.map((l) => ({ value: l.id, words: l.name })), { value: '', words: 'a new one …' }],
      empty: true,
      done: 'Add',
      take: (list) =>
        list === ''
          ? queueMicrotask(() => ask(made))
          : changes.acts.change({ do: 'addToStringOut', list, ...what }),
    });
  };
  return (
    <>
      <Button size="small" aria-haspopup="menu" onClick={(e) => setAt(e.currentTarget)}>
        String out …
      </Button>
      <Menu anchorEl={at} open={at !== null} onClose={() => setAt(null)}>
        <MenuItem
          dense
          disabled={chosen.size === 0}
          onClick={() => take('the chosen clips', { items: [...chosen].map((clip) => ({ clip })) })}
        >
          The chosen clips
        </MenuItem>
        <MenuItem dense onClick={() => take('all that is shown', { found: { wanted, what: 'clips' } })}>
          All that is shown
        </MenuItem>
        <MenuItem
          dense
          onClick={() => take('the selects of what is shown', { found: { wanted, what: 'selects' } })}
        >
          The selects of what is shown
        </MenuItem>
      </Menu>
    </>
  );
}

type ChangeOf = Extract<ChangeAsked, { do: 'addStringOut' }>;

/** Says of the chosen clips that they ran at the same time. */
function TogetherButton({ clips, acts }: { clips: readonly string[]; acts: Acts }) {
  const many = clips.length > MOST_TOGETHER;
  return (
    <Button
      size="small"
      disabled={many}
      title={many ? `At most ${MOST_TOGETHER} clips` : 'They ran at the same time'}
      onClick={() =>
        acts.change({
          do: 'rollTogether',
          clips: clips.map((clip) => ({ clip, offset: null })),
          was: null,
        })
      }
    >
      Roll together
    </Button>
  );
}
