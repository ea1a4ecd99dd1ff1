'use client';
import type { MouseEvent, PointerEvent } from 'react';
import type { Tile } from '../../core/choose';
import { isMoving } from '../../core/intake';
import { formatRate, fps } from '../../core/platform/timecode/rate';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { useServer } from '../platform/job';
import { PairMark } from '../platform/PairMark';
import { spineWidth } from './shelve';
import styles from './spines.module.css';

/** Height of a shelf with its board, and width from which a frame stands on a spine. Pixels. */
export const [SHELF, FRAMED] = [326, 56];

interface SpineProps {
  clip: Pick<Tile, 'id' | 'name' | 'kind' | 'state' | 'filmstrip' | 'seconds' | 'rate' | 'pair'>;
  worst: 'stop' | 'look' | null;
  number: number;
  chosen: boolean;
  tabbable: boolean;
  onClick?: (e: MouseEvent) => void;
  'data-place'?: number;
  onPointerMove: (e: PointerEvent<HTMLElement>) => void;
  onPointerLeave: () => void;
}

/** A clip as a tape-box spine: as wide as it is long, with its name along it, its rate at its foot, and a frame at its head where there is room. */
export function Spine({ clip, worst, number, chosen, tabbable, ...on }: SpineProps) {
  const server = useServer();
  const rate = clip.rate ? formatRate(clip.rate) : '–';
  const band = !clip.rate
    ? 'unknown'
    : fps(clip.rate) > 60
      ? 'fast'
      : fps(clip.rate) > 30
        ? 'middle'
        : 'plain';
  // Boxes of several sizes are on a shelf; the height says nothing.
  const width = spineWidth(clip.seconds);
  const framed = clip.filmstrip && width >= FRAMED;
  const height = 246 + ((number * 37) % 18);
  return (
    <div
      role="option"
      aria-selected={chosen}
      tabIndex={tabbable ? 0 : -1}
      data-clip={clip.id}
      className={styles.spine}
      data-band={band}
      style={{ width, height }}
      data-framed={framed ? '' : undefined}
      {...on}
      aria-label={`${clip.name}, ${rate} fps, ${clip.seconds === null ? 'length not known' : formatRunningTime(clip.seconds)}${worst ? ', to look at' : ''}`}
    >
      {worst && (
        <span className={styles.flag} data-level={worst} aria-hidden="true">
          {worst === 'stop' ? '!' : '?'}
        </span>
      )}
      <span className={`figures ${styles.number}`}>{number}</span>
      {framed && (
        <span
          className={styles.frame}
          style={{
            backgroundImage: `url(${server.thirdUrl(clip.id, 'middle')})`,
            backgroundSize: `${width - 10}px auto`,
            width: width - 10,
            height: ((width - 10) * 9) / 16,
          }}
          aria-hidden="true"
        />
      )}
      <span className={styles.name}>{clip.name}</span>
      <span className={styles.mark}>
        {clip.state === 'read' && isMoving(clip.kind) ? <PairMark state={clip.pair} /> : null}
      </span>
      <span className={`figures ${styles.foot}`} data-long={rate.length > 5 ? '' : undefined}>
        {rate}
      </span>
    </div>
  );
}
