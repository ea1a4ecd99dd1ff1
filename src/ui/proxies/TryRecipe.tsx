'use client';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import type { Recipe } from '../../core/proxies/recipe';
import type { Makeable, Trial } from '../../core/proxies/shapes';
import { formatBytes } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import styles from './proxies.module.css';

/** Clips of which one can be chosen to try a recipe on. */
const MOST = 200;

/** Tries a recipe on some seconds of one clip: picture beside picture, size, speed. */
export function TryRecipe({
  recipe,
  clips,
  faulty,
}: {
  recipe: Recipe;
  clips: readonly Makeable[];
  faulty: boolean;
}) {
  const server = useServer();
  const [chosen, choose] = useState(clips.find((c) => c.needed)?.clip ?? clips[0]?.clip ?? '');
  const trial = useMutation({ mutationFn: () => server.tryRecipe({ clip: chosen, recipe }) });
  if (clips.length === 0) return null;
  return (
    <section className={styles.trial} aria-label="Try it">
      <div>
        <TextField
          select
          size="small"
          label="Try it on"
          value={chosen}
          onChange={(e) => {
            choose(e.target.value);
            trial.reset();
          }}
        >
          {clips.slice(0, MOST).map((c) => (
            <MenuItem key={c.clip} value={c.clip}>
              {c.name} · {c.card}
            </MenuItem>
          ))}
        </TextField>
        <Button size="small" disabled={faulty || trial.isPending} onClick={() => trial.mutate()}>
          {trial.isPending ? 'Making some seconds …' : 'Try'}
        </Button>
      </div>
      <ErrorNotice error={trial.error} close={() => trial.reset()} />
      {trial.data && <Tried trial={trial.data} />}
    </section>
  );
}

function Tried({ trial }: { trial: Trial }) {
  const picture = (jpeg: string, words: string) => (
    <figure>
      <img src={`data:image/jpeg;base64,${jpeg}`} alt={`Frame ${trial.frame + 1}, ${words}`} />
      <figcaption>{words}</figcaption>
    </figure>
  );
  return (
    <>
      <div className={styles.pictures}>
        {picture(trial.original, 'original')}
        {picture(trial.made, 'as made')}
      </div>
      <p role="status">
        {trial.seconds.toFixed(1)} s made at {trial.timesRealTime.toFixed(1)}× real time,{' '}
        {formatBytes(trial.bytes)}: about {formatBytes(trial.wholeBytes)} for the whole clip.
        {trial.changes.length > 0 && ` Otherwise than in the original: ${trial.changes.join(', ')}.`} Nothing
        of it was kept.
      </p>
    </>
  );
}
