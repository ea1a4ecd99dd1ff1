'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import { ComingRequest } from '../../core/naming';
import type { NewOffload } from '../../core/offload';
import { NamingBench } from '../naming';

const Coming = ComingRequest.omit({ fields: true });

/** What the ticked clips will be called and where they go, on the bench itself: what is changed there holds for the job. */
export function ComingNames({
  open,
  close,
  coming,
}: {
  open: boolean;
  close: () => void;
  coming: NewOffload;
}) {
  return (
    <Dialog
      open={open}
      onClose={close}
      fullWidth
      maxWidth={false}
      slotProps={{
        paper: { 'aria-label': 'Names and places after the copy', sx: { height: '92vh', m: 2 } },
      }}
    >
      <DialogContent sx={{ p: 0, display: 'grid', overflow: 'hidden' }}>
        <NamingBench coming={Coming.parse(coming)} />
      </DialogContent>
      <DialogActions>
        <span className="soft" style={{ flex: 1, paddingLeft: 12 }}>
          The convention and the folders are the job’s: what is changed here is kept.
        </span>
        <Button variant="contained" onClick={close}>
          Done
        </Button>
      </DialogActions>
    </Dialog>
  );
}
