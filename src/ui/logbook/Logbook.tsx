'use client';
import Button from '@mui/material/Button';
import {
  keepPreviousData,
  useInfiniteQuery,
  useMutation,
  useQuery,
  useQueryClient,
} from '@tanstack/react-query';
import { useState } from 'react';
import { type LogEntry, LogKind, MOST_WORDS } from '../../core/logbook/shapes';
import { FindField } from '../platform/FindField';
import { useServer } from '../platform/job';
import { formatMoment, plural } from '../platform/format';
import { Empty, ErrorNotice } from '../platform/Notice';
import { Tag } from '../platform/Tag';
import { useSettled } from '../platform/useSettled';
import { PlanSteps } from './PlanSteps';
import styles from './logbook.module.css';

const KIND_WORDS: Record<LogKind, string> = {
  job: 'Job',
  copy: 'Copied',
  check: 'Checked',
  takeIn: 'Taken in',
  name: 'Named',
  undo: 'Taken back',
  proxy: 'Proxy',
  pair: 'Pair',
  recovery: 'Recovery',
  root: 'Place',
  facts: 'Facts',
  choose: 'Choose',
  edit: 'Edit',
  handover: 'Hand-over',
};

/** Every change, newest first, a page at a time, each with the way back while there is one. */
export function Logbook() {
  const server = useServer();
  const [kind, setKind] = useState<LogKind | null>(null);
  const [words, setWords] = useState('');
  const wanted = { ...(kind && { kind }), words: useSettled(words.trim().slice(0, MOST_WORDS), 200) };
  const log = useInfiniteQuery({
    queryKey: ['log', wanted],
    queryFn: ({ pageParam: before }) => server.log({ ...wanted, ...(before && { before }) }),
    initialPageParam: '',
    getNextPageParam: (last) => last.older ?? undefined,
    placeholderData: keepPreviousData,
  });
  if (log.error)
    return (
      <div style={{ padding: 20 }}>
        <ErrorNotice error={log.error} again={() => void log.refetch()} />
      </div>
    );
  if (!log.data) return null;
  const has = new Set(log.data.pages[0]!.kinds);
  const kinds = LogKind.options.filter((k) => has.has(k));
  const shown = log.data.pages.flatMap((p) => p.entries);
  return (
    <div className={styles.screen}>
      <header>
        <h1>Logbook</h1>
        <div role="group" aria-label="Kinds of change" className={styles.kinds}>
          <button type="button" aria-pressed={kind === null} onClick={() => setKind(null)}>
            all
          </button>
          {kinds.map((k) => (
            <button
              key={k}
              type="button"
              aria-pressed={kind === k}
              onClick={() => setKind(kind === k ? null : k)}
            >
              {KIND_WORDS[k]}
            </button>
          ))}
        </div>
        <FindField label="Find in the logbook" words={words} set={setWords} />
      </header>
      {shown.length === 0 ? (
        <Empty title="No entries of this kind" />
      ) : (
        <ol className={styles.list}>
          {shown.map((e) => (
            <Entry key={e.id} entry={e} />
          ))}
          {log.hasNextPage && (
            <li className={styles.older}>
              <Button onClick={() => void log.fetchNextPage()}>
                {log.isFetchingNextPage ? 'Reading …' : 'Older entries'}
              </Button>
            </li>
          )}
        </ol>
      )}
    </div>
  );
}

function Entry({ entry: e }: { entry: LogEntry }) {
  const server = useServer();
  const queries = useQueryClient();
  const [open, setOpen] = useState(false);
  const plan = useQuery({
    queryKey: ['plan', e.planId, e.planState],
    queryFn: () => server.plan(e.planId!),
    enabled: open && e.planId !== null,
  });
  const undo = useMutation({
    mutationFn: (clips: readonly string[]) => server.undo(e.planId!, clips),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <li className={styles.entry}>
      <div className={styles.line}>
        <span className="figures soft">{formatMoment(e.at)}</span>
        <span className="soft">{e.who}</span>
        <strong>{KIND_WORDS[e.kind]}</strong>
        <span className={styles.text}>{e.text}</span>
        {e.planState === 'undone' && <Tag tone="plain">undone</Tag>}
        {e.planState === 'partly' && <Tag tone="look">in part</Tag>}
        {e.planId && (
          <Button size="small" color="inherit" onClick={() => setOpen(!open)} aria-expanded={open}>
            {open ? 'Hide' : `Show ${plural(e.steps, 'file')}`}
          </Button>
        )}
        {e.undoable && (
          <Button size="small" variant="outlined" onClick={() => undo.mutate([])} disabled={undo.isPending}>
            {undo.isPending ? 'Undoing …' : 'Undo'}
          </Button>
        )}
      </div>
      <ErrorNotice error={undo.error ?? plan.error} close={() => undo.reset()} />
      {undo.data && undo.data.failed.length > 0 && (
        <div className={styles.failed}>
          {undo.data.failed.map((f) => (
            <div key={f.file}>
              <span className="figures">{f.file}</span>: {f.fault}
            </div>
          ))}
        </div>
      )}
      {open && plan.data && (
        <PlanSteps
          plan={plan.data}
          undo={e.kind === 'name' ? (clips) => undo.mutate(clips) : null}
          undoing={undo.isPending}
        />
      )}
    </li>
  );
}
