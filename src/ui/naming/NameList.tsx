'use client';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef } from 'react';
import type { NamingRow } from '../../core/naming/shapes';
import { plural } from '../platform/format';
import { Tag } from '../platform/Tag';
import styles from './naming.module.css';

interface Props {
  rows: readonly NamingRow[];
  block: string | null;
  without: readonly string[];
  toggle: (clip: string) => void;
}

/** Before and after, with every clash and warning in place. The chosen block is marked in each name. */
export function NameList({ rows, block, without, toggle }: Props) {
  const holder = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => holder.current,
    estimateSize: () => 36,
    overscan: 12,
  });
  return (
    <div ref={holder} className={styles.rows} role="table" aria-label="Names" aria-rowcount={rows.length + 1}>
      <div className={`${styles.row} ${styles.heads}`} role="row">
        <span role="columnheader">
          <span className="visuallyHidden">Included</span>
        </span>
        <span role="columnheader">Current name</span>
        <span role="columnheader">New name</span>
        <span role="columnheader">Card</span>
        <span role="columnheader">Family</span>
        <span role="columnheader">
          <span className="visuallyHidden">Problems</span>
        </span>
      </div>
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }} role="rowgroup">
        {virtual.getVirtualItems().map((v) => {
          const r = rows[v.index]!;
          const stop = r.problems.some((p) => p.level === 'stop');
          const forced = r.out && !without.includes(r.clipId);
          return (
            <div
              key={r.clipId}
              role="row"
              aria-rowindex={v.index + 2}
              className={styles.row}
              data-stop={stop ? '' : undefined}
              data-out={r.out ? '' : undefined}
              data-same={!r.out && r.steps === 0 ? '' : undefined}
              style={{
                position: 'absolute',
                top: 0,
                left: 0,
                right: 0,
                transform: `translateY(${v.start}px)`,
              }}
            >
              <span role="cell">
                <input
                  type="checkbox"
                  checked={!r.out && !without.includes(r.clipId)}
                  disabled={forced}
                  onChange={() => toggle(r.clipId)}
                  aria-label={`Rename ${r.current}`}
                />
              </span>
              <span role="cell" className="figures soft" title={r.current}>
                {r.current}
                {r.extension}
              </span>
              <span role="cell" className="figures" title={`${r.folder}/${r.stem}${r.extension}`}>
                {r.out ? (
                  <span className="soft">unchanged</span>
                ) : (
                  <>
                    {withMark(r, block)}
                    {r.extension}
                  </>
                )}
              </span>
              <span role="cell">
                {r.card} · day {r.day}
              </span>
              <span role="cell">{plural(r.files, 'file')}</span>
              <span role="cell" className={styles.tags}>
                {r.problems.slice(0, 2).map((p) => (
                  <Tag key={p.code + p.text} tone={p.level}>
                    {p.text}
                  </Tag>
                ))}
                {!r.out && r.steps === 0 && r.problems.length === 0 && (
                  <Tag tone="proven">already correct</Tag>
                )}
              </span>
            </div>
          );
        })}
      </div>
    </div>
  );
}

function withMark(r: NamingRow, block: string | null) {
  const at = r.parts.findIndex((p) => p.blockId === block);
  if (at < 0) return r.stem;
  // The separator is what is left of the name between two parts.
  const separatorLength =
    r.parts.length < 2
      ? 0
      : (r.stem.length - r.parts.reduce((n, p) => n + p.text.length, 0)) / (r.parts.length - 1);
  const from = r.parts.slice(0, at).reduce((n, p) => n + p.text.length + separatorLength, 0);
  const to = from + r.parts[at]!.text.length;
  return (
    <>
      {r.stem.slice(0, from)}
      <mark>{r.stem.slice(from, to)}</mark>
      {r.stem.slice(to)}
    </>
  );
}
