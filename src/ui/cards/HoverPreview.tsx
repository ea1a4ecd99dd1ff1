'use client';
import { type PointerEvent, type ReactNode, useCallback, useState } from 'react';
import { FILMSTRIP } from '../../core/analysis';
import type { Tile } from '../../core/choose';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { StripFrame } from './StripFrame';
import styles from './hoverPreview.module.css';

/** What a picture of a clip needs to know of it. */
export type Pictured = Pick<
  Tile,
  'id' | 'name' | 'kind' | 'state' | 'filmstrip' | 'start' | 'seconds' | 'frames'
>;

/** A clip that is pointed at: which share of it from its first frame, and where the pointer is. */
interface Pointed {
  clip: Pictured;
  share: number;
  x: number;
  y: number;
}

export type Point = (clip: Pictured) => (e: PointerEvent<HTMLElement>) => void;

/** Shows the frames of a clip while it is pointed at, from first to last `up` what stands for it, or `along` it. */
export function useHoverPreview(direction: 'up' | 'along'): {
  preview: ReactNode;
  point: Point;
  leave: () => void;
} {
  const [pointed, setPointed] = useState<Pointed | null>(null);
  const point = useCallback<Point>(
    (clip) => (e) => {
      const box = e.currentTarget.getBoundingClientRect();
      const share =
        direction === 'up' ? 1 - (e.clientY - box.top) / box.height : (e.clientX - box.left) / box.width;
      setPointed({ clip, share: Math.max(0, Math.min(0.999, share)), x: e.clientX, y: e.clientY });
    },
    [direction],
  );
  const leave = useCallback(() => setPointed(null), []);
  return { preview: pointed && <Preview {...pointed} />, point, leave };
}

/** Why there are no pictures of a clip. */
export const noPicture = ({ state, kind, frames }: Pictured): string =>
  state === 'unreadable'
    ? 'cannot be read'
    : kind === 'sound'
      ? 'sound'
      : state === 'read' && frames === null
        ? 'cannot be shown here'
        : 'no pictures yet';

function Preview({ clip, share, x, y }: Pointed) {
  const left = x + FILMSTRIP.width + 40 > window.innerWidth ? x - FILMSTRIP.width - 24 : x + 22;
  return (
    <div
      className={styles.preview}
      style={{ left, top: Math.min(y - 60, window.innerHeight - 210) }}
      aria-hidden="true"
    >
      {clip.filmstrip ? (
        <div className={styles.strip}>
          <StripFrame clip={clip.id} share={share} width={FILMSTRIP.width} />
        </div>
      ) : (
        <div className={styles.noStrip}>{noPicture(clip)}</div>
      )}
      <div className="figures">
        <strong>{clip.name}</strong>
        <br />
        {clip.start ?? 'no timecode'} · {clip.seconds === null ? '' : formatRunningTime(clip.seconds)}
      </div>
    </div>
  );
}
