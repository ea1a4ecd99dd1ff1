'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import type { JobView } from '../../core/jobs';
import { asCameraLabel } from '../../core/platform/cameraLabel';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { useCards } from '../platform/queries';
import styles from './naming.module.css';

/** Where clips are to belong: what a folder they were dropped on is of, the rest as they are now. */
export interface Wanted {
  day: number | null;
  camera: string | null;
  card: string | null;
}

/** Clips become ones of another day, camera or card: the facts change, and the plan with them. Nothing is moved yet. */
export function MoveDialog({
  clips,
  from,
  wanted,
  job,
  close,
}: {
  clips: readonly string[];
  from: { day: number; camera: string; card: string };
  wanted: Wanted;
  job: JobView;
  close: (done: boolean) => void;
}) {
  const server = useServer();
  const cards = useCards().data ?? [];
  const [day, setDay] = useState(String(wanted.day ?? from.day));
  const [camera, setCamera] = useState(wanted.camera ?? from.camera);
  const fitting = cards.filter((c) => c.camera === camera && c.day === Number(day));
  const [card, setCard] = useState<string | null>(wanted.card);
  const id = card ?? fitting[0]?.id ?? freeId(from.card, day, cards);
  const act = useMutation({
    mutationFn: () =>
      server.correct({
        clips: [...clips],
        set: [],
        card: {
          id,
          camera,
          day: Number(day),
          date: job.days.find((d) => d.number === Number(day))?.date ?? null,
        },
      }),
    onSuccess: () => close(true),
  });
  return (
    <Dialog open onClose={() => close(false)} maxWidth="xs" fullWidth>
      <DialogTitle sx={{ pb: 0 }}>Move {plural(clips.length, 'clip')}</DialogTitle>
      <DialogContent>
        <p className="soft" style={{ marginTop: 4 }}>
          They become clips of this day, camera and card, and their names follow. No file moves before you
          apply the plan.
        </p>
        <Fields
          day={day}
          camera={camera}
          card={id}
          fitting={fitting.map((c) => c.id)}
          free={freeId(from.card, day, cards)}
          set={(part) => {
            // Another day or camera has other cards.
            if (part.day !== undefined) setDay(part.day);
            if (part.camera !== undefined) setCamera(part.camera);
            setCard(part.card ?? null);
          }}
        />
        {act.error ? <ErrorNotice error={act.error} close={() => act.reset()} /> : null}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={() => close(false)}>
          Cancel
        </Button>
        <Button
          variant="contained"
          disabled={act.isPending || !(Number(day) >= 1) || camera === '' || id === ''}
          onClick={() => act.mutate()}
        >
          {act.isPending ? 'Moving …' : `Make them day ${day}, ${camera}, ${id}`}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function Fields({
  day,
  camera,
  card,
  fitting,
  free,
  set,
}: {
  day: string;
  camera: string;
  card: string;
  fitting: readonly string[];
  /** An id that no card has. */
  free: string;
  set: (part: { day?: string; camera?: string; card?: string }) => void;
}) {
  // On its way to its end a new name may be that of a card that is there.
  const [typing, setTyping] = useState(false);
  const isThere = fitting.includes(card);
  const isNew = typing || !isThere;
  /** Of another day or camera other cards are offered. */
  const move = (to: { day?: string; camera?: string }) => {
    setTyping(false);
    set(to);
  };
  return (
    <div className={styles.moveForm}>
      <label>
        Day
        <input type="number" min={1} max={999} value={day} onChange={(e) => move({ day: e.target.value })} />
      </label>
      <label>
        Camera
        <input
          value={camera}
          maxLength={8}
          onChange={(e) => move({ camera: asCameraLabel(e.target.value) })}
        />
      </label>
      <label>
        Card
        <select
          value={isNew ? '' : card}
          onChange={(e) => {
            setTyping(e.target.value === '');
            set({ card: e.target.value || free });
          }}
        >
          {fitting.map((id) => (
            <option key={id}>{id}</option>
          ))}
          <option value="">A new card</option>
        </select>
      </label>
      {isNew && (
        <label className={styles.newCard}>
          Its name
          <input value={card} maxLength={16} onChange={(e) => set({ card: e.target.value })} />
          {isThere && <span className="soft">is there already</span>}
        </label>
      )}
    </div>
  );
}

/** An id for a card that clips of another one make on a day where their camera has none: B001 on day 2 is B001-D2. */
function freeId(card: string, day: string, cards: readonly { id: string }[]): string {
  const stem = `${card.slice(0, 11)}-D${day}`;
  let id = stem;
  for (let n = 2; cards.some((c) => c.id === id); n++) id = `${stem}${String.fromCharCode(96 + n)}`;
  return id;
}
