'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { FieldGroup, type FieldId, FIELDS, GROUP_WORDS } from '../../core/facts/catalogue';
import { useServer } from '../platform/job';
import { asCameraLabel } from '../../core/platform/cameraLabel';
import type { Changed } from '../../core/platform/shapes';
import { plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { useClip, useJob } from '../platform/queries';
import styles from './facts.module.css';

/** One field, or the place, of many clips at once. Proposed is the place of the first of them. */
export function CorrectDialog({
  clips,
  close,
}: {
  clips: readonly string[];
  close: (done: Changed | null) => void;
}) {
  const server = useServer();
  const job = useJob().data;
  const [what, setWhat] = useState<'field' | 'card'>('field');
  const [field, setField] = useState<FieldId>('reel');
  const [value, setValue] = useState('');
  const first = useClip(clips[0] ?? null).data;
  const [typed, setTyped] = useState<Place | null>(null);
  const placing = typed ?? (first ? { id: first.card, camera: first.camera, day: String(first.day) } : null);
  const act = useMutation({
    mutationFn: () =>
      server.correct(
        what === 'field'
          ? { clips: [...clips], set: [{ field, value }] }
          : {
              clips: [...clips],
              set: [],
              card: {
                ...placing!,
                day: Number(placing!.day),
                date: job?.days.find((d) => d.number === Number(placing!.day))?.date ?? null,
              },
            },
      ),
    onSuccess: close,
  });
  return (
    <Dialog open onClose={() => close(null)} maxWidth="sm" fullWidth>
      <DialogTitle sx={{ pb: 0 }}>Correct {plural(clips.length, 'clip')}</DialogTitle>
      <DialogContent>
        <div className={styles.form}>
          <fieldset>
            <label>
              <input type="radio" checked={what === 'field'} onChange={() => setWhat('field')} />
              What a field says
            </label>
            <label>
              <input type="radio" checked={what === 'card'} onChange={() => setWhat('card')} />
              Card, camera and day
            </label>
          </fieldset>
          {what === 'field' ? (
            <FieldValue {...{ field, setField, value, setValue }} />
          ) : (
            placing && <Placing placing={placing} set={setTyped} />
          )}
          <p className="soft">What was read is kept; your value takes precedence. No file is touched.</p>
          <ErrorNotice error={act.error} close={() => act.reset()} />
        </div>
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={() => close(null)}>
          Cancel
        </Button>
        <Button
          variant="contained"
          disabled={act.isPending || (what === 'card' && !placing?.id)}
          onClick={() => act.mutate()}
        >
          Correct
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function FieldValue({
  field,
  setField,
  value,
  setValue,
}: {
  field: FieldId;
  setField: (field: FieldId) => void;
  value: string;
  setValue: (value: string) => void;
}) {
  return (
    <fieldset>
      <select aria-label="Field" value={field} onChange={(e) => setField(e.target.value as FieldId)}>
        {FieldGroup.options
          .filter((g) => g !== 'file')
          .map((g) => (
            <optgroup key={g} label={GROUP_WORDS[g]}>
              {FIELDS.filter(
                (f) => f.group === g && !(f.trust as readonly string[]).every((t) => t === 'workedOut'),
              ).map((f) => (
                <option key={f.id} value={f.id}>
                  {f.term}
                </option>
              ))}
            </optgroup>
          ))}
      </select>
      <input
        aria-label="Value"
        value={value}
        onChange={(e) => setValue(e.target.value)}
        placeholder="leave empty to remove your correction"
        style={{ width: 250 }}
        autoFocus
      />
    </fieldset>
  );
}

interface Place {
  id: string;
  camera: string;
  /** As it is typed. */
  day: string;
}
function Placing({ placing, set }: { placing: Place; set: (placing: Place) => void }) {
  return (
    <fieldset>
      <label>
        Card{' '}
        <input
          aria-label="Card"
          value={placing.id}
          onChange={(e) => set({ ...placing, id: e.target.value.toUpperCase() })}
          style={{ width: 90 }}
        />
      </label>
      <label>
        Camera{' '}
        <input
          aria-label="Camera"
          value={placing.camera}
          onChange={(e) => set({ ...placing, camera: asCameraLabel(e.target.value) })}
          style={{ width: 64 }}
        />
      </label>
      <label>
        Day{' '}
        <input
          aria-label="Day"
          type="number"
          min={1}
          value={placing.day}
          onChange={(e) => set({ ...placing, day: e.target.value })}
          style={{ width: 70 }}
        />
      </label>
    </fieldset>
  );
}
