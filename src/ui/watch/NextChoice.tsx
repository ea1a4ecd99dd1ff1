'use client';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import { NextPlacing, NextSteps } from '../../core/next';
import styles from './watch.module.css';

const PLACING: Readonly<Record<NextPlacing, string>> = {
  leave: 'stay where they are',
  place: 'go into their folders',
  name: 'are named and placed',
};

/** Texts between a sign, each trimmed, none of them empty. */
const parts = (typed: string, sign: string): string[] =>
  typed
    .split(sign)
    .map((t) => t.trim())
    .filter((t) => t !== '');

interface Props {
  next: NextSteps;
  /** Null where a name is too long, or there are too many. */
  set: (next: NextSteps | null) => void;
  /** Whether clips are named and get proxies by a way of their own: then only marks are chosen here. */
  marksOnly?: boolean;
}

/** A row of steps that follow the taking in by themselves. */
export function NextChoice({ next, set, marksOnly = false }: Props) {
  const [typed, setTyped] = useState({ keywords: next.keywords.join(', '), bin: next.bin.join(' / ') });
  const marks = (t: typeof typed) => ({ keywords: parts(t.keywords, ','), bin: parts(t.bin, '/') });
  const change = (steps: Partial<NextSteps>, marked = typed) => {
    setTyped(marked);
    const made = NextSteps.safeParse({ ...next, ...steps, ...marks(marked) });
    set(made.success ? made.data : null);
  };
  const wrong = (text: 'keywords' | 'bin') => !NextSteps.shape[text].safeParse(marks(typed)[text]).success;
  return (
    <div className={styles.next} role="group" aria-label="What happens next">
      {!marksOnly && (
        <>
          <TextField
            select
            size="small"
            label="Once read, clips"
            value={next.placing}
            onChange={(e) => change({ placing: e.target.value as NextPlacing })}
          >
            {NextPlacing.options.map((p) => (
              <MenuItem key={p} value={p}>
                {PLACING[p]}
              </MenuItem>
            ))}
          </TextField>
          <FormControlLabel
            control={
              <Checkbox
                size="small"
                checked={next.proxies}
                onChange={(e) => change({ proxies: e.target.checked })}
              />
            }
            label="make proxies"
            title="Of those that need one, as the rules on Proxies say"
            sx={{ mr: 0 }}
          />
        </>
      )}
      <TextField
        size="small"
        label="Keywords"
        placeholder="boat, dawn"
        value={typed.keywords}
        error={wrong('keywords')}
        onChange={(e) => change({}, { ...typed, keywords: e.target.value })}
      />
      <TextField
        size="small"
        label="Into the bin"
        placeholder="Interviews / Day 1"
        value={typed.bin}
        error={wrong('bin')}
        onChange={(e) => change({}, { ...typed, bin: e.target.value })}
      />
    </div>
  );
}
