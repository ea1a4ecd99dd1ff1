'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useId, useState } from 'react';
import { type NewWatch, WatchOptions } from '../../core/watch';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import styles from './watch.module.css';

/** Has the folder that is open watched from now on. */
export function WatchThis({ root, path, name }: { root: string; path: string; name: string }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button size="small" onClick={() => setOpen(true)}>
        Watch this folder …
      </Button>
      {open && <WatchDialog root={root} path={path} name={name} close={() => setOpen(false)} />}
    </>
  );
}

function WatchDialog({
  root,
  path,
  name,
  close,
}: {
  root: string;
  path: string;
  name: string;
  close: () => void;
}) {
  const title = useId();
  const server = useServer();
  const queries = useQueryClient();
  const [options, setOptions] = useState<WatchOptions>(WatchOptions.parse({}));
  const [words, setWords] = useState(options.leaveOut.join(', '));
  const watch = useMutation({
    mutationFn: (wanted: NewWatch) => server.watchFolder(wanted),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['watches'] });
      close();
    },
  });
  const leaveOut = words
    .split(',')
    .map((w) => w.trim())
    .filter((w) => w !== '');
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm" aria-labelledby={title}>
      <DialogTitle id={title}>Watch “{name}”</DialogTitle>
      <DialogContent className={styles.dialog}>
        <p className="soft">
          New footage in it is taken in where it is, as soon as it is whole: nothing is copied or moved. A
          card counts when all of it is there; what the job has already is not taken in twice.
        </p>
        <label>
          <input
            type="checkbox"
            checked={options.byItself}
            onChange={(e) => setOptions({ ...options, byItself: e.target.checked })}
          />{' '}
          Take new footage in by itself; off, only when you press <em>Look now</em>
        </label>
        <label>
          <input
            type="checkbox"
            checked={options.bins}
            onChange={(e) => setOptions({ ...options, bins: e.target.checked })}
          />{' '}
          Put clips into bins called like their folders
        </label>
        <TextField
          size="small"
          label="Leave out folders with these words in their name"
          value={words}
          onChange={(e) => setWords(e.target.value)}
          helperText="Commas between the words"
        />
        <ErrorNotice error={watch.error} close={watch.reset} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={watch.isPending}
          onClick={() => watch.mutate({ root, path, options: { ...options, leaveOut } })}
        >
          Watch it
        </Button>
      </DialogActions>
    </Dialog>
  );
}
