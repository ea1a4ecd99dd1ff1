'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { shownPath } from '../../core/platform/names';
import { useServer } from '../platform/job';
import { Report } from '../custody';
import { ErrorNotice } from '../platform/Notice';

interface Props {
  open: boolean;
  close: () => void;
  root: string;
  rootName: string;
  path: string;
}

/** Checks any folder against its own hash lists, or a list made elsewhere. Nothing in it is changed. */
export function CheckFolder({ open, close, root, rootName, path }: Props) {
  const server = useServer();
  const [list, setList] = useState('');
  const check = useMutation({
    mutationFn: () =>
      server.checkFolder({ root, folder: path, list: list.trim() === '' ? null : list.trim() }),
  });
  return (
    <Dialog open={open} onClose={close} maxWidth="sm" fullWidth>
      <DialogTitle>
        Check {rootName}
        {path ? ` / ${shownPath(path)}` : ''}
      </DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 2 }}>
        <p className="soft">
          Every file is read and compared with the folder’s own hash lists, or with a list made elsewhere:
          MHL, or lines as md5sum, sha1sum and xxhsum print them. Nothing in the folder is changed.
        </p>
        <TextField
          label="A list made elsewhere: its path below the place"
          placeholder="empty for the folder’s own"
          value={list}
          onChange={(e) => setList(e.target.value)}
          slotProps={{ htmlInput: { className: 'figures' }, inputLabel: { shrink: true } }}
          sx={{ mt: 1 }}
        />
        <ErrorNotice error={check.error} />
        {check.isPending && <p role="status">Reading every file …</p>}
        {check.data && !check.isPending && <Report report={check.data} />}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
        <Button variant="contained" disabled={check.isPending} onClick={() => check.mutate()}>
          Check
        </Button>
      </DialogActions>
    </Dialog>
  );
}
