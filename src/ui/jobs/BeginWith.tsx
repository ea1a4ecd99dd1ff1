'use client';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import { shownPath } from '../../core/platform/names';
import type { TemplatesView } from '../../core/templates';
import { ChooseFolder } from '../places';
import { useTemplates } from '../templates';

/** What a job begins with: nothing, a template, or a folder that was copied from another job's. */
export type Beginning = TemplatesView[number] | 'copy' | null;

const helpFor = (chosen: Beginning): string => {
  if (chosen === null) return 'A template brings convention, folders, cameras, keywords and bins along';
  if (chosen === 'copy') return 'The folder was copied whole in a file manager, with the records in it';
  return chosen.template.note || 'What it holds is taken over; all of it can be changed later';
};

/** What a job may begin with, and its own folder. */
export function BeginWith({
  chosen,
  set,
  folder,
  setFolder,
}: {
  chosen: Beginning;
  set: (beginning: Beginning) => void;
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
        value={chosen === 'copy' ? chosen : (chosen?.id ?? '')}
        onChange={({ target: { value } }) =>
          set(value === 'copy' ? value : (templates.find((t) => t.id === value) ?? null))
        }
        slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
        helperText={helpFor(chosen)}
      >
        <option value="">nothing prepared</option>
        {templates.map((t) => (
          <option key={t.id} value={t.id}>
            {t.template.name}
          </option>
        ))}
        <option value="copy">a copy of another job’s folder</option>
      </TextField>
      {chosen && (
        <div>
          <Button size="small" variant="outlined" onClick={() => setChoosing(true)}>
            {folder === null ? 'Choose its folder …' : 'Another folder …'}
          </Button>{' '}
          {folder !== null && chosen !== 'copy' && (
            <Button size="small" onClick={() => setFolder(null)}>
              None
            </Button>
          )}
          <div className="soft" style={{ fontSize: 13, overflowWrap: 'anywhere' }}>
            {folder !== null && <span className="figures">{shownPath(folder)}</span>}
            {folder === null &&
              chosen !== 'copy' &&
              'Its clips stand on the shelf of Sort Shelf’s data folder, unless another folder is chosen.'}
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
