'use client';
import { memo, type PointerEvent, useState } from 'react';
import { FILMSTRIP, Third } from '../../core/analysis';
import { RANGE_WORDS, type Tile } from '../../core/choose';
import { isMoving } from '../../core/intake';
import { formatRate } from '../../core/platform/timecode/rate';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { useServer } from '../platform/job';
import { PairMark } from '../platform/PairMark';
import { noPicture } from './HoverPreview';
import { StripFrame } from './StripFrame';
import styles from './frames.module.css';

/** Width from which three frames of a clip stand side by side, and the height of the words below a picture. Pixels. */
const [THREE, WORDS] = [400, 62];

export const tileHeight = (width: number): number =>
  Math.round((width * 9) / 16 / (width >= THREE ? 3 : 1)) + WORDS;

interface Props {
  tile: Tile;
  width: number;
  chosen: boolean;
  tabbable: boolean;
  /** Names of keywords by their ids. */
  keywords: ReadonlyMap<string, string>;
  /** In the order of the set. */
  place: number;
  /** What makes it one that can be dragged. */
  drag?: Record<string, unknown> | undefined;
}

/** A clip by its frames. Pointing at its picture goes through them, from left to right. */
export const FrameTile = memo(function FrameTile({
  tile,
  width,
  chosen,
  tabbable,
  keywords,
  place,
  drag,
}: Props) {
  const words = tile.keywords.flatMap((k) => keywords.get(k) ?? []);
  const rate = tile.rate ? `${formatRate(tile.rate)} fps` : '';
  const length = tile.seconds === null ? 'length not known' : formatRunningTime(tile.seconds);
  return (
    <div
      role="option"
      aria-selected={chosen}
      aria-label={`${tile.name}, ${length}, ${rate}${words.length > 0 ? `, ${words.join(', ')}` : ''}`}
      tabIndex={tabbable ? 0 : -1}
      data-clip={tile.id}
      className={styles.tile}
      style={{ width, height: tileHeight(width) }}
      data-place={place}
      {...drag}
    >
      <Picture tile={tile} width={width} />
      <div className={styles.name}>
        {tile.worst && (
          <b data-level={tile.worst} aria-hidden="true">
            {tile.worst === 'stop' ? '!' : '?'}
          </b>
        )}
        <span className="figures">{tile.name}</span>
        {tile.state === 'read' && isMoving(tile.kind) && <PairMark state={tile.pair} size={15} />}
      </div>
      <div
        className={`figures ${styles.times}`}
        title={[tile.start ?? 'no timecode', length, rate].join(' · ')}
      >
        <span>{tile.start ?? 'no timecode'}</span>
        <span>{tile.seconds === null ? 'no length' : length}</span>
        <span>{rate}</span>
      </div>
      <div className={styles.words} title={words.join(', ')}>
        {words.map((w) => (
          <span key={w}>{w}</span>
        ))}
      </div>
    </div>
  );
});

/** Its first, middle and last frame where there is room, else the middle one; the frame under the pointer in its place. */
function Picture({ tile, width }: { tile: Tile; width: number }) {
  const server = useServer();
  const [share, setShare] = useState<number | null>(null);
  const three = width >= THREE;
  const each = three ? Math.floor(width / 3) : width;
  const height = Math.round((each * 9) / 16);
  const pictures = three
    ? Third.options.map((third) => server.thirdUrl(tile.id, third))
    : [each > FILMSTRIP.width ? server.posterUrl(tile.id) : server.thirdUrl(tile.id, 'middle')];
  const point = (e: PointerEvent<HTMLDivElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    setShare(Math.max(0, (e.clientX - box.left) / box.width));
  };
  return (
    <div
      className={styles.picture}
      style={{ height }}
      onPointerMove={point}
      onPointerLeave={() => setShare(null)}
    >
      {tile.filmstrip ? (
        pictures.map((src, i) => (
          <span key={i} style={{ width: each }}>
            <img src={src} alt="" decoding="async" draggable={false} style={{ width: each, height }} />
            {i === 0 && share !== null && <StripFrame clip={tile.id} share={share} width={each} />}
          </span>
        ))
      ) : (
        <em>{noPicture(tile)}</em>
      )}
      {tile.frames !== null && <Ranges ranges={tile.ranges} frames={tile.frames} />}
    </div>
  );
}

/** What is said of stretches of a clip, along the foot of its picture. */
export function Ranges({ ranges, frames }: { ranges: Tile['ranges']; frames: number }) {
  const share = (n: number): string => `${(n / frames) * 100}%`;
  return ranges.map((r) => (
    <i
      key={r.id}
      data-range={r.kind}
      title={[RANGE_WORDS[r.kind], r.name, r.note].filter(Boolean).join(': ')}
      style={{ left: share(r.from), width: share(r.to - r.from) }}
    />
  ));
}
