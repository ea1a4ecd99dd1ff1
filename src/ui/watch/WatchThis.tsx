'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { type ReactNode, useId, useState } from 'react';
import type { NextSteps } from '../../core/next';
import { asCameraLabel } from '../../core/platform/cameraLabel';
import { WatchOptions } from '../../core/watch';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { useJob } from '../platform/queries';
import { LookRules } from './LookRules';
import { NextChoice } from './NextChoice';
import styles from './watch.module.css';

/** Has the folder that is open watched from now on. */
export function WatchThis({
  root,
  path,
  name,
  disabled,
}: {
  root: string;
  path: string;
  name: string;
  disabled: boolean;
}) {
  const [open, setOpen] = useState(false);
  const server = useServer();
  // What happened next with the card before is offered.
  const next = useJob().data?.intake.next;
  return (
    <>
      <Button size="small" disabled={disabled} onClick={() => setOpen(true)}>
        Watch this folder …
      </Button>
      {open && (
        <WatchDialog
          title={`Watch “${name}”`}
          root={root}
          path={path}
          confirm="Watch it"
          start={WatchOptions.parse({ next })}
          keep={(options) => server.watchFolder({ root, path, options })}
          close={() => setOpen(false)}
        />
      )}
    </>
  );
}

interface Into {
  cardId: string;
  camera: string;
  day: string;
}

/** How a folder is watched and what happens with what comes into it. */
export function WatchDialog({
  title,
  root,
  path,
  confirm,
  start,
  keep,
  close,
}: {
  title: string;
  root: string;
  path: string;
  /** What the button that keeps it says. */
  confirm: string;
  start: WatchOptions;
  keep: (options: WatchOptions) => Promise<unknown>;
  close: () => void;
}) {
  const titled = useId();
  const queries = useQueryClient();
  const [options, setOptions] = useState(start);
  const [next, setNext] = useState<NextSteps | null>(start.next);
  const [words, setWords] = useState(start.leaveOut.join(', '));
  const [into, setInto] = useState<Into | null>(start.into && { ...start.into, day: String(start.into.day) });
  const set = (change: Partial<WatchOptions>) => setOptions({ ...options, ...change });
  const wanted = WatchOptions.safeParse({
    ...options,
    next,
    into: into && { ...into, day: Number(into.day) },
    leaveOut: words
      .split(',')
      .map((w) => w.trim())
      .filter((w) => w !== ''),
  });
  const watch = useMutation({
    mutationFn: keep,
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['watches'] });
      close();
    },
  });
  return (
    <Dialog open onClose={close} fullWidth maxWidth="md" aria-labelledby={titled}>
      <DialogTitle id={titled}>{title}</DialogTitle>
      <DialogContent className={styles.dialog}>
        <p className="soft">
          New footage in it is taken in as soon as it is whole; a card counts when all of it is there. What
          the job has already is not taken in twice.
        </p>
        <Tick checked={options.byItself} set={(byItself) => set({ byItself })}>
          Take new footage in by itself; off, only when you press <em>Look now</em>
        </Tick>
        <Tick checked={options.bins} set={(bins) => set({ bins })}>
          Put clips into bins called like their folders
        </Tick>
        <Tick
          checked={into !== null}
          set={(on) => setInto(on ? { cardId: '', camera: 'A', day: '1' } : null)}
        >
          Put all clips into one card; off, each folder is a card of its own
        </Tick>
        {into && <IntoCard into={into} set={setInto} />}
        <Fault of={wanted.error?.issues.find((i) => i.path[0] === 'into' || i.path[0] === 'leaveOut')} />
        <TextField
          size="small"
          label="Leave out folders with these words in their name"
          value={words}
          onChange={(e) => setWords(e.target.value)}
          helperText="Commas between the words"
        />
        <HowRecognised root={root} path={path} />
        <h3>What happens next</h3>
        <NextChoice next={options.next} set={(n) => (n ? set({ next: n }) : undefined, setNext(n))} />
        <ErrorNotice error={watch.error} close={watch.reset} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={watch.isPending || !wanted.success}
          onClick={() => wanted.success && watch.mutate(wanted.data)}
        >
          {confirm}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function Fault({ of }: { of: { message: string } | undefined }) {
  return of ? (
    <p role="alert" className={styles.fault}>
      {of.message}
    </p>
  ) : null;
}

/** The rules by which cards in the folder are recognised, at hand. */
function HowRecognised({ root, path }: { root: string; path: string }) {
  const [open, setOpen] = useState(false);
  return (
    <div>
      <Button size="small" onClick={() => setOpen(true)}>
        How its cards are recognised …
      </Button>
      <LookRules open={open} close={() => setOpen(false)} root={root} path={path} />
    </div>
  );
}

function Tick({
  checked,
  set,
  children,
}: {
  checked: boolean;
  set: (on: boolean) => void;
  children: ReactNode;
}) {
  return (
    <label>
      <input type="checkbox" checked={checked} onChange={(e) => set(e.target.checked)} /> {children}
    </label>
  );
}

function IntoCard({ into, set }: { into: Into; set: (into: Into) => void }) {
  return (
    <div className={styles.into}>
      <TextField
        size="small"
        label="Card"
        value={into.cardId}
        onChange={(e) => set({ ...into, cardId: e.target.value })}
      />
      <TextField
        size="small"
        label="Camera"
        value={into.camera}
        onChange={(e) => set({ ...into, camera: asCameraLabel(e.target.value) })}
      />
      <TextField
        size="small"
        label="Day"
        type="number"
        value={into.day}
        onChange={(e) => set({ ...into, day: e.target.value })}
        slotProps={{ htmlInput: { min: 1 } }}
      />
    </div>
  );
}
