'use client';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { SOURCE_WORDS, type Source } from '../../core/facts/catalogue';
import { useServer } from '../platform/job';
import { plural } from '../platform/format';
import { Empty, ErrorNotice } from '../platform/Notice';
import { Tag } from '../platform/Tag';
import styles from './facts.module.css';
import { FieldSheet } from './FieldSheet';

/** Most that fit beside one another. */
const MAX_CLIPS = 8;

/** Two or more clips beside one another, with every source; where they differ is marked. */
export function SideBySideView({ clips }: { clips: readonly string[] }) {
  const server = useServer();
  const shown = clips.slice(0, MAX_CLIPS);
  const side = useQuery({
    queryKey: ['sideBySide', shown],
    queryFn: () => server.sideBySide(shown),
    enabled: shown.length > 0,
  });
  const [differing, setDiffering] = useState(false);
  if (shown.length < 2)
    return (
      <Empty title="Choose two clips or more">
        <p className="soft">Click one in the table, Ctrl and click the next; then come back here.</p>
      </Empty>
    );
  if (side.error)
    return (
      <div className={styles.body}>
        <ErrorNotice error={side.error} again={() => void side.refetch()} />
      </div>
    );
  if (!side.data) return null;
  const rows = side.data.rows.filter((r) => !differing || r.differs);
  const n = side.data.rows.filter((r) => r.differs).length;
  return (
    <div className={styles.body}>
      <div style={{ display: 'flex', gap: 16, alignItems: 'center', marginBottom: 10 }}>
        <Tag tone={n > 0 ? 'look' : 'proven'}>{n > 0 ? `${plural(n, 'field')} differ` : 'all alike'}</Tag>
        <label>
          <input type="checkbox" checked={differing} onChange={(e) => setDiffering(e.target.checked)} /> only
          what differs
        </label>
        {clips.length > MAX_CLIPS && (
          <span className="soft">
            the first {MAX_CLIPS} of {clips.length} chosen
          </span>
        )}
      </div>
      <FieldSheet
        label="Side by side"
        heads={side.data.clips.map((c) => (
          <span key={c.id} className="figures">
            {c.name}
          </span>
        ))}
        rows={rows}
        differs={(r) => r.differs}
        cells={(r) =>
          r.cells.map((c, i) =>
            c ? (
              <span key={i} className="figures">
                {c.shown[0]}
                <small>{SOURCE_WORDS[c.shown[2] as Source]}</small>
                {c.others.map((o, k) => (
                  <small key={k}>
                    {o.contradicts ? <s>{o.value}</s> : o.value} {SOURCE_WORDS[o.source]}
                  </small>
                ))}
              </span>
            ) : (
              <span key={i} className="soft">
                not stated
              </span>
            ),
          )
        }
      />
    </div>
  );
}
