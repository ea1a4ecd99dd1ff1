'use client';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import styles from './choose.module.css';

export interface Item {
  words: string;
  act: () => void;
  /** Why it cannot be done now. */
  not?: string | undefined;
}

/** What can be done with a thing of a list, behind three dots. Of very many things no menu is there until it is opened. */
export function ItemMenu({ label, items }: { label: string; items: readonly Item[] }) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  return (
    <>
      <button
        type="button"
        className={styles.dots}
        aria-label={label}
        aria-haspopup="menu"
        tabIndex={-1}
        onClick={(e) => {
          e.stopPropagation();
          setAt(e.currentTarget);
        }}
      >
        ⋯
      </button>
      {at && (
        <Menu anchorEl={at} open onClose={() => setAt(null)} onClick={(e) => e.stopPropagation()}>
          {items.map(({ words, act, not }) => (
            <MenuItem
              key={words}
              dense
              disabled={not !== undefined}
              title={not}
              onClick={() => {
                setAt(null);
                act();
              }}
            >
              {words}
            </MenuItem>
          ))}
        </Menu>
      )}
    </>
  );
}
