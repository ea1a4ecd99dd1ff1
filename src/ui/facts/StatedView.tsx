'use client';
import { useQuery } from '@tanstack/react-query';
import { sourceWords } from '../../core/facts/table';
import { useServer } from '../platform/job';
import { plural } from '../platform/format';
import { Empty, ErrorNotice } from '../platform/Notice';
import styles from './facts.module.css';
import { FieldSheet } from './FieldSheet';

/** Which camera states which field: by all of its clips, some, or none. */
export function StatedView() {
  const server = useServer();
  const stated = useQuery({ queryKey: ['stated'], queryFn: server.stated });
  if (stated.error)
    return (
      <div className={styles.body}>
        <ErrorNotice error={stated.error} again={() => void stated.refetch()} />
      </div>
    );
  if (!stated.data) return null;
  const { cameras, rows } = stated.data;
  if (cameras.length === 0) return <Empty title="No clip has been read yet" />;
  return (
    // It scrolls and holds nothing to press: the keyboard reaches it as a whole.
    <div className={styles.body} tabIndex={0} role="region" aria-label="Which camera states which field">
      <FieldSheet
        label="Who states what"
        rows={rows}
        heads={cameras.map((c) => (
          <span key={c.label}>
            {c.label}{' '}
            <span className="soft" style={{ fontWeight: 400 }}>
              {c.model ?? ''} · {plural(c.clips, 'clip')}
            </span>
          </span>
        ))}
        cells={(r) =>
          cameras.map((c) => {
            const cell = r.cells[c.label] ?? { stated: 0, of: c.clips, sources: [] };
            const words =
              cell.stated === 0 ? 'none' : cell.stated === cell.of ? 'all' : `${cell.stated} of ${cell.of}`;
            return (
              <div key={c.label}>
                <span className={styles.cell}>
                  <span
                    className={styles.share}
                    data-none={cell.stated === 0 ? '' : undefined}
                    aria-hidden="true"
                  >
                    <i style={{ width: `${(100 * cell.stated) / cell.of}%` }} />
                  </span>
                  {words}
                </span>
                {cell.sources.length > 0 && <small>{sourceWords(cell.sources)}</small>}
              </div>
            );
          })
        }
      />
    </div>
  );
}
