'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useId, useState } from 'react';
import type { NewRoot } from '../../core/places';
import { library } from '../platform/client';
import { ErrorNotice } from '../platform/Notice';
import { FolderChooser, useWalk } from './FolderChooser';
import { CHOSEN_PARTS } from './words';
import styles from './places.module.css';

interface Props {
  /** The only part it can have; any where it is absent. */
  part?: NewRoot['kind'];
  /** Where the walk begins. */
  at?: string;
  done: (id: string | null, kind: NewRoot['kind'] | null) => void;
}

/** Chooses a folder of this computer by walking to it, and gives it a part. */
export function AddPlace({ part, at, done }: Props) {
  const queries = useQueryClient();
  const walk = useWalk(at);
  const [kind, setKind] = useState<NewRoot['kind']>(part ?? 'source');
  const group = useId();
  const only = CHOSEN_PARTS.find((p) => p.kind === part);
  const add = useMutation({
    mutationFn: (chosen: string) => library.addRoot({ kind, path: chosen }),
    onSuccess: async ({ id }) => {
      await Promise.all([
        queries.invalidateQueries({ queryKey: ['job'] }),
        queries.invalidateQueries({ queryKey: ['places'] }),
      ]);
      done(id, kind);
    },
  });
  const { chosen } = walk;
  const unwritable = chosen !== null && kind !== 'source' && !chosen.writable;
  const against =
    walk.against ??
    chosen?.refused ??
    (unwritable ? 'This user cannot write in it: choose another part, or another folder.' : null);
  return (
    <Dialog open onClose={() => done(null, null)} fullWidth maxWidth="md" aria-labelledby={`${group}-title`}>
      <DialogTitle id={`${group}-title`}>Add a place</DialogTitle>
      <DialogContent className={styles.dialog}>
        <FolderChooser
          walk={{
            ...walk,
            open: (to) => {
              add.reset();
              walk.open(to);
            },
          }}
        />
        {only ? (
          <p>
            <strong>{only.name}</strong> <span className="soft">{only.means}</span>
          </p>
        ) : (
          <fieldset className={styles.parts}>
            <legend>What it is for</legend>
            {CHOSEN_PARTS.map((p) => (
              <label key={p.kind}>
                <input
                  type="radio"
                  name={group}
                  checked={kind === p.kind}
                  onChange={() => {
                    add.reset();
                    setKind(p.kind);
                  }}
                />
                <span>
                  <strong>{p.name}</strong> <span className="soft">{p.means}</span>
                </span>
              </label>
            ))}
          </fieldset>
        )}
        <ErrorNotice error={add.error} close={add.reset} />
      </DialogContent>
      <DialogActions>
        {against !== null && <span className={styles.against}>{against}</span>}
        <Button onClick={() => done(null, null)}>Cancel</Button>
        <Button
          variant="contained"
          disabled={chosen === null || against !== null || add.isPending}
          onClick={() => add.mutate(chosen!.path)}
        >
          Use this folder
        </Button>
      </DialogActions>
    </Dialog>
  );
}
