'use client';
import TextField from '@mui/material/TextField';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { CopiedJobs } from '../../core/records';
import { library } from '../platform/client';
import { ErrorNotice } from '../platform/Notice';

/** The jobs whose own folder a folder was copied from, and which of them is meant. */
interface Copied {
  found: CopiedJobs | undefined;
  error: unknown;
  /** Its id; null until it is known. */
  from: string | null;
  choose: (id: string) => void;
}

/** Looks for the records in a folder that was copied from a job's. */
export function useCopied(folder: string | null): Copied {
  const [said, choose] = useState<string | null>(null);
  const { data, error } = useQuery({
    queryKey: ['copied jobs', folder],
    queryFn: () => library.copiedJobs(folder!),
    enabled: folder !== null,
  });
  const found = folder === null ? undefined : data;
  const from = (found?.jobs.find((j) => j.id === said) ?? found?.jobs[0])?.id ?? null;
  return { found, error: folder === null ? null : error, from, choose };
}

/** From which job a folder was copied; where several share one, which of them is meant. */
export function CopiedFrom({ copied: { found, error, from, choose } }: { copied: Copied }) {
  if (error) return <ErrorNotice error={error} />;
  if (!found) return null;
  if (found.at === null)
    return (
      <p role="status">
        This folder holds no records of a job. A job’s own folder has them in the hidden folder{' '}
        <span className="figures">.sort-shelf</span>: copy that along, or begin with a template.
      </p>
    );
  const [only] = found.jobs;
  return (
    <div role="status">
      {found.jobs.length === 1 ? (
        <p>
          Copied from <b>{only!.name}</b> <span className="figures">({only!.code})</span>.
        </p>
      ) : (
        <TextField
          label="Copied from"
          select
          fullWidth
          value={from}
          onChange={(e) => choose(e.target.value)}
          slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
        >
          {found.jobs.map((j) => (
            <option key={j.id} value={j.id}>
              {j.name} ({j.code})
            </option>
          ))}
        </TextField>
      )}
      <p className="soft">
        Its settings of <span className="figures">{found.at.slice(0, 16).replace('T', ' ')} UTC</span> are
        taken over, its clips are not: footage in this folder is taken in on Intake, which opens next, and
        from watched folders by itself.
      </p>
    </div>
  );
}
