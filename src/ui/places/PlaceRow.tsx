'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useId, useState } from 'react';
import { shownPath } from '../../core/platform/names';
import type { PlaceView, RootChange } from '../../core/places';
import { library } from '../platform/client';
import { formatBytes } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { Tag } from '../platform/Tag';
import { FolderChooser, useWalk } from './FolderChooser';
import { MoveDialog } from './MoveDialog';
import { CHOSEN_PARTS, partName } from './words';
import styles from './places.module.css';

const KNOWN_BY: Readonly<Record<PlaceView['knownBy'], string>> = {
  mark: 'found again wherever its drive is mounted: by the mark in it',
  volume: 'found again wherever its drive is mounted: by its volume',
  place: 'known by its path alone',
};

/** A folder in use: where it is, what names it, and what can be changed of it. */
export function PlaceRow({ place }: { place: PlaceView }) {
  const queries = useQueryClient();
  const [open, setOpen] = useState<'name' | 'part' | 'where' | 'move' | null>(null);
  const refresh = () =>
    Promise.all([
      queries.invalidateQueries({ queryKey: ['places'] }),
      queries.invalidateQueries({ queryKey: ['job'] }),
    ]);
  const change = useMutation({
    mutationFn: (to: RootChange) => library.changeRoot(place.id, to),
    onSuccess: async () => {
      await refresh();
      setOpen(null);
    },
  });
  const remove = useMutation({ mutationFn: () => library.removeRoot(place.id), onSuccess: refresh });
  const close = () => {
    change.reset();
    setOpen(null);
  };
  return (
    <li className={styles.place} data-away={place.present ? undefined : ''}>
      <div className={styles.head}>
        <strong>{shownPath(place.name)}</strong>
        {place.present ? (
          <span className="soft">{formatBytes(place.free ?? 0)} free</span>
        ) : (
          <Tag tone="look" title="Its drive is not connected, or it was moved. What is in it is not lost.">
            not here
          </Tag>
        )}
        <span className={styles.grow} />
        <Button size="small" onClick={() => setOpen('name')}>
          Rename …
        </Button>
        {!place.own && (
          <>
            <Button size="small" onClick={() => setOpen('part')}>
              Part …
            </Button>
            <Button size="small" onClick={() => setOpen('where')}>
              It is elsewhere …
            </Button>
            {place.kind !== 'source' && place.present && (
              <Button size="small" onClick={() => setOpen('move')}>
                Move …
              </Button>
            )}
            <Button
              size="small"
              disabled={place.use !== null || remove.isPending}
              title={
                place.use === null
                  ? 'Takes it out of this list; nothing in the folder is changed'
                  : `It stays: ${place.use} is in it`
              }
              onClick={() => remove.mutate()}
            >
              Let go
            </Button>
          </>
        )}
      </div>
      <div className={`figures ${styles.path}`}>{shownPath(place.path)}</div>
      <div className="soft">
        {place.own ? 'in the data folder of Sort Shelf' : KNOWN_BY[place.knownBy]}
        {place.use !== null && ` · in use: ${place.use}`}
      </div>
      <Doubts place={place} change={change} />
      {open === null && (
        <ErrorNotice error={change.error ?? remove.error} close={() => (change.reset(), remove.reset())} />
      )}
      {open === 'name' && <RenameDialog place={place} close={close} change={change} />}
      {open === 'part' && <PartDialog place={place} close={close} change={change} />}
      {open === 'move' && <MoveDialog place={place} close={() => setOpen(null)} done={refresh} />}
      {open === 'where' && <WhereDialog place={place} close={close} change={change} />}
    </li>
  );
}

/** Folders that may be the place, for a person to say. */
function Doubts({ place, change }: { place: PlaceView; change: DialogProps['change'] }) {
  return place.doubts.map((d) => (
    <div key={d.path} className={styles.doubt} role="group" aria-label={`May be ${place.name}`}>
      <Tag tone="look">is it this?</Tag>
      <span>
        <span className="figures">{shownPath(d.path)}</span>
        <br />
        <span className="soft">{d.why}</span>
      </span>
      <Button
        size="small"
        variant="outlined"
        disabled={change.isPending}
        onClick={() => change.mutate({ path: d.path })}
      >
        This is “{shownPath(place.name)}”
      </Button>
    </div>
  ));
}

interface DialogProps {
  place: PlaceView;
  close: () => void;
  change: { mutate: (to: RootChange) => void; isPending: boolean; error: unknown };
}

function RenameDialog({ place, close, change }: DialogProps) {
  const [name, setName] = useState(place.name);
  const id = useId();
  const given = name.trim();
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs" aria-labelledby={id}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (given !== '' && given !== place.name) change.mutate({ name: given });
        }}
      >
        <DialogTitle id={id}>Rename “{shownPath(place.name)}”</DialogTitle>
        <DialogContent className={styles.dialog}>
          <TextField
            label="Name of the place"
            value={name}
            onChange={(e) => setName(e.target.value)}
            autoFocus
            sx={{ mt: 1 }}
            slotProps={{ htmlInput: { maxLength: 80 } }}
          />
          <span className="soft">Only what it is called here: the folder keeps its name.</span>
          <ErrorNotice error={change.error} />
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Cancel</Button>
          <Button
            type="submit"
            variant="contained"
            disabled={given === '' || given === place.name || change.isPending}
          >
            Rename
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}

function PartDialog({ place, close, change }: DialogProps) {
  const [kind, setKind] = useState(place.kind);
  const id = useId();
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm" aria-labelledby={`${id}-title`}>
      <DialogTitle id={`${id}-title`}>What “{shownPath(place.name)}” is for</DialogTitle>
      <DialogContent className={styles.dialog}>
        <fieldset className={styles.parts}>
          <legend className="visuallyHidden">Part</legend>
          {CHOSEN_PARTS.map((p) => (
            <label key={p.kind}>
              <input type="radio" name={id} checked={kind === p.kind} onChange={() => setKind(p.kind)} />
              <span>
                <strong>{p.name}</strong> <span className="soft">{p.means}</span>
              </span>
            </label>
          ))}
        </fieldset>
        <ErrorNotice error={change.error} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={kind === place.kind || kind === 'proxies' || change.isPending}
          onClick={() => kind !== 'proxies' && change.mutate({ kind })}
        >
          {kind === place.kind ? 'Change' : `Use it for: ${partName(kind)}`}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function WhereDialog({ place, close, change }: DialogProps) {
  const walk = useWalk();
  const path = walk.wentTo;
  const id = useId();
  return (
    <Dialog open onClose={close} fullWidth maxWidth="md" aria-labelledby={id}>
      <DialogTitle id={id}>Where is “{shownPath(place.name)}” now?</DialogTitle>
      <DialogContent className={styles.dialog}>
        <p className="soft">
          Choose the folder it was moved to, or where its drive is mounted. Nothing is moved or copied; some
          of the files that are known in it are looked for first.
        </p>
        <FolderChooser walk={walk} />
        <ErrorNotice error={change.error} />
      </DialogContent>
      <DialogActions>
        {walk.against !== null && <span className={styles.against}>{walk.against}</span>}
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={path === null || change.isPending}
          onClick={() => path !== null && change.mutate({ path })}
        >
          It is this folder
        </Button>
      </DialogActions>
    </Dialog>
  );
}
