'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useState } from 'react';
import { LONGEST_NAME } from '../../core/choose';
import styles from './choose.module.css';

/** One of several things that is asked for by a name. */
export interface Asking {
  title: string;
  label: string;
  value: string;
  /** What can be chosen, where it is not typed. */
  options?: readonly { value: string; words: string }[];
  /** Whether nothing is an answer, too. */
  empty?: boolean;
  done: string;
  take: (value: string) => void;
}

export function NameDialog({ asking, close }: { asking: Asking; close: () => void }) {
  const { title, label, options, empty, done, take } = asking;
  const [value, setValue] = useState(asking.value);
  const ready = empty === true || value.trim() !== '';
  return (
    <Dialog open onClose={close} maxWidth="xs" fullWidth>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (!ready) return;
          take(value);
          close();
        }}
      >
        <DialogTitle>{title}</DialogTitle>
        <DialogContent className={styles.asked}>
          <label>
            {label}
            {options ? (
              <select autoFocus value={value} onChange={(e) => setValue(e.target.value)}>
                {options.map((o) => (
                  <option key={o.value} value={o.value}>
                    {o.words}
                  </option>
                ))}
              </select>
            ) : (
              <input
                autoFocus
                maxLength={LONGEST_NAME}
                value={value}
                onFocus={(e) => e.target.select()}
                onChange={(e) => setValue(e.target.value)}
              />
            )}
          </label>
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!ready}>
            {done}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
