'use client';
import Button from '@mui/material/Button';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { type FieldId, FIELDS, SOURCE_WORDS, type Source, trustOf } from '../../core/facts/catalogue';
import type { JobView } from '../../core/jobs';
import { formatRate, parseRate, type Rate } from '../../core/platform/timecode/rate';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { useJob } from '../platform/queries';
import styles from './facts.module.css';
import { FieldSheet } from './FieldSheet';

/** Where several sources state a field, which is believed: shown and changeable. Also what the job says of its days and rate. */
export function TrustView() {
  const server = useServer();
  const job = useJob().data;
  const save = useMutation({ mutationFn: server.saveSettings });
  if (!job) return null;
  const put = (id: FieldId, order: Source[] | null) => {
    const trust = { ...job.trust };
    if (order) trust[id] = order;
    else delete trust[id];
    save.mutate({ trust });
  };
  return (
    <div className={styles.body}>
      <div className={styles.form} style={{ marginBottom: 18, maxWidth: 900 }}>
        <DaysAndRate job={job} save={save.mutate} />
        <ErrorNotice error={save.error} close={() => save.reset()} />
      </div>
      <FieldSheet
        label="Orders of trust"
        heads={['Believed in this order', 'Reset']}
        rows={FIELDS.filter((f) => trustOf(f.id).length > 1).map((f) => ({
          field: f.id,
          term: f.term,
          order: trustOf(f.id, job.trust),
        }))}
        cells={({ field, term, order }) => [
          order.map((s, i) => (
            <span key={s} style={{ whiteSpace: 'nowrap', marginRight: 10 }}>
              <span className="soft">{i + 1} </span>
              {SOURCE_WORDS[s]}
              {i > 0 && (
                <button
                  type="button"
                  className={styles.only}
                  style={{ padding: '0 5px', marginLeft: 4, border: 0 }}
                  aria-label={`${term}: believe ${SOURCE_WORDS[s]} earlier`}
                  disabled={save.isPending}
                  onClick={() => {
                    const next = [...order];
                    next.splice(i - 1, 2, s, order[i - 1]!);
                    put(field, next);
                  }}
                >
                  ↑
                </button>
              )}
            </span>
          )),
          job.trust[field] && (
            <Button size="small" sx={{ whiteSpace: 'nowrap', py: 0 }} onClick={() => put(field, null)}>
              As shipped
            </Button>
          ),
        ]}
      />
    </div>
  );
}

function DaysAndRate({
  job,
  save,
}: {
  job: JobView;
  save: (said: { dayStart: number } | { rate: Rate | null }) => void;
}) {
  const [rate, setRate] = useState<string | null>(null);
  return (
    <fieldset>
      <label>
        A day begins at{' '}
        <select
          aria-label="A day begins at"
          value={job.dayStart}
          onChange={(e) => save({ dayStart: Number(e.target.value) })}
        >
          {Array.from({ length: 24 }, (_, h) => (
            <option key={h} value={h}>
              {String(h).padStart(2, '0')}:00
            </option>
          ))}
        </select>
      </label>
      <label>
        The edit runs at{' '}
        <input
          aria-label="The edit runs at"
          value={rate ?? (job.rate ? formatRate(job.rate) : '')}
          placeholder="not known yet"
          style={{ width: 110 }}
          onChange={(e) => setRate(e.target.value)}
          onBlur={() => {
            if (rate !== null) {
              const r = rate.trim() === '' ? null : parseRate(rate);
              if (r || rate.trim() === '') save({ rate: r });
              setRate(null);
            }
          }}
          onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
        />{' '}
        fps
      </label>
    </fieldset>
  );
}
