'use client';
import Button from '@mui/material/Button';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import Link from '../platform/Link';
import { usePathname, useRouter } from 'next/navigation';
import { type ReactNode, useCallback, useEffect, useState } from 'react';
import type { RootView } from '../../core/places';
import { shownPath } from '../../core/platform/names';
import { DATABASE_LOST } from '../../core/platform/shapes';
import { ServerProblem } from '../platform/client';
import { ErrorNotice } from '../platform/Notice';
import { useJob, useServerEvents } from '../platform/queries';
import { Rescue } from '../records';
import { useAddress, useServer } from '../platform/job';
import { JobMenu } from './JobMenu';
import { Keys } from './Keys';
import { Sign } from './Sign';
import { ThemeButton } from './ThemeButton';
import { News } from './News';
import { RunningWork } from './RunningWork';
import { formatBytes, formatMoment } from '../platform/format';
import styles from './shell.module.css';

const STEPS = [
  { key: '1', href: '/', name: 'Wall' },
  { key: '2', href: '/intake', name: 'Intake' },
  { key: '3', href: '/facts', name: 'Facts' },
  { key: '4', href: '/naming', name: 'Naming' },
  { key: '5', href: '/proxies', name: 'Proxies' },
  { key: '6', href: '/choose', name: 'Choose' },
  { key: '7', href: '/handover', name: 'Hand over' },
] as const;

/** Whether a key press belongs to a field the person is typing in. */
export const isTyping = (e: KeyboardEvent): boolean =>
  e.target instanceof HTMLElement &&
  (e.target.isContentEditable ||
    /^(?:INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName) ||
    e.target.closest('.MuiPopover-root,.MuiDialog-root') !== null);

const isLost = (e: unknown): boolean => e instanceof ServerProblem && e.details.title === DATABASE_LOST;

/** A job's frame: rail with the steps in working order, strip with job, space and running work; the rest belongs to the screen. */
export function Shell({ children }: { children: ReactNode }) {
  useServerEvents();
  const job = useJob();
  const [keys, setKeys] = useState(false);
  const showKeys = useCallback(() => setKeys(true), []);
  // Shown until its end is read, though the job is there before.
  const [rescue, setRescue] = useState(false);
  const lost = isLost(job.error);
  if (lost && !rescue) setRescue(true);
  const queries = useQueryClient();
  const done = useCallback(() => void queries.invalidateQueries().then(() => setRescue(false)), [queries]);
  useStepKeys(showKeys);
  return (
    <div className={styles.frame}>
      <Rail showKeys={showKeys} />
      <header className={styles.strip}>
        {job.data && (
          <>
            <JobMenu job={job.data} />
            <Space roots={job.data.roots} />
          </>
        )}
        <span className={styles.space} />
        {job.data && <News />}
        <RunningWork />
        <ThemeButton />
      </header>
      <main className={styles.screen}>
        {rescue ? (
          <Rescue done={done} />
        ) : job.error ? (
          <div style={{ padding: 24 }}>
            <ErrorNotice error={job.error} again={() => void job.refetch()} />
            <p>
              <Link href="/jobs">All jobs</Link>
            </p>
          </div>
        ) : job.data ? (
          <>
            {job.data.putAwayAt !== null && <Archived at={job.data.putAwayAt} />}
            {children}
          </>
        ) : null}
      </main>
      <Keys open={keys} close={() => setKeys(false)} />
    </div>
  );
}

/** Leads to the steps by their keys. */
function useStepKeys(showKeys: () => void): void {
  const router = useRouter();
  const address = useAddress();
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (isTyping(e) || e.ctrlKey || e.metaKey || e.altKey) return;
      const step = STEPS.find((s) => s.key === e.key);
      if (step) router.push(address(step.href));
      // L drives playback on a card, where the viewer listens to it.
      else if (e.key === 'g') router.push(address('/logbook'));
      else if (e.key === 'v') router.push(address('/places'));
      else if (e.key === '0') router.push('/jobs');
      else if (e.key === '?') showKeys();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [router, address, showKeys]);
}

function Rail({ showKeys }: { showKeys: () => void }) {
  const path = usePathname();
  const address = useAddress();
  const at = (href: string) =>
    href === '/'
      ? path === address('/') || path.startsWith(address('/card'))
      : path.startsWith(address(href)) || (href === '/intake' && path.startsWith(address('/copy')));
  const item = (key: string, href: string, name: string) => (
    <Link
      key={href}
      href={address(href)}
      className={styles.item}
      aria-current={at(href) ? 'page' : undefined}
    >
      <span className="figures">{key}</span>
      {name}
    </Link>
  );
  return (
    <nav className={styles.rail} aria-label="Steps">
      <Link href={address('/')} className={styles.sign} aria-label="Sort Shelf: to the Wall">
        <Sign />
      </Link>
      {STEPS.map((s) => item(s.key, s.href, s.name))}
      <div className={styles.space} />
      {item('v', '/places', 'Places')}
      {item('g', '/logbook', 'Logbook')}
      <button type="button" className={styles.item} onClick={showKeys}>
        <span className="figures">?</span>Keys
      </button>
    </nav>
  );
}

/** The places of a job, with the space that is left. */
function Space({ roots }: { roots: readonly RootView[] }) {
  return (
    <div className={styles.roots}>
      {roots
        .filter((r) => (r.kind !== 'source' && r.kind !== 'handover') || !r.present)
        .map((r) => (
          <span
            key={r.id}
            className={styles.root}
            title={
              r.present
                ? `${shownPath(r.path)}: ${formatBytes(r.free ?? 0)} free`
                : `${shownPath(r.path)} is offline`
            }
          >
            {r.name}
            {r.present ? (
              <>
                <meter
                  min={0}
                  max={r.total ?? 1}
                  value={(r.total ?? 0) - (r.free ?? 0)}
                  aria-label={`${r.name}: space used`}
                />
                {formatBytes(r.free ?? 0)} free
              </>
            ) : (
              <strong style={{ color: 'var(--brick)' }}>offline</strong>
            )}
          </span>
        ))}
    </div>
  );
}

function Archived({ at }: { at: string }) {
  const server = useServer();
  const queries = useQueryClient();
  const takeUp = useMutation({
    mutationFn: () => server.changeJob({ action: 'takeUp' }),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <div className={styles.away} role="status">
      <span>This job was archived on {formatMoment(at)}. It is read-only: nothing of it is changed.</span>
      <Button size="small" disabled={takeUp.isPending} onClick={() => takeUp.mutate()}>
        Reopen it
      </Button>
    </div>
  );
}
