'use client';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, memo, type MouseEvent, useMemo, useRef, useState } from 'react';
import { type FieldId, fieldOf, SOURCE_WORDS, type Source } from '../../core/facts/catalogue';
import type { FactTable } from '../../core/facts/shapes';
import { plural } from '../platform/format';
import { isNumeric, type Line, type Sorting, widthOf } from './columns';
import styles from './facts.module.css';

const NAME = 210;

interface Props {
  table: FactTable;
  fields: readonly FieldId[];
  lines: readonly Line[];
  sorting: Sorting | null;
  sort: (s: Sorting | null) => void;
  chosen: ReadonlySet<string>;
  choose: (ids: ReadonlySet<string>) => void;
}

/** Thousands of clips by fields. Only the lines in sight are drawn; chosen by click, Shift, Ctrl and keys. */
export const FactGrid = memo(function FactGrid({
  table,
  fields,
  lines,
  sorting,
  sort,
  chosen,
  choose,
}: Props) {
  const box = useRef<HTMLDivElement>(null);
  const anchor = useRef<number | null>(null);
  const [focus, setFocus] = useState<number | null>(null);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => box.current,
    estimateSize: () => 30,
    overscan: 12,
  });
  const widths = useMemo(() => fields.map((f) => widthOf(f, table)), [fields, table]);
  const columns = useMemo(
    () => fields.map((f) => table.columns.find((c) => c.field === f) ?? null),
    [fields, table],
  );
  const width = NAME + widths.reduce((n, w) => n + w, 0);

  const between = (a: number, b: number): string[] =>
    lines.slice(Math.min(a, b), Math.max(a, b) + 1).flatMap((l) => ('id' in l ? [l.id] : []));
  const pick = (at: number, e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
    const line = lines[at];
    if (!line || !('id' in line)) return;
    setFocus(at);
    if (e.shiftKey && anchor.current !== null) return choose(new Set(between(anchor.current, at)));
    anchor.current = at;
    if (!e.ctrlKey && !e.metaKey) return choose(new Set([line.id]));
    const next = new Set(chosen);
    if (!next.delete(line.id)) next.add(line.id);
    choose(next);
  };
  const press = (e: KeyboardEvent) => {
    if ((e.ctrlKey || e.metaKey) && e.key === 'a') {
      e.preventDefault();
      return choose(new Set(lines.flatMap((l) => ('id' in l ? [l.id] : []))));
    }
    if (e.key === 'Escape') return choose(new Set());
    const page = Math.max(1, Math.floor((box.current?.clientHeight ?? 300) / 30) - 2);
    const by = {
      ArrowDown: 1,
      ArrowUp: -1,
      PageDown: page,
      PageUp: -page,
      Home: -lines.length,
      End: lines.length,
    }[e.key];
    if (by === undefined) return;
    e.preventDefault();
    const way = by > 0 ? 1 : -1;
    let to = Math.max(0, Math.min(lines.length - 1, (focus ?? -1) + by));
    while (lines[to] && 'group' in lines[to]!) to += way > 0 || to === 0 ? 1 : -1;
    if (!lines[to]) return;
    pick(to, { shiftKey: e.shiftKey, ctrlKey: false, metaKey: false });
    virtual.scrollToIndex(to);
  };
  const head = (by: Sorting['by'], words: string, extra: Record<string, unknown>) => {
    const mine = sorting?.by === by;
    return (
      <button
        key={by}
        type="button"
        {...extra}
        {...(mine ? { 'aria-sort': sorting.down ? ('descending' as const) : ('ascending' as const) } : {})}
        onClick={() => sort(!mine ? { by, down: false } : sorting.down ? null : { by, down: true })}
      >
        {words}
        {mine ? (sorting.down ? ' ↓' : ' ↑') : ''}
      </button>
    );
  };
  return (
    <div
      ref={box}
      className={styles.table}
      role="grid"
      aria-label="Clips by fields"
      aria-rowcount={lines.length}
      aria-multiselectable
      tabIndex={0}
      onKeyDown={press}
      data-testid="facts"
    >
      <div className={styles.inner} style={{ width }}>
        <div className={styles.heads} role="row">
          {head('name', 'Clip', { className: styles.name, style: { width: NAME } })}
          {fields.map((f, i) =>
            head(f, fieldOf(f).term, {
              style: { width: widths[i] },
              title: fieldOf(f).meaning,
              ...(isNumeric(f) ? { 'data-number': '' } : {}),
            }),
          )}
        </div>
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const line = lines[item.index]!;
            if ('group' in line)
              return (
                <div key={item.key} className={styles.group} style={{ top: item.start }} role="row">
                  <span>
                    <strong>{line.group}</strong>
                    <span className="soft">{plural(line.clips, 'clip')}</span>
                  </span>
                </div>
              );
            const row = line;
            return (
              <div
                key={item.key}
                className={styles.row}
                style={{ top: item.start, width }}
                role="row"
                aria-selected={chosen.has(row.id)}
                data-focus={item.index === focus ? '' : undefined}
                onMouseDown={(e: MouseEvent) => e.shiftKey && e.preventDefault()}
                onClick={(e) => pick(item.index, e)}
              >
                <span className={styles.name} style={{ width: NAME }} role="gridcell" title={row.name}>
                  {row.name}
                </span>
                {columns.map((c, i) => {
                  const at = c?.rows[row.at];
                  const cell = at === null || at === undefined ? null : c!.cells[at]!;
                  return (
                    <span
                      key={fields[i]}
                      role="gridcell"
                      style={{ width: widths[i] }}
                      data-number={isNumeric(fields[i]!) ? '' : undefined}
                      title={cell ? `${cell[0]} (${SOURCE_WORDS[cell[2] as Source]})` : undefined}
                    >
                      {cell?.[0] ?? ''}
                    </span>
                  );
                })}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
});
