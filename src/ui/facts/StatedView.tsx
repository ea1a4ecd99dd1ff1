'use client';
import { useQuery } from '@tanstack/react-query';
import { Fragment } from 'react';
import { FieldGroup, type FieldId, fieldOf, GROUP_WORDS } from '../../core/facts/catalogue';
import { sourceWords } from '../../core/facts/table';
import { server } from '../client';
import { plural } from '../shared/format';
import { Empty, ErrorNotice } from '../shared/Notice';
import styles from './facts.module.css';

/** Which camera states which field: by all of its clips, some, or none. */
export function StatedView() {
  const stated = useQuery({ queryKey: ['stated'], queryFn: server.stated });
  if (stated.error) return <div className={styles.body}><ErrorNotice error={stated.error} again={() => void stated.refetch()} /></div>;
  if (!stated.data) return null;
  const { cameras, rows } = stated.data;
  if (cameras.length === 0) return <Empty title="No clip has been read yet" />;
  return (
    <div className={styles.body}>
      <table className={styles.sheet} aria-label="Who states what">
        <thead><tr><th>Field</th>{cameras.map((c) => <th key={c.letter}>{c.letter} <span className="soft" style={{ fontWeight: 400 }}>{c.model ?? ''} · {plural(c.clips, 'clip')}</span></th>)}</tr></thead>
        <tbody>
          {FieldGroup.options.map((group) => {
            const mine = rows.filter((r) => fieldOf(r.field as FieldId).group === group);
            return mine.length === 0 ? null : (
              <Fragment key={group}>
                <tr data-group=""><th colSpan={cameras.length + 1}>{GROUP_WORDS[group]}</th></tr>
                {mine.map((r) => (
                  <tr key={r.field}>
                    <th title={fieldOf(r.field).meaning}>{fieldOf(r.field).term}</th>
                    {cameras.map((c) => {
                      const cell = r.cells[c.letter] ?? { stated: 0, of: c.clips, sources: [] };
                      const words = cell.stated === 0 ? 'none' : cell.stated === cell.of ? 'all' : `${cell.stated} of ${cell.of}`;
                      return (
                        <td key={c.letter}>
                          <span className={styles.cell}><span className={styles.share} data-none={cell.stated === 0 ? '' : undefined} aria-hidden="true"><i style={{ width: `${(100 * cell.stated) / cell.of}%` }} /></span>
                            {words}</span>{cell.sources.length > 0 && <small>{sourceWords(cell.sources)}</small>}
                        </td>
                      );
                    })}
                  </tr>
                ))}
              </Fragment>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
