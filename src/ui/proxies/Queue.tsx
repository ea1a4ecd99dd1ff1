import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useMutation } from '@tanstack/react-query';
import dynamic from 'next/dynamic';
import { useState } from 'react';
import { OPEN_WORK, type WorkAction, type WorkState, type WorkView } from '../../core/platform/shapes';
import { secondsLeft } from '../../core/proxies/foreseen';
import type { Measured } from '../../core/proxies/shapes';
import { formatLeft } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import type { Progress } from '../platform/queries';
import styles from './proxies.module.css';

const SpeedChart = dynamic(() => import('./SpeedChart').then((m) => m.SpeedChart), { ssr: false });

type Act = (action: WorkAction['action'], work: readonly WorkView[]) => void;

const isOpen = (w: WorkView): boolean => OPEN_WORK.some((s) => s === w.state);
const inState = (work: readonly WorkView[], ...states: WorkState[]): WorkView[] =>
  work.filter((w) => states.includes(w.state));

/** The proxies that are being made, wait, rest, failed, and those that were made. */
export function Queue({
  work,
  measured,
  progress,
}: {
  work: readonly WorkView[];
  measured: readonly Measured[];
  progress: Progress;
}) {
  const server = useServer();
  const change = useMutation({ mutationFn: server.changeWork });
  const act: Act = (action, of) => change.mutate({ action, work: of.map((w) => w.id) });
  const open = [
    ...inState(work, 'running'),
    ...inState(work, 'queued'),
    ...inState(work, 'paused', 'waiting'),
  ];
  // A clip's older failures are history once it was tried again.
  const ended = work
    .filter(
      (w) =>
        !isOpen(w) &&
        !work.some(
          (o) =>
            o.clip === w.clip &&
            o.recipe === w.recipe &&
            o.id !== w.id &&
            (o.endedAt ?? '9') > (w.endedAt ?? ''),
        ),
    )
    .reverse();
  const failed = inState(ended, 'failed', 'cancelled');
  const done = inState(ended, 'done');
  return (
    <section className={styles.panel} aria-label="Queue">
      <header>
        <div>
          <h1>Queue</h1>
          <span className="soft">{wordsOf(open, done, measured, progress)}</span>
        </div>
        <CardFirst queued={inState(open, 'queued')} act={act} />
        <ForAll open={open} failed={failed} act={act} />
      </header>
      <ErrorNotice error={change.error} close={() => change.reset()} />
      <div className={styles.speeds}>
        <SpeedChart done={done} />
      </div>
      <div className={styles.queue}>
        {[...open, ...failed, ...done].map((w) => (
          <Piece key={w.id} work={w} now={progress[w.id]} act={act} />
        ))}
      </div>
    </section>
  );
}

function wordsOf(
  open: readonly WorkView[],
  done: readonly WorkView[],
  measured: readonly Measured[],
  progress: Progress,
): string {
  const going = inState(open, 'running', 'queued');
  const [running, paused, waiting] = (['running', 'paused', 'waiting'] as const).map(
    (state) => inState(open, state).length,
  ) as [number, number, number];
  const left = secondsLeft(
    going.map((w) => ({ ...w, progress: progress[w.id]?.progress ?? 0 })),
    measured,
  );
  const words = [
    going.length > 0 ? `${running} being made, ${going.length - running} queued` : null,
    going.length > 0 && left !== null ? `about ${formatLeft(left)} left` : null,
    paused > 0 ? `${paused} paused` : null,
    waiting > 0 ? `${waiting} waiting` : null,
    open.length === 0 ? 'nothing is being made' : null,
    done.length > 0 ? `${done.length} made` : null,
  ];
  return words.filter((w) => w !== null).join(' · ');
}

/** Has all that is queued of one card made before the rest. */
function CardFirst({ queued, act }: { queued: readonly WorkView[]; act: Act }) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  const cards = [...new Set(queued.map((w) => w.card))].sort();
  if (cards.length < 2) return null;
  return (
    <>
      <Button size="small" color="inherit" aria-haspopup="menu" onClick={(e) => setAt(e.currentTarget)}>
        Card first …
      </Button>
      <Menu anchorEl={at} open={at !== null} onClose={() => setAt(null)}>
        {cards.map((card) => {
          const of = queued.filter((w) => w.card === card);
          return (
            <MenuItem
              key={card}
              dense
              onClick={() => {
                act('first', of);
                setAt(null);
              }}
            >
              {card} first ({of.length} queued)
            </MenuItem>
          );
        })}
      </Menu>
    </>
  );
}

/** What can be done with all of them. */
function ForAll({ open, failed, act }: { open: readonly WorkView[]; failed: readonly WorkView[]; act: Act }) {
  const busy = inState(open, 'running', 'queued');
  const paused = inState(open, 'paused');
  return (
    <>
      {busy.length > 0 && (
        <Button size="small" color="inherit" onClick={() => act('pause', busy)}>
          Pause all
        </Button>
      )}
      {paused.length > 0 && (
        <Button size="small" onClick={() => act('resume', paused)}>
          Resume all
        </Button>
      )}
      {open.length > 0 && (
        <Button size="small" color="inherit" onClick={() => act('cancel', open)}>
          Cancel all
        </Button>
      )}
      {failed.length > 0 && (
        <Button size="small" onClick={() => act('retry', failed)}>
          Retry {failed.length === 1 ? 'it' : `all ${failed.length}`}
        </Button>
      )}
    </>
  );
}

function Piece({ work: w, now, act }: { work: WorkView; now: Progress[string] | undefined; act: Act }) {
  const share = w.state === 'running' ? (now?.progress ?? 0) : w.state === 'done' ? 1 : 0;
  const speed = w.state === 'running' ? (now?.speed ?? null) : w.speed;
  const words: Record<WorkState, string> = {
    queued: 'queued',
    running: `${Math.round(share * 100)} %`,
    paused: 'paused',
    waiting: 'waiting',
    done: 'made',
    failed: 'failed',
    cancelled: 'cancelled',
  };
  const button = (label: string, action: WorkAction['action'], of: string, quiet = false) => (
    <Button
      size="small"
      {...(quiet ? { color: 'inherit' as const } : {})}
      onClick={() => act(action, [w])}
      aria-label={of}
    >
      {label}
    </Button>
  );
  return (
    <div className={styles.work} data-state={w.state}>
      <span title={w.notes.map((n) => n.text).join('\n')}>
        <span className="figures">{w.clipName}</span>
        <small className="soft">{[w.card, ...(w.recipe ? [w.recipe] : [])].join(' · ')}</small>
      </span>
      {w.fault ? (
        <span className={styles.fault}>{w.fault}</span>
      ) : (
        <span
          className={styles.bar}
          role="progressbar"
          aria-valuenow={Math.round(share * 100)}
          aria-label={w.clipName}
        >
          <i style={{ width: `${share * 100}%` }} />
        </span>
      )}
      <span className="figures soft" title="times real time">
        {speed ? `${speed.toFixed(1)}×` : ''}
      </span>
      <b>{words[w.state]}</b>
      <span className={styles.acts}>
        {w.state === 'queued' && button('Next', 'first', `Next: ${w.clipName}`, true)}
        {w.state === 'paused' && button('Resume', 'resume', `Resume ${w.clipName}`)}
        {isOpen(w) && button('Cancel', 'cancel', `Cancel ${w.clipName}`, true)}
        {(w.state === 'failed' || w.state === 'cancelled') && button('Retry', 'retry', `Retry ${w.clipName}`)}
      </span>
    </div>
  );
}
