'use client';
import Button from '@mui/material/Button';
import { useColorScheme } from '@mui/material/styles';
import { useQueryClient } from '@tanstack/react-query';
import Link from 'next/link';
import { usePathname, useRouter } from 'next/navigation';
import { type ReactNode, useCallback, useEffect, useState } from 'react';
import { shownPath } from '../../core/platform/names';
import { DATABASE_LOST } from '../../core/platform/shapes';
import { ServerProblem } from '../platform/client';
import { ErrorNotice } from '../platform/Notice';
import { useJob, useServerEvents } from '../platform/queries';
import { BeginJob } from './BeginJob';
import { Keys } from './Keys';
import { Rescue } from './Rescue';
import { RunningWork } from './RunningWork';
import { formatBytes } from '../platform/format';
import styles from './shell.module.css';

const STEPS = [
  { key: '1', href: '/', name: 'Wall' },
  { key: '2', href: '/intake', name: 'Intake' },
  { key: '3', href: '/facts', name: 'Facts' },
  { key: '4', href: '/naming', name: 'Naming' },
  { key: '5', href: '/proxies', name: 'Proxies' },
] as const;

/** Whether a key press belongs to a field the person is typing in. */
export const isTyping = (e: KeyboardEvent): boolean =>
  e.target instanceof HTMLElement &&
  (e.target.isContentEditable ||
    /^(?:INPUT|TEXTAREA|SELECT)$/.test(e.target.tagName) ||
    e.target.closest('.MuiPopover-root,.MuiDialog-root') !== null);

const isLost = (e: unknown): boolean => e instanceof ServerProblem && e.details.title === DATABASE_LOST;

/** Rail with the steps in working order, strip with job, space and running work; the rest belongs to the screen. */
export function Shell({ children }: { children: ReactNode }) {
  useServerEvents();
  const job = useJob();
  const path = usePathname();
  const router = useRouter();
  const { mode, setMode } = useColorScheme();
  const [keys, setKeys] = useState(false);
  // Shown until its end is read, though the job is there before.
  const [rescue, setRescue] = useState(false);
  const lost = isLost(job.error);
  if (lost && !rescue) setRescue(true);
  const queries = useQueryClient();
  const done = useCallback(() => void queries.invalidateQueries().then(() => setRescue(false)), [queries]);
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (isTyping(e) || e.ctrlKey || e.metaKey || e.altKey) return;
      const step = STEPS.find((s) => s.key === e.key);
      if (step) router.push(step.href);
      // L drives playback on a card, where the viewer listens to it.
      else if (e.key === 'g') router.push('/logbook');
      else if (e.key === '?') setKeys(true);
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [router]);
  const at = (href: string) =>
    href === '/'
      ? path === '/' || path.startsWith('/card')
      : path.startsWith(href) || (href === '/intake' && path.startsWith('/copy'));
  const item = (key: string, href: string, name: string) => (
    <Link key={href} href={href} className={styles.item} aria-current={at(href) ? 'page' : undefined}>
      <span className="figures">{key}</span>
      {name}
    </Link>
  );
  return (
    <div className={styles.frame}>
      <nav className={styles.rail} aria-label="Steps">
        <Link href="/" className={styles.sign} aria-label="Sort Shelf: to the Wall">
          <svg width="48" height="34" viewBox="0 0 48 34" aria-hidden="true">
            <g fill="currentColor">
              <rect x="3" y="12" width="8" height="19" />
              <rect x="13" y="4" width="7" height="27" />
              <rect x="22" y="8" width="9" height="23" />
              <rect x="33" y="0" width="3" height="31" />
              <rect x="38" y="10" width="7" height="21" />
              <rect x="0" y="31" width="48" height="3" />
            </g>
          </svg>
        </Link>
        {STEPS.map((s) => item(s.key, s.href, s.name))}
        <div className={styles.space} />
        {item('g', '/logbook', 'Logbook')}
        <button type="button" className={styles.item} onClick={() => setKeys(true)}>
          <span className="figures">?</span>Keys
        </button>
      </nav>
      <header className={styles.strip}>
        {job.data && (
          <>
            <strong className={styles.job}>{job.data.name}</strong>
            <span className={`figures ${styles.code}`}>{job.data.code}</span>
            <div className={styles.roots}>
              {job.data.roots
                .filter((r) => (r.kind !== 'source' && r.kind !== 'handover') || !r.present)
                .map((r) => (
                  <span
                    key={r.id}
                    className={styles.root}
                    title={
                      r.present
                        ? `${shownPath(r.path)}: ${formatBytes(r.free ?? 0)} free`
                        : `${shownPath(r.path)} is not there`
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
                      <strong style={{ color: 'var(--brick)' }}>not there</strong>
                    )}
                  </span>
                ))}
            </div>
          </>
        )}
        <span className={styles.space} />
        <RunningWork />
        <Button
          size="small"
          color="inherit"
          onClick={() => setMode(mode === 'dark' ? 'light' : 'dark')}
          aria-label={mode === 'dark' ? 'Light theme' : 'Dark theme'}
          sx={{ minWidth: 0, color: 'var(--soft)' }}
        >
          {mode === 'dark' ? 'Light' : 'Dark'}
        </Button>
      </header>
      <main className={styles.screen}>
        {rescue ? (
          <Rescue done={done} {...(job.data === null ? { back: () => setRescue(false) } : {})} />
        ) : job.error ? (
          <div style={{ padding: 24 }}>
            <ErrorNotice error={job.error} again={() => void job.refetch()} />
          </div>
        ) : job.data === null ? (
          <BeginJob rescue={() => setRescue(true)} />
        ) : job.data ? (
          children
        ) : null}
      </main>
      <Keys open={keys} close={() => setKeys(false)} />
    </div>
  );
}
