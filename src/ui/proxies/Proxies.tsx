'use client';
import Button from '@mui/material/Button';
import { useMutation } from '@tanstack/react-query';
import Link from 'next/link';
import { useState } from 'react';
import { PAIR_WORDS, PairState } from '../../core/proxies/prove';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import type { ProxiesView } from '../../core/proxies/shapes';
import type { WorkView } from '../../core/platform/shapes';
import { useAddress, useServer } from '../platform/job';
import { formatBytes, formatLeft, formatMoment, plural } from '../platform/format';
import { Empty, ErrorNotice } from '../platform/Notice';
import { PairMark } from '../platform/PairMark';
import { type Progress, useProgress, useProxies } from '../platform/queries';
import styles from './proxies.module.css';

/** What needs a proxy and why, the work under way, and every pair by its state. */
export function Proxies() {
  const address = useAddress();
  const server = useServer();
  const view = useProxies();
  const progress = useProgress();
  const [skipped, setSkipped] = useState<ReadonlySet<string>>(new Set());
  const make = useMutation({ mutationFn: server.makeProxies });
  if (view.error)
    return (
      <div style={{ padding: 20 }}>
        <ErrorNotice error={view.error} again={() => void view.refetch()} />
      </div>
    );
  if (!view.data) return null;
  const p = view.data;
  if (p.pairs.length === 0)
    return (
      <Empty title="There are no clips yet">
        <Button href={address('/intake')} variant="contained">
          Bring in footage
        </Button>
      </Empty>
    );
  const ticked = p.needs.filter((n) => !skipped.has(n.clip));
  const share =
    p.needs.length === 0
      ? 0
      : ticked.reduce((n, x) => n + x.seconds, 0) /
        Math.max(
          1e-9,
          p.needs.reduce((n, x) => n + x.seconds, 0),
        );
  const toggle = (clip: string) =>
    setSkipped((old) => {
      const next = new Set(old);
      if (!next.delete(clip)) next.add(clip);
      return next;
    });
  return (
    <div className={styles.screen}>
      <div className={styles.left}>
        <section className={styles.panel}>
          <header>
            <div>
              <h1>Needs a proxy</h1>
              <span className="soft">Recipe: {p.recipe.name}, same rate, frames, timecode and channels</span>
            </div>
          </header>
          {p.needs.length === 0 ? (
            <p className={styles.none}>
              {p.pairs.every((x) => x.state === 'proven')
                ? 'Every clip has a proven proxy.'
                : 'No clip is waiting for a proxy.'}
            </p>
          ) : (
            <>
              <div className={styles.needs}>
                <table>
                  <tbody>
                    {p.needs.map((n) => (
                      <tr key={n.clip}>
                        <td>
                          <input
                            type="checkbox"
                            checked={!skipped.has(n.clip)}
                            onChange={() => toggle(n.clip)}
                            aria-label={`Make a proxy of ${n.name}`}
                          />
                        </td>
                        <th className="figures">
                          <Link href={address(`/card/${n.card}?clip=${n.clip}`)}>{n.name}</Link>
                        </th>
                        <td className="figures soft">{n.card}</td>
                        <td className="figures">{n.rate} fps</td>
                        <td className="figures">{formatRunningTime(n.seconds)}</td>
                        <td className="soft">{n.because}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              </div>
              <footer>
                <span className="soft">
                  About <b>{formatBytes(p.estimate.bytes * share)}</b> and{' '}
                  <b>{formatLeft(p.estimate.seconds * share)}</b>, at {p.estimate.timesRealTime.toFixed(1)}×
                  real time{p.estimate.measured ? ' as measured here' : ' (a guess until the first is made)'}.
                </span>
                <Button
                  variant="contained"
                  disabled={ticked.length === 0 || make.isPending}
                  onClick={() => make.mutate(ticked.map((t) => t.clip))}
                >
                  Make {plural(ticked.length, 'proxy', 'proxies')}
                </Button>
              </footer>
            </>
          )}
          <ErrorNotice error={make.error} close={() => make.reset()} />
        </section>
        <Queue work={p.work} progress={progress} />
      </div>
      <Pairs pairs={p.pairs} />
    </div>
  );
}

function Queue({ work, progress }: { work: WorkView[]; progress: Progress }) {
  const server = useServer();
  const change = useMutation({ mutationFn: server.changeWork });
  const running = work.filter((w) => w.state === 'running');
  const queued = work.filter((w) => w.state === 'queued');
  // A clip's older failures are history once it was tried again.
  const ended = work
    .filter(
      (w) =>
        w.state !== 'running' &&
        w.state !== 'queued' &&
        !work.some((o) => o.clip === w.clip && o.id !== w.id && (o.endedAt ?? '9') > (w.endedAt ?? '')),
    )
    .reverse();
  const failed = ended.filter((w) => w.state !== 'done');
  const done = ended.filter((w) => w.state === 'done');
  const open = [...running, ...queued];
  return (
    <section className={styles.panel} aria-label="Queue">
      <header>
        <div>
          <h1>Queue</h1>
          <span className="soft">
            {open.length === 0
              ? 'nothing is being made'
              : `${running.length} being made, ${queued.length} waiting`}
            {done.length > 0 && ` · ${done.length} made`}
          </span>
        </div>
        {open.length > 0 && (
          <Button
            size="small"
            color="inherit"
            onClick={() => change.mutate({ action: 'cancel', work: open.map((w) => w.id) })}
          >
            Cancel all
          </Button>
        )}
        {failed.length > 0 && (
          <Button
            size="small"
            onClick={() => change.mutate({ action: 'retry', work: failed.map((w) => w.id) })}
          >
            Try {failed.length === 1 ? 'it' : `all ${failed.length}`} again
          </Button>
        )}
      </header>
      <ErrorNotice error={change.error} close={() => change.reset()} />
      <div className={styles.queue}>
        {[...open, ...failed, ...done].map((w) => {
          const share = w.state === 'running' ? (progress[w.id]?.progress ?? 0) : w.state === 'done' ? 1 : 0;
          const speed = w.state === 'running' ? (progress[w.id]?.speed ?? null) : w.speed;
          return (
            <div key={w.id} className={styles.work} data-state={w.state}>
              <span className="figures">{w.clipName}</span>
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
              <span className="figures soft">{speed ? `${speed.toFixed(1)}× real time` : ''}</span>
              <b>
                {
                  {
                    queued: 'waiting',
                    running: `${Math.round(share * 100)} %`,
                    done: 'made',
                    failed: 'failed',
                    cancelled: 'cancelled',
                  }[w.state]
                }
              </b>
              {(w.state === 'queued' || w.state === 'running') && (
                <Button
                  size="small"
                  color="inherit"
                  onClick={() => change.mutate({ action: 'cancel', work: [w.id] })}
                  aria-label={`Cancel ${w.clipName}`}
                >
                  Cancel
                </Button>
              )}
              {(w.state === 'failed' || w.state === 'cancelled') && (
                <Button
                  size="small"
                  onClick={() => change.mutate({ action: 'retry', work: [w.id] })}
                  aria-label={`Try ${w.clipName} again`}
                >
                  Again
                </Button>
              )}
            </div>
          );
        })}
      </div>
    </section>
  );
}

function Pairs({ pairs }: { pairs: ProxiesView['pairs'] }) {
  const address = useAddress();
  const server = useServer();
  const [state, setState] = useState<PairState | null>(null);
  const prove = useMutation({ mutationFn: server.provePairs });
  const shown = pairs.filter((p) => state === null || p.state === state);
  return (
    <section className={`${styles.panel} ${styles.pairs}`} aria-label="Pairs">
      <header>
        <div>
          <h1>Pairs</h1>
          <span className="soft">proven by frame count, rate, start timecode, duration and channels</span>
        </div>
        <Button
          size="small"
          disabled={prove.isPending}
          onClick={() => prove.mutate(shown.map((s) => s.clip))}
        >
          {prove.isPending ? 'Proving …' : 'Prove again'}
        </Button>
      </header>
      <ErrorNotice error={prove.error} close={() => prove.reset()} />
      <div className={styles.states} role="group" aria-label="Pairs by state">
        {PairState.options.map((s) => (
          <button
            key={s}
            type="button"
            aria-pressed={state === s}
            onClick={() => setState(state === s ? null : s)}
          >
            <b className="figures">{pairs.filter((p) => p.state === s).length}</b>
            <PairMark state={s} words />
          </button>
        ))}
      </div>
      <div className={styles.pairRows}>
        <table>
          <tbody>
            {shown.map((p) => (
              <tr key={p.clip}>
                <td>
                  <PairMark state={p.state} />
                </td>
                <th className="figures">
                  <Link href={address(`/card/${p.card}?clip=${p.clip}`)}>{p.name}</Link>
                </th>
                <td className="figures soft">{p.card}</td>
                <td>
                  {p.reason ||
                    (p.state === 'proven'
                      ? p.made
                        ? 'made here'
                        : 'made by the camera'
                      : PAIR_WORDS[p.state])}
                </td>
                <td className="soft">{p.checkedAt ? formatMoment(p.checkedAt) : ''}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
