'use client';
import Button from '@mui/material/Button';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { clockWords, spanWords } from '../../core/facts/clocks';
import type { Clock, ClocksView as View } from '../../core/facts/shapes';
import { useAddress, useServer } from '../platform/job';
import { plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { useJob } from '../platform/queries';
import { Tag } from '../platform/Tag';
import { type DayBar, DayChart } from './DayChart';
import styles from './facts.module.css';

const dayWords = (from: number, to: number): string =>
  from === to ? `day ${from}` : `days ${from} to ${to}`;
const wayWords = (s: number): string => `${spanWords(s)} ${s >= 0 ? 'later' : 'earlier'}`;

/** Clocks that were wrong: suggestions with what speaks for them in a picture, what was set, and one of one's own. */
export function ClocksView() {
  const server = useServer();
  const queries = useQueryClient();
  const view = useQuery({ queryKey: ['clocks'], queryFn: server.clocks });
  const act = useMutation({
    mutationFn: async (work: () => Promise<unknown>) => {
      await work();
      await queries.invalidateQueries({ queryKey: ['clocks'] });
    },
  });
  if (view.error)
    return (
      <div className={styles.body}>
        <ErrorNotice error={view.error} again={() => void view.refetch()} />
      </div>
    );
  if (!view.data) return null;
  const { clocks, suspicions } = view.data;
  return (
    <div className={styles.body}>
      <div className={styles.clocks}>
        <ErrorNotice error={act.error} close={() => act.reset()} />
        {suspicions.map((s) => (
          <Finding
            key={`${s.camera}${s.fromDay}${s.kind}`}
            suspicion={s}
            rolls={view.data.rolls}
            isBusy={act.isPending}
            set={(c) => act.mutate(() => server.setClock(c))}
          />
        ))}
        {suspicions.length === 0 && (
          <p>
            <Tag tone="proven">no clock looks wrong</Tag>{' '}
            <span className="soft">
              Recorded times, timecodes, file times and the other cameras were compared.
            </span>
          </p>
        )}
        {clocks.map((c) => (
          <section key={c.id} className={styles.finding} data-set="">
            <header>
              <div>
                <strong>
                  Camera {c.camera}, {dayWords(c.fromDay, c.toDay)}: set {wayWords(c.seconds)}.
                </strong>
                {c.note && <div className="soft">{c.note}</div>}
              </div>
              <Button disabled={act.isPending} onClick={() => act.mutate(() => server.dropClock(c.id))}>
                Undo
              </Button>
            </header>
          </section>
        ))}
        <OwnClock act={(c) => act.mutate(() => server.setClock(c))} busy={act.isPending} />
      </div>
    </div>
  );
}

/** A clock that looks wrong, what speaks for it, and the way to set it. */
function Finding({
  suspicion: s,
  rolls,
  isBusy,
  set,
}: {
  suspicion: View['suspicions'][number];
  rolls: View['rolls'];
  isBusy: boolean;
  set: (clock: Clock) => void;
}) {
  return (
    <section className={styles.finding} aria-label={`Clock of camera ${s.camera}`}>
      <header>
        <div>
          <Tag tone="look">look here</Tag>{' '}
          <strong>
            Camera {s.camera}, {dayWords(s.fromDay, s.toDay)}: the clock looks {spanWords(s.seconds)}{' '}
            {s.seconds > 0 ? 'slow' : 'fast'}.
          </strong>
          <div>{s.because}</div>
        </div>
        <Button
          variant="contained"
          disabled={isBusy}
          onClick={() =>
            set({
              camera: s.camera,
              fromDay: s.fromDay,
              toDay: s.toDay,
              seconds: s.seconds,
              note: s.because.slice(0, 300),
            })
          }
        >
          Set it {wayWords(s.seconds)}
        </Button>
      </header>
      <Evidence suspicion={s} rolls={rolls} />
      {s.meetings.length > 0 && (
        <ul>
          {s.meetings.slice(0, 6).map((m) => (
            <li key={m.clip}>
              <span className="figures">{m.name}</span> says {clockWords(m.at)}; with {spanWords(s.seconds)}{' '}
              added, {clockWords(m.at + s.seconds)}. Camera {m.otherCamera}’s{' '}
              <span className="figures">{m.otherName}</span> begins at {clockWords(m.otherAt)}.
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** The camera's clips as its clock has them and put right, above the other cameras'. */
function Evidence({ suspicion: s, rolls }: { suspicion: View['suspicions'][number]; rolls: View['rolls'] }) {
  const address = useAddress();
  const router = useRouter();
  const ofDay = rolls.filter((r) => r.day === s.fromDay);
  const bars = ofDay.flatMap((r): DayBar[] => {
    const at = r.from % 86_400;
    const one = { clip: r.clip, name: r.name };
    if (r.camera !== s.camera)
      return [{ ...one, lane: r.camera, from: at, to: at + r.seconds, kind: 'clock' }];
    return [
      { ...one, lane: `${r.camera} as it is`, from: at, to: at + r.seconds, kind: 'clock' },
      {
        ...one,
        lane: `${r.camera} put right`,
        from: at + s.seconds,
        to: at + s.seconds + r.seconds,
        kind: 'moved',
      },
    ];
  });
  const lanes = [
    `${s.camera} as it is`,
    `${s.camera} put right`,
    ...[...new Set(ofDay.map((r) => r.camera))].filter((c) => c !== s.camera).sort(),
  ];
  return (
    <DayChart
      bars={bars}
      lanes={lanes}
      open={(clip) => router.push(address(`/clip/${clip}`))}
      label={`Camera ${s.camera} beside the others on day ${s.fromDay}`}
    />
  );
}

/** A correction that nobody suggested: "+1:00:00" or "-12 s". */
function OwnClock({ act, busy }: { act: (c: Clock) => void; busy: boolean }) {
  const job = useJob().data;
  const [camera, setCamera] = useState('');
  const [from, setFrom] = useState('1');
  const [to, setTo] = useState('1');
  const [span, setSpan] = useState('');
  const m = /^([+-]?)(\d{1,4}):(\d\d)(?::(\d\d))?$/.exec(span.trim());
  const seconds = m
    ? (m[1] === '-' ? -1 : 1) * (Number(m[2]) * 3600 + Number(m[3]) * 60 + Number(m[4] ?? 0))
    : null;
  if (!job || job.cameras.length === 0) return null;
  return (
    <section
      className={styles.finding}
      style={{ borderLeftColor: 'var(--board)' }}
      aria-label="A correction of your own"
    >
      <div className={styles.form}>
        <fieldset>
          <legend>Set a clock yourself</legend>
          <label>
            Camera{' '}
            <select aria-label="Camera" value={camera} onChange={(e) => setCamera(e.target.value)}>
              <option value="">choose</option>
              {job.cameras.map((c) => (
                <option key={c.label} value={c.label}>
                  {c.label}
                  {c.model ? ` · ${c.model}` : ''}
                </option>
              ))}
            </select>
          </label>
          <label>
            from day{' '}
            <input
              aria-label="From day"
              type="number"
              min={1}
              value={from}
              onChange={(e) => setFrom(e.target.value)}
              style={{ width: 66 }}
            />
          </label>
          <label>
            to day{' '}
            <input
              aria-label="To day"
              type="number"
              min={1}
              value={to}
              onChange={(e) => setTo(e.target.value)}
              style={{ width: 66 }}
            />
          </label>
          <label>
            add{' '}
            <input
              aria-label="Add"
              value={span}
              onChange={(e) => setSpan(e.target.value)}
              placeholder="+1:00:00"
              style={{ width: 110 }}
            />
          </label>
          <Button
            disabled={busy || camera === '' || seconds === null || seconds === 0 || Number(from) > Number(to)}
            onClick={() =>
              act({ camera, fromDay: Number(from), toDay: Number(to), seconds: seconds!, note: '' })
            }
          >
            Set
          </Button>
          {seconds !== null && seconds !== 0 && (
            <span className="soft">
              {wayWords(seconds)}, for {plural(Number(to) - Number(from) + 1, 'day')}
            </span>
          )}
        </fieldset>
      </div>
    </section>
  );
}
