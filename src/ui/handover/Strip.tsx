import { type EditView, LAID_WORDS, LaidVerdict } from '../../core/handover';
import { formatCount, plural } from '../platform/format';
import { LAID_COLOURS } from './LaidMark';
import { type Run, runsOf, WIDTH } from './runs';
import styles from './handover.module.css';

/** One track of an edit from its first frame to its last: what is found lies low, what is not stands out of it. */
export function Strip({
  track,
  frames,
  open,
}: {
  track: EditView['tracks'][number];
  frames: number;
  open: (place: number) => void;
}) {
  const runs = runsOf(track.events, frames);
  const troubled = track.events.filter(([, , v]) => v !== 0).length;
  return (
    <div className={styles.strip}>
      <span className="figures" title={track.name}>
        {track.name}
      </span>
      <svg
        viewBox={`0 0 ${WIDTH} 30`}
        preserveAspectRatio="none"
        role="img"
        aria-label={`Track ${track.name}: ${plural(track.events.length, 'event')}, ${troubled === 0 ? 'all found' : `${formatCount(troubled)} not simply found`}`}
      >
        <line x1="0" x2={WIDTH} y1="24" y2="24" stroke="var(--board)" strokeWidth="2" />
        {[...runs]
          .sort((a, b) => a.verdict - b.verdict)
          .map((r) => (
            <Piece key={`${r.place} ${r.verdict}`} run={r} open={open} />
          ))}
      </svg>
    </div>
  );
}

function Piece({
  run: { from, to, verdict, place, events },
  open,
}: {
  run: Run;
  open: (place: number) => void;
}) {
  const of = LaidVerdict.options[verdict]!;
  const colour = LAID_COLOURS[of];
  const [y, height] = of === 'found' ? [13, 10] : [3, 20];
  const hollow = of === 'missing' || of === 'several';
  return (
    <rect
      x={from}
      y={y}
      width={Math.max(1.5, to - from - 0.6)}
      height={height}
      fill={hollow ? 'var(--paper)' : colour}
      stroke={hollow ? colour : 'none'}
      strokeWidth="1.5"
      strokeDasharray={of === 'missing' ? '3 2' : undefined}
      fillOpacity={of === 'rate' ? 0.6 : 1}
      vectorEffect="non-scaling-stroke"
      cursor="pointer"
      onClick={() => open(place)}
    >
      <title>{events === 1 ? LAID_WORDS[of] : `${formatCount(events)} events: ${LAID_WORDS[of]}`}</title>
    </rect>
  );
}
