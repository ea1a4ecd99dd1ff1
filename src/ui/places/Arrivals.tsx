'use client';
import Button from '@mui/material/Button';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { shownPath } from '../../core/platform/names';
import type { PlacesView, VolumeView } from '../../core/places';
import { library } from '../platform/client';
import { formatMoment } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { usePlaces } from '../platform/queries';
import { glanceWords, volumeWords } from './words';
import styles from './places.module.css';

/** Goes to a look at a volume; one that is no place yet becomes one that is only read. */
export function useLookAt(look: (root: string, path: string) => void) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async ({ volume, places }: { volume: VolumeView; places: PlacesView['places'] }) => {
      const around = places.find(
        (p) => p.kind === 'source' && (volume.at === p.path || volume.at.startsWith(`${p.path}/`)),
      );
      if (around) return { root: around.id, path: volume.at.slice(around.path.length + 1) };
      const on = places.find((p) => p.kind === 'source' && volume.roots.includes(p.id));
      if (on) return { root: on.id, path: '' };
      const { id } = await library.addRoot({ kind: 'source', path: volume.at });
      await queries.invalidateQueries({ queryKey: ['job'] });
      return { root: id, path: '' };
    },
    onSuccess: ({ root, path }) => look(root, path),
  });
}

/** Whether a volume may be a card that came in: nothing of ours is written to it, and it is none of the system's. */
export const mayBeCard = (v: VolumeView, places: PlacesView['places']): boolean =>
  (v.kind === 'disk' || v.kind === 'network') &&
  v.total !== null &&
  v.roots.every((id) => places.find((p) => p.id === id)?.kind === 'source');

/** What a volume looks like, as soon as that is known, and the look at it where there is footage. */
export function LookAt({
  volume,
  places,
  look,
}: {
  volume: VolumeView;
  places: PlacesView['places'];
  look: (root: string, path: string) => void;
}) {
  const server = useServer();
  const glance = useQuery({
    queryKey: ['glance', volume.at],
    queryFn: () => server.glance(volume.at),
    retry: false,
    // A card is walked for it: not again by itself, as while it is copied, but whenever somebody comes to see.
    staleTime: 0,
  });
  const lookAt = useLookAt(look);
  const { data } = glance;
  const isNew = data !== undefined && data.clips > 0 && data.fresh !== 0;
  return (
    <>
      <div className={styles.head}>
        <span className={styles.grow}>
          {glance.error ? glance.error.message : data ? glanceWords(data) : 'looking …'}
        </span>
        {data && data.clips > 0 && (
          <Button
            size="small"
            variant={isNew ? 'contained' : 'outlined'}
            disabled={lookAt.isPending}
            onClick={() => lookAt.mutate({ volume, places })}
            aria-label={`Look in ${volume.name}`}
          >
            Look
          </Button>
        )}
      </div>
      <ErrorNotice error={lookAt.error} close={lookAt.reset} />
    </>
  );
}

/** Cards and drives that are plugged in and may hold new footage, and what to do where one is not there. */
export function Arrivals({ look }: { look: (root: string, path: string) => void }) {
  const { data } = usePlaces();
  if (!data) return null;
  const here = data.volumes.filter((v) => mayBeCard(v, data.places));
  return (
    <section className={styles.arrivals} aria-label="Plugged in">
      {here.length > 0 && <h2>Plugged in</h2>}
      {here.length > 0 && (
        <ul>
          {here.map((v) => (
            <li key={v.at}>
              <strong>{shownPath(v.name)}</strong> <span className="soft">{volumeWords(v)}</span>
              <LookAt volume={v} places={data.places} look={look} />
            </li>
          ))}
        </ul>
      )}
      <NotThere data={data} />
    </section>
  );
}

/** A short help for whoever misses a card: what is seen, when that changed, what to try. */
export function NotThere({ data }: { data: PlacesView }) {
  const places = usePlaces();
  const [open, setOpen] = useState(false);
  const [looked, setLooked] = useState(false);
  const { changed, tried } = data;
  const seen = data.volumes.filter((v) => v.kind !== 'system').map((v) => shownPath(v.name));
  return (
    <details className={styles.help} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Card not there?</summary>
      {open && (
        <>
          <p>
            Beside its own disk this computer sees {seen.length === 0 ? 'no volume' : seen.join(', ')} right
            now.{' '}
            {changed === null
              ? 'Nothing was plugged in or out since Sort Shelf was started.'
              : `Last change ${formatMoment(changed.at)}: ${[
                  changed.came.length > 0 ? `${changed.came.map(shownPath).join(', ')} came` : '',
                  changed.went.length > 0 ? `${changed.went.map(shownPath).join(', ')} went` : '',
                ]
                  .filter((w) => w !== '')
                  .join('; ')}.`}
          </p>
          <ul>
            <li>Pull the card out and push it in again; try another port or another reader.</li>
            <li>See whether the system mounts it: a card that is not mounted has no folder to read.</li>
            <li>See whether the user that runs Sort Shelf may read it.</li>
            <li>A card that was locked or is damaged may be mounted read only; that is enough to copy it.</li>
          </ul>
          {!tried && (
            <p>
              Listing volumes has not been tried on this system. A folder can be chosen by its path all the
              same.
            </p>
          )}
          <Button
            size="small"
            disabled={places.isFetching}
            onClick={() => void places.refetch().then(() => setLooked(true))}
          >
            Look again
          </Button>{' '}
          <span role="status" className="soft">
            {places.isFetching ? 'Looking …' : looked ? 'Looked just now.' : ''}
          </span>
        </>
      )}
    </details>
  );
}
