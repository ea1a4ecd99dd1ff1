'use client';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { library } from '../../platform/client';
import { ErrorNotice } from '../../platform/Notice';
import styles from './packages.module.css';

/** A recipient's drive, or another folder that packages are written to. */
export function AddPlace({ done }: { done: (id: string) => void }) {
  const queries = useQueryClient();
  const [path, setPath] = useState('');
  const add = useMutation({
    mutationFn: () => library.addRoot({ kind: 'handover', path: path.trim() }),
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries({ queryKey: ['job'] });
      done(id);
    },
  });
  return (
    <form
      className={styles.add}
      onSubmit={(e) => {
        e.preventDefault();
        if (path.trim() !== '') add.mutate();
      }}
    >
      <div className={styles.row}>
        <TextField
          size="small"
          label="Full path of a folder on the drive"
          value={path}
          onChange={(e) => setPath(e.target.value)}
          autoFocus
          slotProps={{ htmlInput: { className: 'figures' } }}
        />
        <Button type="submit" variant="outlined" size="small" disabled={path.trim() === '' || add.isPending}>
          Add
        </Button>
      </div>
      <ErrorNotice error={add.error} close={add.reset} />
    </form>
  );
}
