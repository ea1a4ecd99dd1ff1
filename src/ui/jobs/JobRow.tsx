'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import Link from '../platform/Link';
import { useState } from 'react';
import type { JobAction, JobSummary } from '../../core/jobs';
import { jobServer } from '../platform/client';
import { formatMoment, plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import styles from './jobs.module.css';

/** A job on the list: opened by a click, and what else can be done with it. */
export function JobRow({ job }: { job: JobSummary }) {
  const server = jobServer(job.code);
  const queries = useQueryClient();
  const [removing, setRemoving] = useState(false);
  const refresh = () => queries.invalidateQueries({ queryKey: ['jobs'] });
  const move = useMutation({
    mutationFn: (action: JobAction['action']) => server.changeJob({ action }),
    onSuccess: refresh,
  });
  const away = job.putAwayAt !== null;
  return (
    <li className={styles.row} data-away={away}>
      <Link
        href={`/jobs/${encodeURIComponent(job.code)}`}
        className={styles.open}
        aria-label={`Open ${job.name}`}
      />
      <span className={`figures ${styles.code}`}>{job.code}</span>
      <span className={styles.name}>
        <strong>{job.name}</strong>
        <span className="soft">
          {job.cards === 0
            ? 'no footage yet'
            : `${plural(job.days, 'day')} · ${plural(job.cards, 'card')} · ${plural(job.clips, 'clip')}`}
        </span>
      </span>
      <span className={`soft ${styles.when}`}>
        {away ? `archived ${formatMoment(job.putAwayAt!)}` : `last worked on ${formatMoment(job.lastAt)}`}
      </span>
      <span className={styles.acts}>
        <Button
          size="small"
          component="a"
          href={server.exportUrl}
          title="Everything that is known of it, as one file"
        >
          Export
        </Button>
        <Button
          size="small"
          disabled={move.isPending}
          onClick={() => move.mutate(away ? 'takeUp' : 'putAway')}
        >
          {away ? 'Reopen' : 'Archive'}
        </Button>
        <Button size="small" color="error" onClick={() => setRemoving(true)}>
          Remove …
        </Button>
      </span>
      {move.error !== null && (
        <div className={styles.error}>
          <ErrorNotice error={move.error} close={() => move.reset()} />
        </div>
      )}
      {removing && <RemoveJob job={job} close={() => setRemoving(false)} done={refresh} />}
    </li>
  );
}

function RemoveJob({ job, close, done }: { job: JobSummary; close: () => void; done: () => Promise<void> }) {
  const [typed, setTyped] = useState('');
  const remove = useMutation({
    mutationFn: () => jobServer(job.code).removeJob(),
    onSuccess: async () => {
      await done();
      close();
    },
  });
  return (
    <Dialog open onClose={close} aria-labelledby="remove-job">
      <DialogTitle id="remove-job">Remove {job.name}?</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 2 }}>
        <p>
          {job.cards > 0 && (
            <>
              What is known of its {plural(job.cards, 'card')} and {plural(job.clips, 'clip')} is forgotten:
              facts, names that were given, corrections, and{' '}
              <strong>what was proven of their safe copies</strong>.{' '}
            </>
          )}
          No file is touched, neither footage nor proxies.
        </p>
        <p className="soft">Export it first if any of this may be wanted again.</p>
        <TextField
          label={`Type ${job.code} to remove it`}
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
          autoFocus
          slotProps={{ htmlInput: { className: 'figures' } }}
        />
        <ErrorNotice error={remove.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          color="error"
          variant="contained"
          disabled={typed.trim().toLowerCase() !== job.code.toLowerCase() || remove.isPending}
          onClick={() => remove.mutate()}
        >
          Remove
        </Button>
      </DialogActions>
    </Dialog>
  );
}
