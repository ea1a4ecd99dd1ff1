'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { type Part, withHandles } from '../../core/proxies';
import { library } from '../platform/client';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import styles from './proxies.module.css';

/** Makes a part of a clip, with handles on both sides, by a recipe. */
export function PartDialog({
  clip,
  part,
  at,
  close,
}: {
  clip: { id: string; name: string; frames: number };
  part: Part;
  /** The timecode of a frame. */
  at: (frame: number) => string;
  close: () => void;
}) {
  const server = useServer();
  const recipes = (useQuery({ queryKey: ['recipes'], queryFn: library.recipes }).data ?? []).map(
    (k) => k.recipe,
  );
  const [name, setName] = useState('');
  const [handles, setHandles] = useState('25');
  const recipe =
    recipes.find((r) => r.name === name) ??
    recipes.find((r) => r.purpose === 'transcode' && r.size.fit === 'same') ??
    null;
  const more = /^\d{1,6}$/.test(handles) ? Number(handles) : null;
  const all = withHandles(part, more ?? 0, clip.frames);
  const make = useMutation({
    mutationFn: () => server.makeProxies([clip.id], recipe, all),
    onSuccess: close,
  });
  return (
    <Dialog open onClose={close} maxWidth="sm" fullWidth onKeyDown={(e) => e.stopPropagation()}>
      <DialogTitle sx={{ pb: 0 }}>Make a part of {clip.name}</DialogTitle>
      <DialogContent>
        <div className={styles.partly}>
          <TextField
            select
            size="small"
            label="Made by"
            value={recipe?.name ?? ''}
            onChange={(e) => setName(e.target.value)}
          >
            {recipes.map((r) => (
              <MenuItem key={r.name} value={r.name}>
                {r.name}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            size="small"
            label="Handles, frames"
            value={handles}
            error={more === null}
            onChange={(e) => setHandles(e.target.value)}
          />
        </div>
        <p role="status" className={styles.range}>
          <span className="figures">
            {at(all.from)} – {at(all.to - 1)}
          </span>
          , {plural(all.to - all.from, 'frame')}. Its timecode is that of its first frame, and it is proven
          against these frames of the original.
          {recipe?.video.codec === 'copy' &&
            ' A rewrap is cut at the nearest key frames around them: it may begin earlier and end later.'}
        </p>
        <ErrorNotice error={make.error} close={() => make.reset()} />
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={close}>
          Cancel
        </Button>
        <Button
          variant="contained"
          disabled={!recipe || more === null || make.isPending}
          onClick={() => make.mutate()}
        >
          Make it
        </Button>
      </DialogActions>
    </Dialog>
  );
}
