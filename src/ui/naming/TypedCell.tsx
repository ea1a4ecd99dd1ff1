'use client';
import { useState } from 'react';
import type { FieldId } from '../../core/facts';
import { TYPED_FIELDS } from '../../core/naming/fill';
import type { NamingRow } from '../../core/naming/shapes';
import styles from './naming.module.css';

/** A column for what only a person knows: a field of facts that is typed. */
export interface Column {
  field: FieldId;
  term: string;
}

export const COLUMNS: readonly Column[] = TYPED_FIELDS;

/** A cell to type in; a text of several lines that is pasted goes on in the rows below. Kept on leaving it and with Enter. */
export function TypedCell({
  column,
  row,
  say,
}: {
  column: Column;
  row: NamingRow;
  say: (text: string) => void;
}) {
  const known = row.facts[column.field] ?? '';
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    if (typed !== null && typed.trim() !== known) say(typed);
    setTyped(null);
  };
  return (
    <input
      className={styles.typed}
      value={typed ?? known}
      aria-label={`${column.term} of ${row.current}`}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={keep}
      onPaste={(e) => {
        const text = e.clipboardData.getData('text');
        if (!/[\n\t]/u.test(text)) return;
        e.preventDefault();
        setTyped(null);
        say(text);
      }}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === 'Escape') setTyped(null);
        if (e.key !== 'Enter') return;
        keep();
        const cells = [
          ...document.querySelectorAll<HTMLInputElement>(`input[aria-label^="${column.term} of "]`),
        ];
        cells[cells.indexOf(e.currentTarget) + 1]?.focus();
      }}
    />
  );
}
