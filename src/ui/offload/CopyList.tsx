'use client';
import Link from '../platform/Link';
import type { OffloadView } from '../../core/offload/shapes';
import { formatBytes, formatLeft, formatMoment, plural } from '../platform/format';
import { useCopying, useOffloads } from '../platform/queries';
import { Tag } from '../platform/Tag';
import styles from './offload.module.css';
import { COPY_WORDS } from './words';
import { useAddress } from '../platform/job';

/** The copies of the job, the newest first; nothing before the first. */
export function CopyList() {
  const copies = useOffloads().data ?? [];
  if (copies.length === 0) return null;
  return (
    <section className={styles.list} aria-label="Copies">
      <h2>Copies</h2>
      {copies.map((c) => (
        <Row key={c.id} copy={c} />
      ))}
    </section>
  );
}

function Row({ copy }: { copy: OffloadView }) {
  const address = useAddress();
  const now = useCopying().find((c) => c.id === copy.id);
  const moving = now !== undefined && (copy.state === 'running' || copy.state === 'queued');
  const done = moving ? now.bytes : copy.verifiedBytes;
  const { word, tone } = COPY_WORDS[copy.state];
  return (
    <article className={styles.row}>
      <Link href={address(`/copy/${copy.id}`)} className={styles.open} aria-label={`Copy of ${copy.card}`} />
      <strong className="figures">{copy.card}</strong>
      <span className="soft">
        from {copy.from} to{' '}
        {copy.destinations
          .filter((d) => !d.dropped)
          .map((d) => d.rootName)
          .join(', ')}
      </span>
      <Tag tone={tone}>{word}</Tag>
      {copy.state === 'done' || copy.state === 'partly' ? (
        <span className="figures soft">
          {plural(copy.verified, 'file')}
          {copy.failed > 0 ? `, ${copy.failed} failed` : ''} ·{' '}
          {copy.endedAt ? formatMoment(copy.endedAt) : ''}
        </span>
      ) : (
        <span className="figures soft">
          <i className={styles.mini}>
            <b style={{ width: `${copy.bytes > 0 ? (100 * done) / copy.bytes : 0}%` }} />
          </i>{' '}
          {formatBytes(done)} of {formatBytes(copy.bytes)}
          {moving && now.left !== null ? ` · ${formatLeft(now.left)}` : ''}
        </span>
      )}
      {(copy.state === 'done' || copy.state === 'partly') && (
        <Link href={address(`/card/${encodeURIComponent(copy.physical)}/wipe`)} className={styles.may}>
          May it be wiped?
        </Link>
      )}
      {copy.fault && <span className={styles.fault}>{copy.fault}</span>}
    </article>
  );
}
