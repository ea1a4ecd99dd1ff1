'use client';
import { useQuery } from '@tanstack/react-query';
import type { Finding, Waveform } from '../../core/analysis';
import type { Tile } from '../../core/choose';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { Ranges } from './FrameTile';
import framed from './frames.module.css';
import type { Film } from './useFilm';
import styles from './viewer.module.css';

/** Heights in the waveform's own measure: it is drawn as wide as it has parts. */
const HEIGHT = 100;
/** Decibels below full scale that are drawn: what is quieter is a line. */
const DEPTH = 48;

/** How much of its row a peak fills: speech is seen, although it is far below full scale. */
const filled = (peak: number): number =>
  Math.max(0.02, 1 + (20 * Math.log10(Math.max(1, peak) / 255)) / DEPTH);

/** The clip from its first frame to its last: filmstrip, what was found, the marked part, and its sound. */
export function Scrub({
  film,
  findings,
  ranges,
  here,
}: {
  film: Film;
  findings: readonly Finding[];
  ranges: Tile['ranges'];
  here: string;
}) {
  const server = useServer();
  const { clip, frames, frame, marks } = film;
  const waveform = useQuery({ queryKey: ['waveform', clip.id], queryFn: () => server.waveform(clip.id) });
  const share = (n: number): string => `${(n / frames) * 100}%`;
  const part = marks.in !== null || marks.out !== null;
  const from = marks.in ?? 0;
  const to = (marks.out ?? frames - 1) + 1;
  return (
    <div className={styles.scrub}>
      {(clip.kind !== 'sound' || !waveform.data) && (
        <div
          className={styles.strip}
          style={clip.filmstrip ? { backgroundImage: `url(${server.filmstripUrl(clip.id)})` } : undefined}
        />
      )}
      {waveform.data && <Sound waveform={waveform.data} alone={clip.kind === 'sound'} />}
      {part && (
        <div
          className={styles.part}
          style={{ left: share(from), width: share(to - from) }}
          aria-hidden="true"
        />
      )}
      {findings.map((f) => (
        <div
          key={`${f.what}${f.from}`}
          className={styles.found}
          style={{ left: share(f.from), width: share(f.to - f.from) }}
          aria-hidden="true"
        />
      ))}
      {ranges.length > 0 && (
        <div className={framed.rangeBar}>
          <Ranges ranges={ranges} frames={frames} />
        </div>
      )}
      <input
        type="range"
        min={0}
        max={frames - 1}
        value={frame}
        onChange={(e) => {
          film.drive(0);
          film.seek(Number(e.target.value));
        }}
        onKeyDown={(e) => e.key !== 'Tab' && e.stopPropagation()}
        aria-label="Frame"
        aria-valuetext={here}
      />
    </div>
  );
}

/** Each channel's own row; `alone`: there is no picture above. */
function Sound({ waveform, alone }: { waveform: Waveform; alone: boolean }) {
  const { channels } = waveform;
  const parts = Math.max(1, ...channels.map((c) => c.length));
  const row = HEIGHT / channels.length;
  const line = (peaks: readonly number[], i: number): string =>
    peaks
      .map((p, x) => {
        const half = (filled(p) * row) / 2;
        return `M${x + 0.5} ${(i + 0.5) * row - half}V${(i + 0.5) * row + half}`;
      })
      .join('');
  return (
    <svg
      className={styles.sound}
      data-alone={alone ? '' : undefined}
      viewBox={`0 0 ${parts} ${HEIGHT}`}
      preserveAspectRatio="none"
      role="img"
      aria-label={`Sound, ${plural(channels.length, 'channel')}`}
    >
      {channels.map((peaks, i) => (
        <path key={i} d={line(peaks, i)} />
      ))}
    </svg>
  );
}
