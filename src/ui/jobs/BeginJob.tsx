'use client';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { zodResolver } from '@hookform/resolvers/zod';
import { useForm } from 'react-hook-form';
import { NewJob } from '../../core/jobs';
import { formatRate, fps, STANDARD_RATES } from '../../core/platform/timecode/rate';
import { library } from '../platform/client';
import { ErrorNotice } from '../platform/Notice';

const EDIT_RATES = STANDARD_RATES.flatMap((r, at) => (fps(r) <= 60 ? [{ at, word: formatRate(r) }] : []));

/** Asks for a job's name and code, and opens it. In a new data folder `rescue` leads to bringing one back, else `close` back to the list. */
export function BeginJob({ rescue, close }: { rescue?: () => void; close?: () => void }) {
  const queries = useQueryClient();
  const { register, handleSubmit, formState } = useForm({
    resolver: zodResolver(NewJob),
    mode: 'onChange',
    defaultValues: { name: '', code: '' },
  });
  const router = useRouter();
  const begin = useMutation({
    mutationFn: (job: NewJob) => library.beginJob(job),
    onSuccess: async (job) => {
      await queries.invalidateQueries();
      router.push(`/jobs/${encodeURIComponent(job.code)}`);
    },
  });
  const codeError = formState.dirtyFields.code ? formState.errors.code?.message : undefined;
  return (
    <form
      onSubmit={(e) => void handleSubmit((job) => begin.mutate(job))(e)}
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
        A job holds the days, cameras and cards of one production. Its code is part of names and folders.
      </p>
      <TextField {...register('name')} label="Name of the job" autoFocus required fullWidth />
      <TextField
        {...register('code')}
        label="Code"
        required
        slotProps={{ htmlInput: { className: 'figures', maxLength: 12 } }}
        helperText={codeError ?? 'Three or four capitals are usual'}
        error={codeError !== undefined}
      />
      <TextField
        {...register('rate', {
          setValueAs: (v: unknown) =>
            typeof v === 'string' ? (STANDARD_RATES[Number(v || NaN)] ?? null) : v,
        })}
        label="Rate of the edit"
        select
        defaultValue=""
        slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
        helperText="Clips of other rates are marked. It can be changed later, in Facts"
      >
        <option value="">from the footage, once it is read</option>
        {EDIT_RATES.map(({ at, word }) => (
          <option key={at} value={at}>
            {word} fps
          </option>
        ))}
      </TextField>
      <ErrorNotice error={begin.error} />
      <div style={{ display: 'flex', gap: 12 }}>
        <Button type="submit" variant="contained" disabled={!formState.isValid || begin.isPending}>
          Begin
        </Button>
        {rescue && <Button onClick={rescue}>Bring a job back from the drives</Button>}
        {close && <Button onClick={close}>Back to the list</Button>}
      </div>
    </form>
  );
}
