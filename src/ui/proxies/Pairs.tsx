'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useMutation } from '@tanstack/react-query';
import Link from '../platform/Link';
import { useState } from 'react';
import { PAIR_WORDS, PairState } from '../../core/proxies/prove';
import { comparedInWords, type PairLine } from '../../core/proxies/shapes';
import { formatBytes, formatMoment, plural } from '../platform/format';
import { useAddress, useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { PairMark } from '../platform/PairMark';
import { AdoptDialog } from './AdoptDialog';
import { LostDialog } from './LostDialog';
import styles from './proxies.module.css';

/** Rows that are drawn. */
const MOST_ROWS = 1000;

/** Every file that stands beside an original, by the state of its pair. */
export function Pairs({ pairs }: { pairs: readonly PairLine[] }) {
  const server = useServer();
  const [state, setState] = useState<PairState | null>(null);
  const [menu, setMenu] = useState<{ at: HTMLElement; line: PairLine } | null>(null);
  const [removing, setRemoving] = useState<PairLine | null>(null);
  const [adopting, setAdopting] = useState(false);
  const [finding, setFinding] = useState(false);
  const prove = useMutation({ mutationFn: server.provePairs });
  const act = useMutation({ mutationFn: server.actOnPair });
  const shown = pairs.filter((p) => state === null || p.state === state);
  const counts = new Map(
    PairState.options.map((s) => [s, pairs.filter((p) => p.first && p.state === s).length]),
  );
  return (
    <section className={`${styles.panel} ${styles.pairs}`} aria-label="Pairs">
      <header>
        <div>
          <h1>Pairs</h1>
          <span className="soft">
            proven by frames, rate, timecode, duration, channels, aspect and pictures
          </span>
        </div>
        <Button size="small" onClick={() => setAdopting(true)}>
          Adopt …
        </Button>
        <Button size="small" onClick={() => setFinding(true)}>
          Find lost …
        </Button>
        <Button
          size="small"
          disabled={prove.isPending}
          onClick={() => prove.mutate([...new Set(shown.map((s) => s.clip))])}
        >
          {prove.isPending ? 'Proving …' : 'Prove again'}
        </Button>
      </header>
      <ErrorNotice error={prove.error ?? act.error} close={() => (prove.reset(), act.reset())} />
      {prove.data && (
        <p role="status" className={styles.compared}>
          {comparedInWords(prove.data)}
        </p>
      )}
      <div className={styles.states} role="group" aria-label="Pairs by state">
        {PairState.options
          .filter((s) => s === state || counts.get(s)! > 0)
          .map((s) => (
            <button
              key={s}
              type="button"
              aria-pressed={state === s}
              onClick={() => setState(state === s ? null : s)}
            >
              <b className="figures">{counts.get(s)}</b>
              <PairMark state={s} words />
            </button>
          ))}
      </div>
      <div className={styles.pairRows}>
        <table aria-label="Pairs">
          <tbody>
            {shown.slice(0, MOST_ROWS).map((p) => (
              <Line key={p.file ?? p.clip} line={p} menu={(at) => setMenu({ at, line: p })} />
            ))}
          </tbody>
        </table>
        {shown.length > MOST_ROWS && (
          <p className={styles.none}>and {plural(shown.length - MOST_ROWS, 'more line')}, not drawn here</p>
        )}
      </div>
      {menu && (
        <LineMenu
          {...menu}
          act={(action) => act.mutate({ action, file: menu.line.file! })}
          remove={() => setRemoving(menu.line)}
          close={() => setMenu(null)}
        />
      )}
      {adopting && <AdoptDialog close={() => setAdopting(false)} />}
      {finding && <LostDialog close={() => setFinding(false)} />}
      {removing && (
        <RemoveDialog
          line={removing}
          remove={() => act.mutate({ action: 'remove', file: removing.file! })}
          close={() => setRemoving(null)}
        />
      )}
    </section>
  );
}

/** What is done with one file. */
function LineMenu({
  at,
  line,
  act,
  remove,
  close,
}: {
  at: HTMLElement;
  line: PairLine;
  act: (action: 'stands' | 'standsNot' | 'apart') => void;
  remove: () => void;
  close: () => void;
}) {
  const then = (work: () => void) => () => {
    work();
    close();
  };
  return (
    <Menu anchorEl={at} open onClose={close}>
      <MenuItem dense onClick={then(() => act(line.stands ? 'standsNot' : 'stands'))}>
        {line.stands ? 'It stands for the clip no longer' : 'Let it stand for the clip in the edit'}
      </MenuItem>
      {line.adopted && (
        <MenuItem dense onClick={then(() => act('apart'))}>
          Take it apart from the clip (the file stays)
        </MenuItem>
      )}
      {line.made && (
        <MenuItem dense onClick={then(remove)}>
          Remove it …
        </MenuItem>
      )}
    </Menu>
  );
}

const RemoveDialog = ({ line, remove, close }: { line: PairLine; remove: () => void; close: () => void }) => (
  <Dialog open onClose={close}>
    <DialogTitle>Remove this {line.what}?</DialogTitle>
    <DialogContent>
      It frees {formatBytes(line.bytes)}. The original of {line.name} is not touched, and what is removed can
      be made again.
    </DialogContent>
    <DialogActions>
      <Button
        color="inherit"
        onClick={() => {
          remove();
          close();
        }}
      >
        Remove it
      </Button>
      <Button variant="contained" onClick={close}>
        Keep it
      </Button>
    </DialogActions>
  </Dialog>
);

function wordsOf(p: PairLine): string {
  if (p.reason) return p.file ? `${p.what}: ${p.reason}` : p.reason;
  if (p.file === null) return PAIR_WORDS[p.state];
  return [p.what, ...(p.stands ? ['stands for the clip'] : []), ...p.changes].join(', ');
}

function Line({ line: p, menu }: { line: PairLine; menu: (at: HTMLElement) => void }) {
  const address = useAddress();
  return (
    <tr className={p.first ? (p.state === 'none' ? styles.light : undefined) : styles.further}>
      <td>
        <PairMark state={p.state} />
      </td>
      <th className="figures">
        {p.first && <Link href={address(`/card/${p.card}?clip=${p.clip}`)}>{p.name}</Link>}
      </th>
      <td className="figures soft">{p.first && p.card}</td>
      <td>{wordsOf(p)}</td>
      <td className="soft">{p.checkedAt ? formatMoment(p.checkedAt) : ''}</td>
      <td>
        {p.file && (
          <button
            type="button"
            className={styles.more}
            aria-haspopup="menu"
            aria-label={`What to do with the ${p.what} of ${p.name}`}
            onClick={(e) => menu(e.currentTarget)}
          >
            …
          </button>
        )}
      </td>
    </tr>
  );
}
