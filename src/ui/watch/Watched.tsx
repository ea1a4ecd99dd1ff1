'use client';
import Button from '@mui/material/Button';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { WatchFind, WatchView } from '../../core/watch';
import { formatMoment, plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { Tag } from '../platform/Tag';
import { useWatches } from './useWatches';
import { WatchDialog } from './WatchThis';
import styles from './watch.module.css';

const KIND: Readonly<
  Record<WatchFind['kind'], { tone: 'proven' | 'look' | 'stop' | 'plain'; word: string }>
> = {
  taken: { tone: 'proven', word: 'taken in' },
  twice: { tone: 'plain', word: 'in the job already' },
  gone: { tone: 'look', word: 'gone' },
  back: { tone: 'plain', word: 'back' },
  moved: { tone: 'plain', word: 'moved' },
  changed: { tone: 'look', word: 'changed' },
  wrong: { tone: 'look', word: 'left out' },
};

/** How a folder is watched, in a sentence. */
function howWords(w: WatchView): string {
  if (!w.here) return 'not here now: what was taken in from it stays';
  const how =
    w.by === 'asking'
      ? 'looked at when you ask'
      : w.by === 'events'
        ? 'the system tells of changes'
        : `looked at again and again: ${w.why}`;
  const moving = w.moving > 0 ? ` · ${plural(w.moving, 'file')} still coming` : '';
  return `${how}${w.looked === null ? '' : ` · last look ${formatMoment(w.looked)}`}${moving}`;
}

/** What happens with clips that come in, in a sentence; empty where they are read only. */
function nextWords({ options: { into, next } }: WatchView): string {
  const steps = [
    ...(into ? [`into card ${into.cardId}`] : []),
    ...(next.placing === 'leave' ? [] : [next.placing === 'name' ? 'named' : 'put in their folders']),
    ...(next.proxies ? ['with proxies'] : []),
    ...(next.keywords.length > 0 ? [`keywords ${next.keywords.join(', ')}`] : []),
    ...(next.bin.length > 0 ? [`in the bin ${next.bin.join(' / ')}`] : []),
  ];
  return steps.length === 0 ? '' : `Then: ${steps.join(' · ')}`;
}

/** The watched folders of the job: how each is watched, and what was found until it is read. */
export function Watched() {
  const watches = useWatches();
  const list = watches.data ?? [];
  if (list.length === 0) return null;
  return (
    <section className={styles.watched} aria-label="Watched folders">
      <div className={styles.head}>
        <h2>Watched folders</h2>
        <span className={styles.grow} />
        <AllowNotices />
      </div>
      <ul>
        {list.map((w) => (
          <Folder key={w.id} watch={w} />
        ))}
      </ul>
    </section>
  );
}

/** Asks the browser for leave to tell of finds while this window is behind others; nothing where that was answered. */
function AllowNotices() {
  const [asked, setAsked] = useState(
    () => typeof Notification === 'undefined' || Notification.permission !== 'default',
  );
  if (asked) return null;
  return (
    <Button
      size="small"
      title="The browser asks once; it tells of finds while this window is behind others"
      onClick={() => void Notification.requestPermission().then(() => setAsked(true))}
    >
      Browser notifications …
    </Button>
  );
}

function Folder({ watch: w }: { watch: WatchView }) {
  const server = useServer();
  const queries = useQueryClient();
  const act = useMutation({
    mutationFn: (work: () => Promise<unknown>) => work(),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['watches'] }),
  });
  const [open, setOpen] = useState(false);
  const name = w.path === '' ? w.rootName : `${w.rootName} / ${w.path}`;
  return (
    <li>
      <div className={styles.head}>
        <strong>{name}</strong>
        <span className={styles.grow} />
        <Button
          size="small"
          disabled={act.isPending}
          onClick={() => act.mutate(() => server.lookAtWatch(w.id))}
          aria-label={`Look now in ${name}`}
        >
          {act.isPending ? 'Looking …' : 'Look now'}
        </Button>
        <Button size="small" onClick={() => setOpen(true)} aria-label={`Change how ${name} is watched`}>
          Change …
        </Button>
        <Button
          size="small"
          disabled={act.isPending}
          onClick={() => act.mutate(() => server.dropWatch(w.id))}
          title="What was taken in from it stays"
          aria-label={`Stop watching ${name}`}
        >
          Stop watching
        </Button>
      </div>
      <div className="soft" role="status">
        {howWords(w)}
      </div>
      {nextWords(w) !== '' && <div className="soft">{nextWords(w)}</div>}
      {open && (
        <WatchDialog
          title={`How “${name}” is watched`}
          root={w.root}
          path={w.path}
          confirm="Keep"
          start={w.options}
          keep={(options) => server.setWatch(w.id, options)}
          close={() => setOpen(false)}
        />
      )}
      {w.fault !== null && <div className={styles.fault}>{w.fault}</div>}
      {w.finds.length > 0 && (
        <>
          <ol className={styles.finds} aria-label={`Found in ${name}`}>
            {w.finds.map((f) => (
              <li key={f.id}>
                <Tag tone={KIND[f.kind].tone}>{KIND[f.kind].word}</Tag>
                <span>{f.text}</span>
                <span className="soft">{formatMoment(f.at)}</span>
              </li>
            ))}
          </ol>
          <Button size="small" onClick={() => act.mutate(() => server.readFinds(w.id))}>
            Mark as read
          </Button>
        </>
      )}
      <ErrorNotice error={act.error} close={act.reset} />
    </li>
  );
}
