'use client';
import { useQuery } from '@tanstack/react-query';
import { Fragment, useState } from 'react';
import { FieldGroup, fieldOf, GROUP_WORDS, SOURCE_WORDS, type Source } from '../../core/facts/catalogue';
import { server } from '../client';
import { plural } from '../shared/format';
import { Empty, ErrorNotice } from '../shared/Notice';
import { Tag } from '../shared/Tag';
import styles from './facts.module.css';

/** Most that fit beside one another. */
const MOST = 8;

/** Two or more clips beside one another, with every source; where they differ is marked. */
export function SideBySideView({ clips }: { clips: readonly string[] }) {
  const shown = clips.slice(0, MOST);
  const side = useQuery({ queryKey: ['sideBySide', shown], queryFn: () => server.sideBySide(shown), enabled: shown.length > 0 });
  const [differing, setDiffering] = useState(false);
  if (shown.length < 2) return <Empty title="Choose two clips or more"><p className="soft">Click one in the table, Ctrl and click the next; then come back here.</p></Empty>;
  if (side.error) return <div className={styles.body}><ErrorNotice error={side.error} again={() => void side.refetch()} /></div>;
  if (!side.data) return null;
  const rows = side.data.rows.filter((r) => !differing || r.differs);
  const n = side.data.rows.filter((r) => r.differs).length;
  return (
    <div className={styles.body}>
      <div style={{ display: 'flex', gap: 16, alignItems: 'center', marginBottom: 10 }}>
        <Tag tone={n > 0 ? 'look' : 'proven'}>{n > 0 ? `${plural(n, 'field')} differ` : 'all alike'}</Tag>
        <label><input type="checkbox" checked={differing} onChange={(e) => setDiffering(e.target.checked)} /> only what differs</label>
        {clips.length > MOST && <span className="soft">the first {MOST} of {clips.length} chosen</span>}
      </div>
      <table className={styles.sheet} aria-label="Side by side">
        <thead><tr><th>Field</th>{side.data.clips.map((c) => <th key={c.id} className="figures">{c.name}</th>)}</tr></thead>
        <tbody>
          {FieldGroup.options.map((group) => {
            const mine = rows.filter((r) => fieldOf(r.field).group === group);
            return mine.length === 0 ? null : (
              <Fragment key={group}>
                <tr data-group=""><th colSpan={shown.length + 1}>{GROUP_WORDS[group]}</th></tr>
                {mine.map((r) => (
                  <tr key={r.field} data-differs={r.differs ? '' : undefined}>
                    <th title={fieldOf(r.field).meaning}>{r.differs ? '≠ ' : ''}{fieldOf(r.field).term}</th>
                    {r.cells.map((c, i) => (
                      <td key={i} className="figures">
                        {c ? <>{c.shown[0]}<small>{SOURCE_WORDS[c.shown[2] as Source]}</small>{c.others.map((o, k) => <small key={k}>{o.contradicts ? <s>{o.value}</s> : o.value} {SOURCE_WORDS[o.source]}</small>)}</> : <span className="soft">not stated</span>}
                      </td>
                    ))}
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
