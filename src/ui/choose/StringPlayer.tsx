'use client';
import { useEffect, useRef } from 'react';
import { spanTimes, type StringOutDetail } from '../../core/choose';
import { seconds } from '../../core/platform/timecode/timecode';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { useServer } from '../platform/job';
import { isTyping } from '../shell';
import styles from './stringOut.module.css';
import type { Played } from './usePlayed';

type Part = StringOutDetail['parts'][number];

/** The picture of a string-out, and where it stands. Alt and space plays and stops it. */
export function StringPlayer({ played, parts }: { played: Played; parts: readonly Part[] }) {
  const { at, frame, playing, toggle, go, players } = played;
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
        <button
          type="button"
          onClick={toggle}
          aria-label={playing ? 'Stop the string-out' : 'Play the string-out'}
        >
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
  part: Part | undefined;
  shown: boolean;
}) {
  const server = useServer();
  const src = part?.plays ? server.mediaUrl(part.clip, part.plays) : undefined;
  return (
    <div style={{ visibility: shown ? 'visible' : 'hidden' }}>
      {part && !part.plays && <img src={server.frameUrl(part.clip, 'original', part.from, 960)} alt="" />}
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
