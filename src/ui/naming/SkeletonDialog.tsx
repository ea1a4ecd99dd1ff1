'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { FolderPlan } from '../../core/naming';
import { wordsFault } from '../../core/offload';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { useSettled } from '../platform/useSettled';
import styles from './naming.module.css';

const linesOf = (text: string): string[] =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '');

/** Further folders that a job has beside those of its clips, kept with the folder plan and laid out when it is asked for. */
export function SkeletonDialog({
  plan,
  change,
  close,
}: {
  plan: FolderPlan;
  change: (plan: FolderPlan) => void;
  close: () => void;
}) {
  const server = useServer();
  const queries = useQueryClient();
  const [text, setText] = useState(plan.skeleton.join('\n'));
  const lines = linesOf(text);
  const wrong = lines.flatMap((line) => wordsFault(line) ?? [])[0];
  const settled = useSettled(lines.join('\n'), 250);
  const asked = { skeleton: linesOf(settled), root: plan.root };
  const seen = useQuery({
    queryKey: ['skeleton', asked],
    queryFn: () => server.skeleton({ ...asked, layOut: false }),
    enabled: wrong === undefined,
    placeholderData: keepPreviousData,
    gcTime: 0,
    retry: false,
  });
  const layOut = useMutation({
    mutationFn: () => server.skeleton({ skeleton: lines, root: plan.root, layOut: true }),
    onSettled: () => queries.invalidateQueries({ queryKey: ['skeleton'] }),
  });
  const set = (next: string) => {
    setText(next);
    layOut.reset();
    const kept = linesOf(next);
    if (kept.every((line) => wordsFault(line) === null)) change({ ...plan, skeleton: kept });
  };
  const folders = lines.length === 0 ? [] : (seen.data?.folders ?? []);
  const missing = folders.filter((f) => !f.there);
  const pending = settled !== lines.join('\n') || seen.isFetching;
  return (
    <Dialog open onClose={close} maxWidth="sm" fullWidth>
      <DialogTitle sx={{ pb: 0 }}>Further folders</DialogTitle>
      <DialogContent>
        <p className="soft" style={{ margin: '0 0 10px' }}>
          Folders beside those of the clips, for sound, papers, exports. They are kept with the folder plan
          and given away with it.
        </p>
        <TextField
          label="One per line"
          multiline
          minRows={5}
          maxRows={10}
          fullWidth
          value={text}
          onChange={(e) => set(e.target.value)}
          error={wrong !== undefined}
          helperText={wrong ?? 'Words for each day or card of the job: {job} {day} {date} {camera} {card}'}
          placeholder={'{job}/Sound\n{job}/Exports/Day {day}'}
          slotProps={{ htmlInput: { className: 'figures' } }}
        />
        {folders.length > 0 && (
          <ul className={styles.laid} aria-label="Folders they give">
            {folders.map((f) => (
              <li key={f.folder} className="figures">
                {f.folder}/ <span className="soft">{f.there ? 'is there' : 'not there yet'}</span>
              </li>
            ))}
          </ul>
        )}
        {lines.length > 0 && folders.length === 0 && !pending && !seen.error && wrong === undefined && (
          <p className="soft">No day or card to make one for yet.</p>
        )}
        <ErrorNotice error={layOut.error ?? (wrong === undefined ? seen.error : null)} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
        <Button
          variant="contained"
          disabled={wrong !== undefined || pending || missing.length === 0 || layOut.isPending}
          onClick={() => layOut.mutate()}
        >
          {missing.length > 0 || folders.length === 0
            ? `Create ${plural(missing.length, 'folder')}`
            : 'All are there'}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
