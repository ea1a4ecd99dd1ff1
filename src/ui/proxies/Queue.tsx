import Button from '@mui/material/Button';
import { useMutation } from '@tanstack/react-query';
import { OPEN_WORK, type WorkAction, type WorkState, type WorkView } from '../../core/platform/shapes';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import type { Progress } from '../platform/queries';
import styles from './proxies.module.css';

type Act = (action: WorkAction['action'], work: readonly WorkView[]) => void;

const isOpen = (w: WorkView): boolean => OPEN_WORK.some((s) => s === w.state);
const inState = (work: readonly WorkView[], ...states: WorkState[]): WorkView[] =>
  work.filter((w) => states.includes(w.state));

/** The proxies that are being made, wait, rest, failed, and those that were made. */
export function Queue({ work, progress }: { work: readonly WorkView[]; progress: Progress }) {
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
        !work.some((o) => o.clip === w.clip && o.id !== w.id && (o.endedAt ?? '9') > (w.endedAt ?? '')),
    )
    .reverse();
  const failed = inState(ended, 'failed', 'cancelled');
  const done = inState(ended, 'done');
  return (
    <section className={styles.panel} aria-label="Queue">
      <header>
        <div>
          <h1>Queue</h1>
          <span className="soft">{wordsOf(open, done)}</span>
        </div>
        <ForAll open={open} failed={failed} act={act} />
      </header>
      <ErrorNotice error={change.error} close={() => change.reset()} />
      <div className={styles.queue}>
        {[...open, ...failed, ...done].map((w) => (
          <Piece key={w.id} work={w} now={progress[w.id]} act={act} />
        ))}
      </div>
    </section>
  );
}

function wordsOf(open: readonly WorkView[], done: readonly WorkView[]): string {
  const [running, queued] = [inState(open, 'running').length, inState(open, 'queued').length];
  const paused = open.length - running - queued;
  const words = [
    running + queued > 0 ? `${running} being made, ${queued} queued` : null,
    paused > 0 ? `${paused} paused` : null,
    open.length === 0 ? 'nothing is being made' : null,
    done.length > 0 ? `${done.length} made` : null,
  ];
  return words.filter((w) => w !== null).join(' · ');
}

/** What can be done with all of them. */
function ForAll({ open, failed, act }: { open: readonly WorkView[]; failed: readonly WorkView[]; act: Act }) {
  const busy = inState(open, 'running', 'queued');
  const paused = inState(open, 'paused', 'waiting');
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
      <span className="figures" title={w.notes.map((n) => n.text).join('\n')}>
        {w.clipName}
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
