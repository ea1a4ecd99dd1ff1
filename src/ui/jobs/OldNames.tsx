'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useState } from 'react';
import { JournalNames } from '../records';

/** Leads to the names that no job here knows of. */
export function OldNames() {
  const [open, setOpen] = useState(false);
  return (
    <div>
      <Button size="small" onClick={() => setOpen(true)}>
        Undo names of a lost job …
      </Button>
      {open && (
        <Dialog open onClose={() => setOpen(false)} maxWidth="md" fullWidth aria-labelledby="old-names">
          <DialogTitle id="old-names">Names that no job here knows of</DialogTitle>
          <DialogContent sx={{ display: 'grid', gap: 1.5 }}>
            <JournalNames />
          </DialogContent>
          <DialogActions>
            <Button onClick={() => setOpen(false)}>Close</Button>
          </DialogActions>
        </Dialog>
      )}
    </div>
  );
}
