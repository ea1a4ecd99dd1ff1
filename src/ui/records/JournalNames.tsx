'use client';
import Button from '@mui/material/Button';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { JournalChange } from '../../core/naming';
import { library as server } from '../platform/client';
import { formatMoment, plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { type Running, useRunning } from '../platform/queries';
import styles from './rescue.module.css';

/** Changes of names that only the journal on the shelf knows, as those of a lost database or of a removed job, each with its undo. */
export function JournalNames() {
  const queries = useQueryClient();
  const changes = useQuery({ queryKey: ['journal names'], queryFn: server.journalChanges, gcTime: 0 });
  const undo = useMutation({
    mutationFn: (change: JournalChange) => server.undoFromJournal(change.plan),
    onSettled: () => queries.invalidateQueries(),
  });
  const running = useRunning();
  if (changes.error) return <ErrorNotice error={changes.error} again={() => void changes.refetch()} />;
  if (!changes.data) return <p role="status">Reading the journal …</p>;
  return (
    <>
      {undo.data && undo.data.failed.length > 0 && (
        <ul className={styles.list} aria-label="Clips that stayed">
          {undo.data.failed.slice(0, 20).map((f) => (
            <li key={f.file} className={styles.fault}>
              <span className="figures">{f.file}</span>: {f.fault}
            </li>
          ))}
        </ul>
      )}
      <ErrorNotice error={undo.error} />
      {changes.data.map((c) => (
        <Change
          key={c.plan}
          change={c}
          undo={() => undo.mutate(c)}
          state={undo.isPending ? (undo.variables.plan === c.plan ? 'doing' : 'busy') : 'free'}
          running={running?.job === null ? running : null}
        />
      ))}
      <p role="status">
        {undo.data && `${plural(undo.data.files, 'file')} went back to where they were before. `}
        {changes.data.length === 0 &&
          (undo.data
            ? 'Nothing more can be undone from the journal.'
            : 'The journal tells of no change of names that could be undone here.')}
      </p>
    </>
  );
}

function Change({
  change: c,
  undo,
  state,
  running,
}: {
  change: JournalChange;
  undo: () => void;
  state: 'free' | 'busy' | 'doing';
  running: Running | null;
}) {
  return (
    <div className={styles.records}>
      <div style={{ flex: 1, minWidth: 0 }}>
        <strong>{formatMoment(c.at)}</strong>{' '}
        <span className="soft">
          {plural(c.clips, 'clip')}
          {c.back > 0 && `, ${plural(c.back, 'is', 'are')} back already`}
          {c.clips > c.open + c.back && `, ${plural(c.clips - c.open - c.back, 'stays', 'stay')}`}
        </span>
        {c.examples.map((e) => (
          <span key={e.from} className={`figures ${styles.led}`}>
            {e.from} <span className="soft">→ {e.to}</span>
          </span>
        ))}
        {c.open > c.examples.length && <span className="soft">…</span>}
        {c.staying.map((s) => (
          <span key={s.file} className={styles.note}>
            <span className="figures">{s.file}</span> stays: {s.why}
          </span>
        ))}
      </div>
      <Button variant="outlined" disabled={state !== 'free'} onClick={undo}>
        {state === 'doing'
          ? `Undoing ${running ? `${Math.floor((100 * running.done) / running.total)} % ` : ''}…`
          : `Undo ${plural(c.open, 'clip')}`}
      </Button>
    </div>
  );
}
