'use client';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { zodResolver } from '@hookform/resolvers/zod';
import { useForm } from 'react-hook-form';
import { NewJob } from '../../core/jobs';
import { shownPath } from '../../core/platform/names';
import type { TemplatesView } from '../../core/templates';
import { formatRate, fps, STANDARD_RATES } from '../../core/platform/timecode/rate';
import { library } from '../platform/client';
import { ErrorNotice } from '../platform/Notice';
import { ChooseFolder } from '../places';
import { useTemplates } from '../templates';

const EDIT_RATES = STANDARD_RATES.flatMap((r, at) => (fps(r) <= 60 ? [{ at, word: formatRate(r) }] : []));

type Kept = TemplatesView[number];

/** Asks for a job's name and code, and opens it. In a new data folder `rescue` leads to bringing one back, else `close` back to the list. */
export function BeginJob({ rescue, close }: { rescue?: () => void; close?: () => void }) {
  const queries = useQueryClient();
  const { register, handleSubmit, formState } = useForm({
    resolver: zodResolver(NewJob),
    mode: 'onChange',
    defaultValues: { name: '', code: '' },
  });
  const router = useRouter();
  const [chosen, setChosen] = useState<Kept | null>(null);
  const [folder, setFolder] = useState<string | null>(null);
  const open = async (code: string) => {
    await queries.invalidateQueries();
    router.push(`/jobs/${encodeURIComponent(code)}`);
  };
  const begin = useMutation({
    mutationFn: async (job: NewJob) =>
      chosen
        ? library.beginFromTemplate({ name: job.name, code: job.code, template: chosen.id, folder })
        : { ...(await library.beginJob(job)), warnings: [] },
    onSuccess: async ({ code, warnings }) => {
      if (warnings.length === 0) await open(code);
    },
  });
  if (begin.data && begin.data.warnings.length > 0)
    return <BegunWith warnings={begin.data.warnings} open={() => void open(begin.data.code)} />;
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
      {!chosen && (
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
        <Button type="submit" variant="contained" disabled={!formState.isValid || begin.isPending}>
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

/** What a job may begin with, and its own folder. */
function BeginWith({
  chosen,
  set,
  folder,
  setFolder,
}: {
  chosen: Kept | null;
  set: (template: Kept | null) => void;
  folder: string | null;
  setFolder: (folder: string | null) => void;
}) {
  const templates = useTemplates().data ?? [];
  const [choosing, setChoosing] = useState(false);
  return (
    <>
      <TextField
        label="Begin with"
        select
        value={chosen?.id ?? ''}
        onChange={(e) => set(templates.find((t) => t.id === e.target.value) ?? null)}
        slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
        helperText={
          chosen
            ? chosen.template.note || 'What it holds is taken over; all of it can be changed later'
            : 'A template brings convention, folders, cameras, keywords and bins along'
        }
      >
        <option value="">nothing prepared</option>
        {templates.map((t) => (
          <option key={t.id} value={t.id}>
            {t.template.name}
          </option>
        ))}
      </TextField>
      {chosen && (
        <div>
          <Button size="small" variant="outlined" onClick={() => setChoosing(true)}>
            {folder === null ? 'Choose its folder …' : 'Another folder …'}
          </Button>{' '}
          {folder !== null && (
            <Button size="small" onClick={() => setFolder(null)}>
              None
            </Button>
          )}
          <div className="soft" style={{ fontSize: 13, overflowWrap: 'anywhere' }}>
            {folder === null ? (
              'Its clips stand on the shelf of Sort Shelf’s data folder, unless another folder is chosen.'
            ) : (
              <span className="figures">{shownPath(folder)}</span>
            )}
          </div>
        </div>
      )}
      {choosing && (
        <ChooseFolder
          title="The folder of the job"
          done={(path) => {
            setChoosing(false);
            if (path !== null) setFolder(path);
          }}
        />
      )}
    </>
  );
}
