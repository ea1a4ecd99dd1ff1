import { Fragment, type ReactNode } from 'react';
import { FieldGroup, type FieldId, fieldOf, GROUP_WORDS } from '../../core/facts/catalogue';
import styles from './facts.module.css';

interface Props<R> {
  label: string;
  /** Over the columns after the field's own. */
  heads: readonly ReactNode[];
  rows: readonly R[];
  /** What is in a row, as many as there are heads. */
  cells: (row: R) => readonly ReactNode[];
  /** Whether a row is marked as one whose cells differ. */
  differs?: (row: R) => boolean;
}

/** Fields down the side, in their groups; groups without a row are left out. */
export function FieldSheet<R extends { field: FieldId }>({ label, heads, rows, cells, differs }: Props<R>) {
  return (
    <table className={styles.sheet} aria-label={label}>
      <thead>
        <tr>
          <th>Field</th>
          {heads.map((h, i) => (
            <th key={i}>{h}</th>
          ))}
        </tr>
      </thead>
      <tbody>
        {FieldGroup.options.map((group) => {
          const mine = rows.filter((r) => fieldOf(r.field).group === group);
          return mine.length === 0 ? null : (
            <Fragment key={group}>
              <tr data-group="">
                <th colSpan={heads.length + 1}>{GROUP_WORDS[group]}</th>
              </tr>
              {mine.map((row) => {
                const { term, meaning } = fieldOf(row.field);
                const marked = differs?.(row) ?? false;
                return (
                  <tr key={row.field} data-differs={marked ? '' : undefined}>
                    <th title={meaning}>
                      {marked ? '≠ ' : ''}
                      {term}
                    </th>
                    {cells(row).map((c, i) => (
                      <td key={i}>{c}</td>
                    ))}
                  </tr>
                );
              })}
            </Fragment>
          );
        })}
      </tbody>
    </table>
  );
}
