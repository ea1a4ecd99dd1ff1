'use client';
import { type ReactNode, useState } from 'react';
import { type Finding, findingWords } from '../../core/analysis';
import type { ClipDetail, ClipView } from '../../core/cards/shapes';
import { countOf, type Tile } from '../../core/choose';
import { isMoving } from '../../core/intake';
import {
  addFrames,
  formatTimecode,
  parseTimecode,
  seconds,
  type Timecode,
} from '../../core/platform/timecode/timecode';
import { frameTyped, type Shown } from '../../core/platform/timecode/typed';
import { PartDialog } from '../proxies';
import { FilmPicture, seenWords } from './FilmPicture';
import { Scrub } from './Scrub';
import { type Film, inAt, outAt, useFilm, useFilmKeys } from './useFilm';
import styles from './viewer.module.css';

/** Shows a clip, once it was read. */
export function Viewer({
  clip,
  at,
  seen,
  ranges,
  below,
}: {
  clip: ClipView;
  /** The frame that is shown first. */
  at: number;
  seen: ClipDetail['seen'];
  ranges: Tile['ranges'];
  below: ((film: Film) => ReactNode) | undefined;
}) {
  if (clip.state !== 'read')
    return (
      <div className={styles.viewer}>
        <div className={styles.blank}>
          {clip.state === 'waiting'
            ? 'Still being read …'
            : 'This clip cannot be read, so it cannot be shown.'}
        </div>
      </div>
    );
  return <FilmViewer clip={clip} at={at} findings={seen?.findings ?? []} ranges={ranges} below={below} />;
}

/**
 * Shows a clip as its original or its proxy, turning between them at the same frame. A leaf the browser can play is
 * played; an original it cannot is shown frame by frame as the server decodes it. A still is one frame; sound has no picture.
 */
function FilmViewer({
  clip,
  at: first,
  findings,
  ranges,
  below,
}: {
  clip: ClipView;
  at: number;
  findings: readonly Finding[];
  ranges: Tile['ranges'];
  below: ((film: Film) => ReactNode) | undefined;
}) {
  const film = useFilm(clip, first);
  useFilmKeys(film);
  const { frame, frames } = film;
  const still = clip.kind === 'still';
  const counted = countOf(clip);
  const start = counted && startOf(counted, clip.kind);
  const at = (n: number): string => (start ? formatTimecode(addFrames(start, n)) : `frame ${n + 1}`);
  const words = seenWords(film);
  return (
    <div className={styles.viewer}>
      <FilmPicture film={film} />
      {!still && (
        <>
          <Scrub film={film} findings={findings} ranges={ranges} here={at(frame)} />
          <Bar film={film} here={at(frame)} shown={{ start, rate: counted?.rate ?? null, frames, frame }} />
          <Part film={film} at={at} />
        </>
      )}
      {below?.(film)}
      {words !== '' && <p className={styles.note}>{words}</p>}
      {findings.length > 0 && (
        <ul className={styles.findings} aria-label="Found in picture and sound">
          {findings.map((f) => (
            <li key={`${f.what}${f.from}`}>
              <button type="button" onClick={() => film.seek(f.from)}>
                <span className="figures">
                  {at(f.from)} – {at(f.to - 1)}
                </span>{' '}
                {findingWords(f)}
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

/** What frames are counted from: its timecode, of sound its own beginning. */
const startOf = (
  { start, rate }: NonNullable<ReturnType<typeof countOf>>,
  kind: ClipView['kind'],
): Timecode | null =>
  start === null && kind !== 'sound' ? null : parseTimecode(start ?? '00:00:00:00', rate);

function Bar({ film, here, shown }: { film: Film; here: string; shown: Shown }) {
  const { frame, frames, speed, seek, drive } = film;
  return (
    <div className={styles.bar}>
      <button
        type="button"
        onClick={() => drive(speed === 0 ? 1 : 0)}
        aria-label={speed === 0 ? 'Play' : 'Stop'}
      >
        {speed === 0 ? '▶' : '■'}
      </button>
      <button type="button" onClick={() => seek(frame - 1)} aria-label="One frame back">
        ‹
      </button>
      <button type="button" onClick={() => seek(frame + 1)} aria-label="One frame on">
        ›
      </button>
      <Here here={here} shown={shown} go={(n) => (drive(0), seek(n))} />
      <span className="figures soft" data-testid="frame">
        {frame + 1} of {frames}
      </span>
      {speed !== 0 && speed !== 1 && <span className="figures">{speed}×</span>}
    </div>
  );
}

/** The timecode of what is shown; another one is typed over it. */
function Here({ here, shown, go }: { here: string; shown: Shown; go: (frame: number) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const to = typed === null ? null : frameTyped(typed, shown);
  const wrong = typed !== null && typed !== '' && typed !== here && to === null;
  return (
    <input
      className={`figures ${styles.here}`}
      data-testid="here"
      aria-label="Timecode, or frames: type another to go there"
      aria-invalid={wrong}
      title="Type a timecode, a frame number, or +10 and -10"
      spellCheck={false}
      value={typed ?? here}
      onFocus={(e) => {
        setTyped(here);
        e.target.select();
      }}
      onBlur={() => setTyped(null)}
      onChange={(e) => setTyped(e.target.value)}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === 'Escape') e.currentTarget.blur();
        if (e.key !== 'Enter' || wrong) return;
        if (to !== null) go(to);
        e.currentTarget.blur();
      }}
    />
  );
}

/** Marks the part between in and out, and shows the one that is marked. */
function Part({ film, at }: { film: Film; at: (n: number) => string }) {
  const { frame, marks, mark, frames, clip } = film;
  const [making, setMaking] = useState(false);
  const counted = countOf(clip);
  const isMarked = marks.in !== null || marks.out !== null;
  const [from, to] = [marks.in ?? 0, marks.out ?? frames - 1];
  return (
    <div className={styles.marked}>
      <button type="button" title="In point here (I)" onClick={() => mark(inAt(frame, marks))}>
        In
      </button>
      <button type="button" title="Out point here (O)" onClick={() => mark(outAt(frame, marks))}>
        Out
      </button>
      {isMarked && (
        <>
          <span>
            Part{' '}
            <span className="figures">
              {at(from)} – {at(to)}
            </span>
            {counted && `, ${seconds(to + 1 - from, counted.rate).toFixed(1)} s`}
          </span>
          {isMoving(clip.kind) && (
            <button type="button" onClick={() => setMaking(true)}>
              Make it …
            </button>
          )}
          <button type="button" title="Clear in and out (X)" onClick={() => mark({ in: null, out: null })}>
            Clear
          </button>
        </>
      )}
      {isMarked && making && (
        <PartDialog
          clip={{ id: clip.id, name: clip.name, frames }}
          part={{ from, to: to + 1 }}
          at={at}
          close={() => setMaking(false)}
        />
      )}
    </div>
  );
}
