'use client';
import { type RefObject, useEffect, useImperativeHandle, useRef } from 'react';
import { type PlayPart, spanTimes } from '../../core/choose';
import { seconds } from '../../core/platform/timecode/timecode';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { useServer } from '../platform/job';
import { isTyping } from '../shell';
import styles from './stringOut.module.css';
import { type Played, usePlayed } from './usePlayed';

/** Where parts that are played stand: which one, and the frame that is shown while nothing moves. */
export interface Stands {
  at: number;
  frame: number | null;
}
export const AT_FIRST: Stands = { at: 0, frame: null };
/** Goes to a part. */
export interface Control {
  go: (part: number) => void;
}

/**
 * Plays parts one after another. It alone is drawn anew at every frame: the list of them is told of parts, and of frames where it stops. Alt and
 * space plays and stops it; `what` is what is played, in words.
 */
export function StringPlayer({
  parts,
  what,
  control,
  tell,
}: {
  parts: readonly PlayPart[];
  what: string;
  control: RefObject<Control | null>;
  tell: (stands: Stands) => void;
}) {
  const { at, frame, playing, toggle, go, players } = usePlayed(parts);
  useImperativeHandle(control, () => ({ go }), [go]);
  const still = playing ? null : frame;
  useEffect(() => tell({ at, frame: still }), [tell, at, still]);
  const part = parts[at];
  const before = parts.slice(0, at).reduce((n, p) => n + seconds(p.to - p.from, p.rate), 0);
  const whole = parts.reduce((n, p) => n + seconds(p.to - p.from, p.rate), 0);
  const now = part ? before + seconds(frame - part.from, part.rate) : 0;
  const press = useRef(toggle);
  useEffect(() => {
    press.current = toggle;
  });
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (isTyping(e) || e.key !== ' ' || !e.altKey) return;
      e.preventDefault();
      press.current();
    };
    window.addEventListener('keydown', key);
    return () => window.removeEventListener('keydown', key);
  }, []);
  return (
    <div className={styles.player}>
      <div className={styles.screen}>
        {[0, 1].map((n) => (
          <Screen
            key={n}
            video={players[n]!}
            part={at % 2 === n ? part : parts[at + 1]}
            shown={at % 2 === n}
          />
        ))}
      </div>
      <div className={styles.control}>
        <button type="button" onClick={() => go(at - 1)} disabled={at === 0} aria-label="Part before">
          «
        </button>
        <button type="button" onClick={toggle} aria-label={playing ? `Stop ${what}` : `Play ${what}`}>
          {playing ? '■' : '▶'}
        </button>
        <button
          type="button"
          onClick={() => go(at + 1)}
          disabled={at >= parts.length - 1}
          aria-label="Next part"
        >
          »
        </button>
        <div>
          <div className="figures" data-testid="string-time">
            {formatRunningTime(now)} of {formatRunningTime(whole)}
          </div>
          <div className="soft">
            part {at + 1} of {parts.length}
            {part && (
              <>
                {' · '}
                <span className="figures">{part.name}</span>{' '}
                <span className="figures">{spanTimes({ from: frame, to: frame + 1 }, part)?.first}</span>
              </>
            )}
          </div>
        </div>
      </div>
    </div>
  );
}

/** One of the two players: of a part the browser cannot play, its first frame. */
function Screen({
  video,
  part,
  shown,
}: {
  video: Played['players'][number];
  part: PlayPart | undefined;
  shown: boolean;
}) {
  const server = useServer();
  const src = part?.plays ? server.mediaUrl(part.clip, part.plays) : undefined;
  return (
    <div style={{ visibility: shown ? 'visible' : 'hidden' }}>
      {part && !part.plays && part.media !== 'sound' && (
        <img src={server.frameUrl(part.clip, 'original', part.from, 960)} alt="" />
      )}
      {part?.media === 'sound' && <p>{part.name}, sound without a picture</p>}
      <video
        ref={video}
        src={src}
        preload="auto"
        playsInline
        style={{ display: src ? undefined : 'none' }}
        onLoadedMetadata={(e) => {
          if (part) e.currentTarget.currentTime = (part.from + 0.5) / (part.rate.num / part.rate.den);
        }}
      />
    </div>
  );
}
