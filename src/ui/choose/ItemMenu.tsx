'use client';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { type MouseEvent, useState } from 'react';
import styles from './choose.module.css';

export interface Item {
  words: string;
  act: () => void;
  /** Why it cannot be done now. */
  not?: string | undefined;
}

/** A right click on a thing of a list, or the key for menus where it has the focus, opens what is behind its three dots. */
export function openItsMenu(e: MouseEvent<HTMLElement>): void {
  const dots = e.currentTarget.querySelector<HTMLElement>('[aria-haspopup="menu"]');
  if (!dots) return;
  e.preventDefault();
  dots.click();
}

/**
 * What can be done with a thing of a list, behind three dots. Of very many things no menu is there until it is opened. `tabbable`: whether Tab
 * comes to it; where arrow keys go from thing to thing it does not, and the key for menus opens it.
 */
export function ItemMenu({
  label,
  items,
  tabbable = true,
}: {
  label: string;
  items: readonly Item[];
  tabbable?: boolean;
}) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  return (
    <>
      <button
        type="button"
        className={styles.dots}
        aria-label={label}
        aria-haspopup="menu"
        tabIndex={tabbable ? 0 : -1}
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
