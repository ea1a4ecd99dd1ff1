import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import type { CardView } from '../../core/cards/shapes';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { formatBytes, formatDay, plural } from '../platform/format';
import { useAddress } from '../platform/job';
import Link from '../platform/Link';
import { useJob } from '../platform/queries';
import { Tag } from '../platform/Tag';
import styles from './card.module.css';
import type { SetView } from './ClipSet';

/** What a card is, what of it is to be looked at, and how its clips are shown. */
export function CardHead({
  card,
  problems,
  only,
  setOnly,
  view,
  setView,
}: {
  card: CardView;
  problems: number;
  /** Whether only clips with problems are shown. */
  only: boolean;
  setOnly: (only: boolean) => void;
  view: SetView;
  setView: (view: SetView) => void;
}) {
  const address = useAddress();
  const job = useJob().data;
  const camera = job?.cameras.find((c) => c.label === card.camera);
  const date = job?.days.find((d) => d.number === card.day)?.date ?? null;
  return (
    <header className={styles.head}>
      <div className={styles.label}>
        <h1 className="figures">{card.id}</h1>{' '}
        <span className="soft">
          Day {card.day}, {formatDay(date)} · Camera {card.camera}
          {camera?.model ? ` · ${camera.model}` : ''}
        </span>
      </div>
      <span className="soft">
        {plural(card.clips, 'clip')} · {formatRunningTime(card.seconds)} · {formatBytes(card.bytes)}
      </span>
      {problems > 0 && (
        <button type="button" className={styles.only} aria-pressed={only} onClick={() => setOnly(!only)}>
          <Tag tone={only ? 'plain' : card.stop > 0 ? 'stop' : 'look'}>
            {only ? 'show all clips' : `${problems} to look at`}
          </Tag>
        </button>
      )}
      <span style={{ flex: 1 }} />
      {card.safe > 0 && (
        <Link href={address(`/card/${encodeURIComponent(card.id)}/wipe`)} className={styles.wipe}>
          {plural(card.safe, 'safe copy', 'safe copies')}: may it be wiped?
        </Link>
      )}
      <ToggleButtonGroup
        size="small"
        exclusive
        value={view}
        onChange={(_, v: SetView | null) => v && setView(v)}
        aria-label="View"
      >
        <ToggleButton value="spines" sx={{ py: 0.25 }}>
          Spines
        </ToggleButton>
        <ToggleButton value="frames" sx={{ py: 0.25 }}>
          Frames
        </ToggleButton>
        <ToggleButton value="table" sx={{ py: 0.25 }}>
          Table
        </ToggleButton>
      </ToggleButtonGroup>
    </header>
  );
}
