'use client';
import Button from '@mui/material/Button';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import Link from '../platform/Link';
import type { NextAnswer, NextStep } from '../../core/next';
import { plural } from '../platform/format';
import { useAddress, useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { Tag } from '../platform/Tag';
import styles from './watch.module.css';

const TO_BE: Readonly<Record<NextStep, string>> = {
  place: 'to be put in their folders',
  name: 'to be named',
  proxy: 'to get a proxy',
};
const STOPPED: Readonly<Record<NextStep, string>> = {
  place: 'not placed',
  name: 'not named',
  proxy: 'no proxy',
};
const WHERE: Readonly<Record<NextStep, { word: string; path: string }>> = {
  place: { word: 'Naming', path: '/naming' },
  name: { word: 'Naming', path: '/naming' },
  proxy: { word: 'Proxies', path: '/proxies' },
};

/** What is still to happen with clips of the job. */
export const useNext = () => useQuery({ queryKey: ['next'], queryFn: useServer().next });

/** What is still to happen by itself, and the clips at which a step stopped: where a person has to look, and why. */
export function NextList() {
  const server = useServer();
  const address = useAddress();
  const queries = useQueryClient();
  const next = useNext().data;
  const answer = useMutation({
    mutationFn: (wanted: NextAnswer) => server.answerNext(wanted),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['next'] }),
  });
  if (!next || (next.waiting.length === 0 && next.stops === 0)) return null;
  const answers = (clip: string | null, of: string) => (
    <span className={styles.answers}>
      <Button
        size="small"
        disabled={answer.isPending}
        onClick={() => answer.mutate({ answer: 'again', clip })}
        aria-label={`Try ${of} again`}
      >
        {clip === null ? 'Try all again' : 'Try again'}
      </Button>
      <Button
        size="small"
        disabled={answer.isPending}
        onClick={() => answer.mutate({ answer: 'leave', clip })}
        aria-label={`Leave ${of} to me`}
        title="It is not tried any more"
      >
        {clip === null ? 'Leave all to me' : 'Leave it to me'}
      </Button>
    </span>
  );
  return (
    <section className={styles.watched} aria-label="What happens next">
      <h2>What happens next</h2>
      <div className={styles.steps}>
        <div className="soft" role="status">
          {next.waiting.map((w) => `${plural(w.clips, 'clip')} ${TO_BE[w.step]}`).join(' · ')}
          {next.waiting.length > 0 && next.stops > 0 && ' · '}
          {next.stops > 0 &&
            `${plural(next.stops, 'step')} stopped, and ${next.stops === 1 ? 'waits' : 'wait'} for you`}
        </div>
        {next.stopped.length > 0 && (
          <ol className={styles.finds} aria-label="Steps that stopped">
            {next.stopped.map((s) => (
              <li key={`${s.clip} ${s.step}`}>
                <Tag tone="look">{STOPPED[s.step]}</Tag>
                <span>
                  <span className="figures">{s.name}</span> of {s.card}: {s.why}{' '}
                  <Link href={address(WHERE[s.step].path)}>{WHERE[s.step].word}</Link>
                </span>
                {answers(s.clip, s.name)}
              </li>
            ))}
          </ol>
        )}
        {next.stops > next.stopped.length && (
          <p className="soft">and {next.stops - next.stopped.length} more</p>
        )}
        {next.stops > 1 && answers(null, 'all')}
        <ErrorNotice error={answer.error} close={answer.reset} />
      </div>
    </section>
  );
}
