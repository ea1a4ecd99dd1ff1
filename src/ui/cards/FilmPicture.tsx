'use client';
import { useEffect } from 'react';
import { isMoving } from '../../core/intake';
import { useServer } from '../platform/job';
import type { Film, Leaf } from './useFilm';
import styles from './viewer.module.css';

/** Pixels of the width that frames are asked for in. */
const WIDTH = 960;

const LEAVES: readonly { leaf: Leaf; word: string; title: string }[] = [
  { leaf: 'original', word: 'Original', title: 'The original (P)' },
  { leaf: 'proxy', word: 'Proxy', title: 'The proxy (P)' },
  { leaf: 'both', word: 'Both', title: 'Both, side by side (B)' },
  { leaf: 'difference', word: 'Difference', title: 'What is otherwise in the proxy (D)' },
];

/** The picture of a clip, and which of its files it is of. */
export function FilmPicture({ film }: { film: Film }) {
  const { leaf, hasProxy, turn, clip } = film;
  // What is heard has no picture, but a player.
  if (clip.kind === 'sound')
    return (
      <div hidden>
        <Shown film={film} />
      </div>
    );
  return (
    <div className={styles.picture} data-leaf={leaf}>
      <Shown film={film} />
      {isMoving(clip.kind) && (
        <div className={styles.leaves} role="group" aria-label="Which file is shown">
          {LEAVES.map((l) => (
            <button
              key={l.leaf}
              type="button"
              title={l.title}
              aria-pressed={leaf === l.leaf}
              disabled={!hasProxy && l.leaf !== 'original'}
              onClick={() => turn(l.leaf)}
            >
              {l.word}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}

function Shown({ film }: { film: Film }) {
  const server = useServer();
  const { clip, frame, frames, leaf, plays, video } = film;
  const url = (which: 'original' | 'proxy', n = frame) => server.frameUrl(clip.id, which, n, WIDTH);
  // The next one is asked for before it is: the server has it ready, or begins with it.
  const ahead = plays || frame + 1 >= frames ? '' : url(leaf === 'proxy' ? 'proxy' : 'original', frame + 1);
  useEffect(() => {
    if (ahead !== '') new Image().src = ahead;
  }, [ahead]);
  const of = clip.kind === 'still' ? clip.name : `Frame ${frame} of ${clip.name}`;
  if (leaf === 'both' || leaf === 'difference')
    return (
      <div className={styles[leaf]}>
        <img src={url('original')} alt={`${of}, original`} />
        <img src={url('proxy')} alt={`${of}, proxy`} />
      </div>
    );
  return plays ? (
    <video
      key={leaf}
      ref={video}
      src={server.mediaUrl(clip.id, leaf)}
      preload="auto"
      playsInline
      onLoadedMetadata={film.loaded}
      onEnded={() => film.drive(0)}
      onError={film.failed}
    />
  ) : (
    <img src={url(leaf)} alt={of} />
  );
}

/** What is being seen, where that needs a word. */
export function seenWords({ leaf, hasProxy, plays, clip }: Film): string {
  if (clip.kind === 'still') return '';
  if (clip.kind === 'sound')
    return plays ? '' : 'The browser cannot play this sound. In and out can be set by frames.';
  const none = hasProxy ? '' : 'No proxy yet: this is the original. ';
  if (leaf === 'both') return 'Original on the left, proxy on the right, both decoded by the server.';
  if (leaf === 'difference')
    return 'The difference of original and proxy, four times as strong: black where they are the same.';
  return plays
    ? `${none}${leaf === 'proxy' && clip.pair.state !== 'proven' ? 'This proxy is not proven to be of this clip.' : ''}`
    : `${none}Decoded by the server, frame by frame: the browser cannot play this coding.`;
}
