'use client';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { zodResolver } from '@hookform/resolvers/zod';
import { useForm } from 'react-hook-form';
import { NewJob } from '../../core/jobs';
import type { BegunJob } from '../../core/templates';
import { formatRate, fps, STANDARD_RATES } from '../../core/platform/timecode/rate';
import { library } from '../platform/client';
import { ErrorNotice } from '../platform/Notice';
import { type Beginning, BeginWith } from './BeginWith';
import { CopiedFrom, useCopied } from './CopiedFrom';

const EDIT_RATES = STANDARD_RATES.flatMap((r, at) => (fps(r) <= 60 ? [{ at, word: formatRate(r) }] : []));

/** Begins the job with what was chosen, and opens it where all of that could be taken over. */
function useBegin(chosen: Beginning, folder: string | null, from: string | null) {
  const queries = useQueryClient();
  const router = useRouter();
  const open = async ({ code, root }: Pick<BegunJob, 'code' | 'root'>) => {
    await queries.invalidateQueries();
    // What came with a copied folder waits to be taken in.
    const at = chosen === 'copy' && root ? `/intake?root=${encodeURIComponent(root)}&path=` : '';
    router.push(`/jobs/${encodeURIComponent(code)}${at}`);
  };
  const begin = useMutation({
    mutationFn: async ({ name, code, ...job }: NewJob) => {
      if (chosen === null)
        return { ...(await library.beginJob({ name, code, ...job })), root: null, warnings: [] };
      return chosen === 'copy'
        ? library.beginFromCopy({ name, code, from: from!, folder: folder! })
        : library.beginFromTemplate({ name, code, template: chosen.id, folder });
    },
    onSuccess: async (begun) => {
      if (begun.warnings.length === 0) await open(begun);
    },
  });
  return { begin, open };
}

/** Asks for a job's name and code, and opens it. In a new data folder `rescue` leads to bringing one back, else `close` back to the list. */
export function BeginJob({ rescue, close }: { rescue?: () => void; close?: () => void }) {
  const { register, handleSubmit, formState } = useForm({
    resolver: zodResolver(NewJob),
    mode: 'onChange',
    defaultValues: { name: '', code: '' },
  });
  const [chosen, setChosen] = useState<Beginning>(null);
  const [folder, setFolder] = useState<string | null>(null);
  const copied = useCopied(chosen === 'copy' ? folder : null);
  const { begin, open } = useBegin(chosen, folder, copied.from);
  if (begin.data && begin.data.warnings.length > 0)
    return <BegunWith warnings={begin.data.warnings} open={() => void open(begin.data)} />;
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
      <BeginWith chosen={chosen} set={setChosen} folder={folder} setFolder={setFolder} />
      {chosen === 'copy' && <CopiedFrom copied={copied} />}
      {chosen === null && (
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
      )}
      <ErrorNotice error={begin.error} />
      <div style={{ display: 'flex', gap: 12 }}>
        <Button
          type="submit"
          variant="contained"
          disabled={!formState.isValid || begin.isPending || (chosen === 'copy' && copied.from === null)}
        >
          Begin
        </Button>
        {rescue && <Button onClick={rescue}>Bring a job back from the drives</Button>}
        {close && <Button onClick={close}>Back to the list</Button>}
      </div>
    </form>
  );
}

/** What of a template was not taken over: the job is there all the same. */
function BegunWith({ warnings, open }: { warnings: readonly string[]; open: () => void }) {
  return (
    <div role="alert" style={{ maxWidth: 560, margin: '12vh auto 0', display: 'grid', gap: 12 }}>
      <h1>The job is begun, but not all of the template could be taken over</h1>
      <ul>
        {warnings.map((w) => (
          <li key={w}>{w}</li>
        ))}
      </ul>
      <Button variant="contained" onClick={open} sx={{ justifySelf: 'start' }}>
        Open the job
      </Button>
    </div>
  );
}
