'use client';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { type FormEvent, useState } from 'react';
import { NewJob } from '../../core/jobs';
import { library } from '../platform/client';
import { ErrorNotice } from '../platform/Notice';

/** Asks for a job's name and code, and opens it. In a new data folder `rescue` leads to bringing one back, else `close` back to the list. */
export function BeginJob({ rescue, close }: { rescue?: () => void; close?: () => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState('');
  const [code, setCode] = useState('');
  const router = useRouter();
  const begin = useMutation({
    mutationFn: (job: NewJob) => library.beginJob(job),
    onSuccess: async (job) => {
      await queries.invalidateQueries();
      router.push(`/jobs/${encodeURIComponent(job.code)}`);
    },
  });
  const parsed = NewJob.safeParse({ name, code });
  const fault = (field: string) =>
    parsed.success ? undefined : parsed.error.issues.find((i) => i.path[0] === field)?.message;
  const submit = (e: FormEvent) => {
    e.preventDefault();
    if (parsed.success) begin.mutate(parsed.data);
  };
  return (
    <form
      onSubmit={submit}
      style={{
        maxWidth: 460,
        margin: '12vh auto 0',
        display: 'grid',
        gap: 16,
        background: 'var(--label)',
        padding: 28,
        borderBottom: '6px solid var(--board)',
      }}
    >
      <h1>Begin a job</h1>
      <p className="soft">
        A job holds the days, cameras and cards of one production. Its code stands in names and folders.
      </p>
      <TextField
        label="Name of the job"
        value={name}
        onChange={(e) => setName(e.target.value)}
        autoFocus
        required
        fullWidth
      />
      <TextField
        label="Code"
        value={code}
        onChange={(e) => setCode(e.target.value)}
        required
        slotProps={{ htmlInput: { className: 'figures', maxLength: 12 } }}
        helperText={code !== '' && fault('code') ? fault('code') : 'Three or four capitals are usual'}
        error={code !== '' && fault('code') !== undefined}
      />
      <ErrorNotice error={begin.error} />
      <div style={{ display: 'flex', gap: 12 }}>
        <Button type="submit" variant="contained" disabled={!parsed.success || begin.isPending}>
          Begin
        </Button>
        {rescue && <Button onClick={rescue}>Bring a job back from the drives</Button>}
        {close && <Button onClick={close}>Back to the list</Button>}
      </div>
    </form>
  );
}
