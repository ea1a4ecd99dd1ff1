'use client';
import Button from '@mui/material/Button';
import { useQueryClient } from '@tanstack/react-query';
import Link from '../platform/Link';
import { useRouter } from 'next/navigation';
import { type ReactNode, useCallback, useEffect, useState } from 'react';
import { DATABASE_LOST } from '../../core/platform/shapes';
import { fold } from '../../core/choose';
import type { JobSummary } from '../../core/jobs';
import { ServerProblem } from '../platform/client';
import { FindField } from '../platform/FindField';
import { ErrorNotice } from '../platform/Notice';
import { useJobs, useServerEvents } from '../platform/queries';
import { Rescue } from '../records';
import { Sign, ThemeButton } from '../shell';
import { BeginJob } from './BeginJob';
import { JobRow } from './JobRow';
import { OldNames } from './OldNames';
import styles from './jobs.module.css';

/** Jobs that are looked through at a glance; of more, one is found by its words. */
const AT_A_GLANCE = 8;

/** All jobs: begin one, open one, put one away. `straightIn` opens the only one there is. */
export function Jobs({ straightIn = false }: { straightIn?: boolean }) {
  useServerEvents();
  const jobs = useJobs();
  const router = useRouter();
  const queries = useQueryClient();
  const [begin, setBegin] = useState(false);
  const [words, setWords] = useState('');
  // Shown until its end is read, though the jobs are there before.
  const [rescue, setRescue] = useState(false);
  const lost = jobs.error instanceof ServerProblem && jobs.error.details.title === DATABASE_LOST;
  if (lost && !rescue) setRescue(true);
  const done = useCallback(() => void queries.invalidateQueries().then(() => setRescue(false)), [queries]);
  const only = straightIn && !rescue && jobs.data?.length === 1 ? jobs.data[0]! : null;
  useEffect(() => {
    if (only) router.replace(`/jobs/${encodeURIComponent(only.code)}`);
  }, [only, router]);
  if (rescue)
    return (
      <Frame>
        <Rescue done={done} {...(lost ? {} : { back: () => setRescue(false) })} />
      </Frame>
    );
  if (jobs.error)
    return (
      <Frame>
        <div className={styles.page}>
          <ErrorNotice error={jobs.error} again={() => void jobs.refetch()} />
        </div>
      </Frame>
    );
  if (!jobs.data || only) return <Frame />;
  if (jobs.data.length === 0 || begin)
    return (
      <Frame>
        <BeginJob
          {...(jobs.data.length === 0 ? { rescue: () => setRescue(true) } : { close: () => setBegin(false) })}
        />
      </Frame>
    );
  const found = jobs.data.filter((j) => fold(`${j.code} ${j.name}`).includes(fold(words.trim())));
  const open = found.filter((j) => j.putAwayAt === null);
  const away = found.filter((j) => j.putAwayAt !== null);
  return (
    <Frame>
      <div className={styles.page}>
        <header className={styles.head}>
          <h1>Jobs</h1>
          {(jobs.data.length > AT_A_GLANCE || words !== '') && (
            <FindField label="Find a job" words={words} set={setWords} />
          )}
          <Button variant="contained" onClick={() => setBegin(true)}>
            Begin a job
          </Button>
        </header>
        {open.length === 0 && (
          <p className="soft">
            {words.trim() === '' ? 'All jobs are archived.' : 'No open job is called so.'}
          </p>
        )}
        <List name="Open jobs" jobs={open} />
        {away.length > 0 && (
          <>
            <h2>Archived</h2>
            <List name="Archived jobs" jobs={away} />
          </>
        )}
        <OldNames />
      </div>
    </Frame>
  );
}

function List({ name, jobs }: { name: string; jobs: readonly JobSummary[] }) {
  return (
    <ul className={styles.list} aria-label={name}>
      {jobs.map((j) => (
        <JobRow key={j.code} job={j} />
      ))}
    </ul>
  );
}

/** The frame of what belongs to no job. */
function Frame({ children }: { children?: ReactNode }) {
  return (
    <div className={styles.frame}>
      <header className={styles.strip}>
        <Link href="/jobs" className={styles.sign} aria-label="Sort Shelf: all jobs">
          <Sign />
        </Link>
        <strong>Sort Shelf</strong>
        <span style={{ flex: 1 }} />
        <ThemeButton />
      </header>
      <main className={styles.screen}>{children}</main>
    </div>
  );
}
