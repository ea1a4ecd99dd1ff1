'use client';
import Link from '../platform/Link';
import { ASKED, type WorkSummary } from '../../core/platform/shapes';
import { formatCount, plural, formatLeft } from '../platform/format';
import { library } from '../platform/client';
import { useCopying, useJob, useProgress, useRunning, useTasks, useWork } from '../platform/queries';
import styles from './shell.module.css';
import { useAddress } from '../platform/job';

/** The work under way, in one line: proxies first, for they take longest. Nothing where nothing runs. */
export function RunningWork() {
  const work = useWork().data;
  const moving = useRunning();
  const job = useJob().data?.id;
  const task = (useTasks().data ?? []).find(
    (t) => t.job === job && ASKED.some((k) => k === t.kind) && t.state === 'running',
  );
  const [copy] = useCopying().filter((c) => c.job === job && c.state === 'running');
  if (moving && moving.job === job) {
    return (
      <>
        <Chip
          href="/logbook"
          words={moving.title}
          share={moving.done / Math.max(1, moving.total)}
          rest={`${moving.done} of ${plural(moving.total, 'file')}`}
        />
        {task && (
          <button type="button" className={styles.stop} onClick={() => void library.stopTask(task.id)}>
            Stop
          </button>
        )}
      </>
    );
  }
  if (task && task.total > 0) {
    return (
      <>
        <Chip
          href="/logbook"
          words={task.title}
          share={task.done / task.total}
          rest={`${Math.floor((100 * task.done) / task.total)} %`}
        />
        <button type="button" className={styles.stop} onClick={() => void library.stopTask(task.id)}>
          Stop
        </button>
      </>
    );
  }
  if (copy) {
    const rest = [
      `${Math.floor((100 * copy.bytes) / Math.max(1, copy.total))} %`,
      copy.left === null ? null : formatLeft(copy.left),
    ]
      .filter(Boolean)
      .join(' · ');
    return (
      <Chip
        href={`/copy/${copy.id}`}
        words="Copying"
        share={copy.bytes / Math.max(1, copy.total)}
        rest={rest}
      />
    );
  }
  if (!work) return null;
  const [most] = work.waiting;
  return (
    <>
      {most && (
        <Chip
          href="/places"
          words={most.why.replace(/\.$/, '')}
          rest={`${formatCount(most.clips)} waiting`}
        />
      )}
      <ForClips work={work} />
    </>
  );
}

/** What is being done for clips, by itself or as asked. */
function ForClips({ work }: { work: WorkSummary }) {
  const progress = useProgress();
  const paused = work.proxies.filter((w) => w.state === 'paused').length;
  const proxies = work.proxies.filter((w) => w.state === 'running' || w.state === 'queued');
  if (proxies.length > 0) {
    const running = proxies.find((w) => w.state === 'running');
    const p = running ? progress[running.id] : undefined;
    const speed = p?.speed ?? null;
    const footage = proxies.reduce((n, w) => n + (w.seconds ?? 0) * (1 - (progress[w.id]?.progress ?? 0)), 0);
    const rest = [
      plural(proxies.length, 'proxy', 'proxies'),
      speed ? `${speed.toFixed(1)}× real time` : null,
      speed ? formatLeft(footage / speed) : null,
    ]
      .filter(Boolean)
      .join(' · ');
    return (
      <Chip
        href="/proxies"
        words="Making"
        name={running?.clipName ?? 'proxies'}
        share={p?.progress ?? 0}
        rest={rest}
      />
    );
  }
  const reading = work.read + work.rest;
  if (reading > 0) return <Chip href="/" words="Reading" rest={`${plural(reading, 'clip')} left`} />;
  if (work.filmstrip > 0) return <Chip href="/" words="Making filmstrips" rest={`${work.filmstrip} left`} />;
  if (paused > 0) return <Chip href="/proxies" words="Paused" rest={plural(paused, 'proxy', 'proxies')} />;
  return null;
}

function Chip({
  href,
  words,
  name,
  share,
  rest,
}: {
  href: string;
  words: string;
  name?: string;
  share?: number;
  rest: string;
}) {
  const address = useAddress();
  return (
    <div role="status" className={styles.live}>
      <Link href={address(href)} className={styles.running}>
        <span className={styles.words} title={words}>
          {words}
        </span>
        {name && (
          <strong className="figures" style={{ maxWidth: 190, overflow: 'hidden', textOverflow: 'ellipsis' }}>
            {name}
          </strong>
        )}
        {share !== undefined && (
          <span className={styles.bar}>
            <i style={{ width: `${Math.round(share * 100)}%` }} />
          </span>
        )}
        <span className="figures" style={{ fontSize: 12 }}>
          {rest}
        </span>
      </Link>
    </div>
  );
}
