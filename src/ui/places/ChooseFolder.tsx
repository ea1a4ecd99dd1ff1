'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useId } from 'react';
import { FolderChooser, useWalk } from './FolderChooser';
import styles from './places.module.css';

/** Chooses a folder that may become a place to write in. */
export function ChooseFolder({ title, done }: { title: string; done: (path: string | null) => void }) {
  const id = useId();
  const walk = useWalk();
  const { chosen } = walk;
  const against =
    chosen === null
      ? walk.against
      : (chosen.refused ?? (chosen.writable ? null : 'This user cannot write in it.'));
  return (
    <Dialog open onClose={() => done(null)} fullWidth maxWidth="md" aria-labelledby={id}>
      <DialogTitle id={id}>{title}</DialogTitle>
      <DialogContent className={styles.dialog}>
        <FolderChooser walk={walk} />
      </DialogContent>
      <DialogActions>
        {against !== null && <span className={styles.against}>{against}</span>}
        <Button onClick={() => done(null)}>Cancel</Button>
        <Button
          variant="contained"
          disabled={chosen === null || against !== null}
          onClick={() => done(chosen!.path)}
        >
          Use this folder
        </Button>
      </DialogActions>
    </Dialog>
  );
}
