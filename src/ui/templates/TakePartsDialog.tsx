'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useId, useState } from 'react';
import { PART_WORDS, type TemplatePart } from '../../core/templates';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import styles from './templates.module.css';

/** Parts of a template for the open job: what each would change is shown, and only what is ticked changes. */
export function TakePartsDialog({ id, name, close }: { id: string; name: string; close: () => void }) {
  const title = useId();
  const server = useServer();
  const queries = useQueryClient();
  const [ticked, setTicked] = useState<readonly TemplatePart[]>([]);
  const preview = useQuery({
    queryKey: ['templateParts', id],
    queryFn: () => server.previewParts(id),
    staleTime: 0,
    gcTime: 0,
    retry: false,
  });
  const take = useMutation({
    mutationFn: () => server.takeParts({ template: id, parts: [...ticked] }),
    onSuccess: () => queries.invalidateQueries(),
  });
  const done = take.data;
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm" aria-labelledby={title}>
      <DialogTitle id={title}>{done ? `Taken over from “${name}”` : `Take over from “${name}”`}</DialogTitle>
      <DialogContent className={styles.dialog}>
        {done ? (
          <ul>
            {done
              .flatMap((d) => d.changes)
              .map((line) => (
                <li key={line}>{line}</li>
              ))}
            {done.length === 0 && <li>Nothing: the job had it all already.</li>}
          </ul>
        ) : (
          <>
            <p className="soft">
              Tick what this job takes over. Clips that are named keep their names until a plan is applied.
            </p>
            {(preview.data ?? []).map(({ part, changes }) => (
              <label key={part} className={styles.part}>
                <input
                  type="checkbox"
                  disabled={changes.length === 0}
                  checked={ticked.includes(part)}
                  onChange={(e) =>
                    setTicked((now) => (e.target.checked ? [...now, part] : now.filter((p) => p !== part)))
                  }
                />
                <span>
                  <strong>{PART_WORDS[part]}</strong>
                  {changes.length === 0 ? (
                    <span className="soft"> nothing would change</span>
                  ) : (
                    changes.map((line) => <span key={line}>{line}</span>)
                  )}
                </span>
              </label>
            ))}
          </>
        )}
        <ErrorNotice error={preview.error ?? take.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>{done ? 'Close' : 'Cancel'}</Button>
        {!done && (
          <Button
            variant="contained"
            disabled={ticked.length === 0 || take.isPending}
            onClick={() => take.mutate()}
          >
            {ticked.length === 0 ? 'Take over' : `Take over ${plural(ticked.length, 'part')}`}
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
