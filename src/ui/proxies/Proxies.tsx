'use client';
import Button from '@mui/material/Button';
import { useMutation } from '@tanstack/react-query';
import Link from 'next/link';
import { useState } from 'react';
import { PAIR_WORDS, PairState } from '../../core/proxies/prove';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import type { ProxiesView } from '../../core/proxies/shapes';
import { useAddress, useServer } from '../platform/job';
import { formatBytes, formatLeft, formatMoment, plural } from '../platform/format';
import { Empty, ErrorNotice } from '../platform/Notice';
import { PairMark } from '../platform/PairMark';
import { useProgress, useProxies } from '../platform/queries';
import { Queue } from './Queue';
import styles from './proxies.module.css';

/** What needs a proxy and why, the work under way, and every pair by its state. */
export function Proxies() {
  const address = useAddress();
  const view = useProxies();
  const progress = useProgress();
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
      <Empty whole title="There are no clips yet">
        <Button href={address('/intake')} variant="contained">
          Bring in footage
        </Button>
      </Empty>
    );
  return (
    <div className={styles.screen}>
      <div className={styles.left}>
        <Needs view={p} />
        <Queue work={p.work} progress={progress} />
      </div>
      <Pairs pairs={p.pairs} />
    </div>
  );
}

/** The clips that need a proxy and why, all ticked at first; what they will take. */
function Needs({ view: p }: { view: ProxiesView }) {
  const address = useAddress();
  const server = useServer();
  const [skipped, setSkipped] = useState<ReadonlySet<string>>(new Set());
  const make = useMutation({ mutationFn: server.makeProxies });
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
              <b>{formatLeft(p.estimate.seconds * share)}</b>, at {p.estimate.timesRealTime.toFixed(1)}× real
              time{p.estimate.measured ? ' as measured here' : ' (a guess until the first is made)'}.
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
                        ? ['made here', ...p.changes].join(', ')
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
