'use client';
import Button from '@mui/material/Button';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { shownPath } from '../../core/platform/names';
import type { PlacesView, VolumeView } from '../../core/places';
import { useAddress } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { usePlaces } from '../platform/queries';
import { AddPlace } from './AddPlace';
import { LookAt, mayBeCard, NotThere } from './Arrivals';
import { PlaceRow } from './PlaceRow';
import { PARTS, volumeWords } from './words';
import styles from './places.module.css';

/** The volumes this computer sees, and the folders in use, by what they are for. */
export function Places() {
  const places = usePlaces();
  /** Where a place is being added; "" at the person's own folder. */
  const [adding, setAdding] = useState<string | null>(null);
  if (places.error)
    return (
      <div style={{ padding: 20 }}>
        <ErrorNotice error={places.error} again={() => void places.refetch()} />
      </div>
    );
  if (!places.data) return null;
  const data = places.data;
  return (
    <div className={styles.screen}>
      <section className={styles.panel} aria-label="Volumes">
        <header>
          <h1>Places</h1>
          <span className="soft">what this computer sees</span>
        </header>
        <ul className={styles.volumes} aria-label="Volumes this computer sees">
          {data.volumes.map((v) => (
            <Volume key={v.at} volume={v} data={data} add={() => setAdding(v.at)} />
          ))}
        </ul>
        <NotThere data={data} />
      </section>
      <section className={styles.panel} aria-label="Folders in use">
        <header>
          <h2>Folders in use</h2>
          <span className={styles.grow} />
          <Button variant="contained" onClick={() => setAdding('')}>
            Add a place …
          </Button>
        </header>
        <div className={styles.groups}>
          {PARTS.map((part) => {
            const of = data.places.filter((p) => p.kind === part.kind);
            return (
              <section key={part.kind} aria-label={part.name}>
                <h3>
                  {part.name} <span className="soft">{part.means}</span>
                </h3>
                {of.length === 0 ? (
                  <p className="soft">None yet.</p>
                ) : (
                  <ul>
                    {of.map((p) => (
                      <PlaceRow key={p.id} place={p} />
                    ))}
                  </ul>
                )}
              </section>
            );
          })}
        </div>
      </section>
      {adding !== null && (
        <AddPlace {...(adding === '' ? {} : { at: adding })} done={() => setAdding(null)} />
      )}
    </div>
  );
}

function Volume({ volume: v, data, add }: { volume: VolumeView; data: PlacesView; add: () => void }) {
  const router = useRouter();
  const address = useAddress();
  const on = data.places.filter((p) => v.roots.includes(p.id));
  const card = mayBeCard(v, data.places) || (v.kind === 'standIn' && on.length === 0);
  return (
    <li>
      <div className={styles.head}>
        <strong>{shownPath(v.name)}</strong>
        <span className={styles.grow} />
        <Button size="small" onClick={add} aria-label={`Add a folder on ${v.name}`}>
          Add a folder …
        </Button>
      </div>
      <div className="soft">{volumeWords(v)}</div>
      {v.total !== null && (
        <meter min={0} max={v.total} value={v.total - (v.free ?? 0)} aria-label={`${v.name}: space used`} />
      )}
      <div className={`figures ${styles.path}`}>{shownPath(v.at)}</div>
      {card && (
        <LookAt
          volume={v}
          places={data.places}
          look={(root, path) =>
            router.push(
              address(`/intake?root=${encodeURIComponent(root)}&path=${encodeURIComponent(path)}&look=1`),
            )
          }
        />
      )}
      {on.length > 0 && <div className="soft">in use: {on.map((p) => shownPath(p.name)).join(', ')}</div>}
    </li>
  );
}
