'use client';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { SEARCH_FIELDS, Wanted } from '../../core/choose';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { formatCount, plural } from '../platform/format';
import styles from './choose.module.css';
import { LARGEST, type Place, type PlaceView, SMALLEST } from './place';

const BY_WORDS: Record<Wanted['by'], string> = {
  none: 'no groups',
  day: 'day',
  camera: 'camera',
  card: 'card',
  rate: 'frame rate',
  keyword: 'keyword',
  bin: 'bin',
  rolling: 'rolling together',
};
const VIEW_WORDS: Record<PlaceView, string> = {
  frames: 'Frames',
  spines: 'Spines',
  table: 'Table',
  ranges: 'Ranges',
};
/** Fields whose values have an order. */
const SORTS = SEARCH_FIELDS.filter(
  (f) => f.fact !== null || ['name', 'card', 'camera', 'day', 'kind', 'pair'].includes(f.word),
);

interface Props {
  place: Place;
  go: (next: Partial<Place>, step?: boolean) => void;
  title: string;
  found: { clips: number; of: number; seconds: number } | undefined;
}

/** What is shown, how much it is, and in which order, groups and form. */
export function SetBar({ place, go, title, found }: Props) {
  const { wanted, view, size } = place;
  const want = (next: Partial<Wanted>) => go({ wanted: { ...wanted, ...next } });
  const narrowed = found && found.clips < found.of;
  return (
    <div className={styles.bar}>
      <h1>{title}</h1>
      <span className="soft" aria-live="polite">
        {found &&
          `${narrowed ? `${formatCount(found.clips)} of ${plural(found.of, 'clip')}` : plural(found.clips, 'clip')} · ${formatRunningTime(found.seconds)}`}
      </span>
      <span className={styles.space} />
      <ToggleButtonGroup
        size="small"
        exclusive
        value={view}
        aria-label="View"
        onChange={(_, v: PlaceView | null) => v && go({ view: v }, true)}
      >
        {Object.entries(VIEW_WORDS).map(([v, words]) => (
          <ToggleButton key={v} value={v} sx={{ py: 0.25 }}>
            {words}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <span className={styles.break} />
      {view !== 'ranges' && (
        <label>
          by{' '}
          <select
            aria-label="Groups"
            value={wanted.by}
            onChange={(e) => want({ by: Wanted.shape.by.unwrap().parse(e.target.value) })}
          >
            {Object.entries(BY_WORDS).map(([by, words]) => (
              <option key={by} value={by}>
                {words}
              </option>
            ))}
          </select>
        </label>
      )}
      <label>
        sorted by{' '}
        <select
          aria-label="Order"
          value={wanted.sort?.by ?? ''}
          onChange={(e) =>
            want({ sort: e.target.value ? { by: e.target.value, down: wanted.sort?.down ?? false } : null })
          }
        >
          <option value="">when recorded</option>
          {SORTS.map((f) => (
            <option key={f.word} value={f.word}>
              {f.term}
            </option>
          ))}
        </select>
      </label>
      {wanted.sort && (
        <button
          type="button"
          aria-label="The other way round"
          title={wanted.sort.down ? 'From large to small' : 'From small to large'}
          onClick={() => want({ sort: wanted.sort && { ...wanted.sort, down: !wanted.sort.down } })}
        >
          {wanted.sort.down ? '↓' : '↑'}
        </button>
      )}
      {view === 'frames' && (
        <input
          type="range"
          aria-label="Size of the frames"
          min={SMALLEST}
          max={LARGEST}
          step={10}
          value={size}
          onChange={(e) => go({ size: Number(e.target.value) })}
        />
      )}
    </div>
  );
}
