import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { FILMSTRIP } from '../../core/analysis';
import type { LookedFacts } from '../../core/intake/shapes';
import { shownPath } from '../../core/platform/names';
import { formatRate } from '../../core/platform/timecode/rate';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { formatBytes, plural } from '../platform/format';
import { useServer } from '../platform/job';
import { Tag } from '../platform/Tag';
import styles from './grid.module.css';
import type { LookedClip } from './ticks';

type Facts = LookedFacts | undefined;
interface TileProps {
  root: string;
  folder: string;
  clip: LookedClip;
  number: number;
  width: number;
  /** Null where it cannot be ticked yet. */
  ticked: boolean | null;
  tabbable: boolean;
  play: () => void;
  single: () => void;
}

const below = (folder: string, file: string): string => (folder === '' ? file : `${folder}/${file}`);

/** The file that shows a clip soonest: the camera's own proxy where there is one. */
export const shownFile = (folder: string, clip: LookedClip): string =>
  below(folder, (clip.files.find((f) => f.role === 'cameraProxy') ?? clip.files[0]!).path);

/** The still at a share of the row: eight of them are shown. */
const stillAt = <T,>(stills: readonly T[], share: number): T =>
  stills[
    Math.min(stills.length - 1, Math.floor(share * Math.min(8, stills.length)) * Math.ceil(stills.length / 8))
  ]!;

const stillsOf = (clip: LookedClip) => clip.files.filter((f) => f.role === 'original' || f.role === 'still');

/** One clip of a card, to be ticked. */
export function Tile({ root, folder, clip, number, width, ticked, tabbable, play, single }: TileProps) {
  const server = useServer();
  const original = below(folder, clip.path);
  const facts = useQuery({
    queryKey: ['lookedFacts', root, original, clip.bytes],
    queryFn: () => server.lookedFacts(root, original),
    retry: false,
    staleTime: Infinity,
  }).data;
  return (
    <div
      role="option"
      aria-selected={ticked ?? false}
      tabIndex={tabbable ? 0 : -1}
      data-number={number}
      className={styles.tile}
      style={{ width }}
      onDoubleClick={play}
      aria-label={`${clip.stem}${ticked ? ', ticked' : ''}${clip.here ? `, in the job as ${clip.here.name}` : ''}`}
    >
      <Picture {...{ root, folder, clip, width, ticked, play, single }} facts={facts} />
      <Words clip={clip} facts={facts} />
    </div>
  );
}

/** What a clip looks like: its filmstrip, or one still of its row, along which the pointer goes. */
function Picture({
  root,
  folder,
  clip,
  width,
  ticked,
  play,
  single,
  facts,
}: Pick<TileProps, 'root' | 'folder' | 'clip' | 'width' | 'ticked' | 'play' | 'single'> & { facts: Facts }) {
  const server = useServer();
  const [share, setShare] = useState(0);
  const [broken, setBroken] = useState<'proxy' | 'original' | null>(null);
  const original = below(folder, clip.path);
  const height = Math.round((width * 9) / 16);
  // A row of stills is shown still by still, a video by its filmstrip.
  const shown =
    clip.kind === 'stills'
      ? below(folder, stillAt(stillsOf(clip), share).path)
      : broken === 'proxy'
        ? original
        : shownFile(folder, clip);
  const at = clip.kind === 'video' ? Math.min(FILMSTRIP.tiles - 1, Math.floor(share * FILMSTRIP.tiles)) : 0;
  return (
    <div
      className={styles.picture}
      style={{ height }}
      onPointerLeave={() => setShare(0)}
      onPointerMove={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        setShare(Math.max(0, Math.min(0.999, (e.clientX - box.left) / box.width)));
      }}
    >
      {clip.kind === 'sound' ? (
        <SoundMark />
      ) : facts?.fault || broken === 'original' ? (
        <span className={styles.blank}>{facts?.fault ? 'cannot be fully read' : 'no picture'}</span>
      ) : (
        <img
          src={server.lookedStripUrl(root, shown)}
          alt=""
          draggable={false}
          onError={() => setBroken(shown === original || clip.kind === 'stills' ? 'original' : 'proxy')}
          style={{
            height,
            transform: `translateX(-${at * ((height * FILMSTRIP.width) / FILMSTRIP.height)}px)`,
          }}
        />
      )}
      {ticked !== null && (
        <span className={styles.tick} data-on={ticked ? '' : undefined} aria-hidden="true">
          {ticked ? '✓' : ''}
        </span>
      )}
      {share > 0 && clip.kind === 'video' && (
        <i className={styles.head} style={{ left: `${share * 100}%` }} />
      )}
      {clip.kind !== 'still' && clip.kind !== 'stills' && !facts?.fault && facts?.seconds !== null && (
        // For the pointer alone: what is in an option is no control of its own. Enter plays, too.
        <span aria-hidden="true" data-acts className={styles.play} title="Play" onClick={play}>
          ▶
        </span>
      )}
      {clip.kind === 'stills' && (
        <span aria-hidden="true" data-acts className={styles.apart} onClick={single}>
          as single stills
        </span>
      )}
    </div>
  );
}

function Words({ clip, facts }: { clip: LookedClip; facts: Facts }) {
  const length =
    clip.kind === 'stills'
      ? plural(stillsOf(clip).length, 'still')
      : facts && facts.seconds !== null
        ? formatRunningTime(facts.seconds)
        : '';
  const rate = facts?.rate
    ? `${formatRate(facts.rate)} fps`
    : facts?.channels && clip.kind === 'sound'
      ? plural(facts.channels, 'channel')
      : '';
  const parts = clip.files.filter((f) => f.role === 'segment').length;
  const apart = clip.files.filter((f) => f.role === 'sound').length;
  return (
    <div className={styles.words}>
      <strong className="figures" title={shownPath(clip.path)}>
        {clip.stem}
      </strong>
      <span className="figures">{[length, rate, formatBytes(clip.bytes)].filter(Boolean).join(' · ')}</span>
      <span className={styles.marks}>
        {clip.here && (
          <Tag tone="plain" title={clip.here.name}>
            is {clip.here.card}: {clip.here.name}
          </Tag>
        )}
        {facts?.fault && (
          <Tag tone="stop" title={facts.fault}>
            {facts.fault.replace(/^\S+ /, '').split(':')[0]}
          </Tag>
        )}
        {clip.missing.length > 0 && (
          <Tag tone="look">
            {clip.missing.slice(0, 2).join(', ')}
            {clip.missing.length > 2 ? ' …' : ''} missing
          </Tag>
        )}
        {parts > 0 && <Tag tone="plain">{parts + 1} segments</Tag>}
        {clip.kind === 'sound' && apart > 0 && (
          <Tag tone="plain" title="a file for each track">
            {apart + 1} files
          </Tag>
        )}
        {clip.files.some((f) => f.role === 'motion') && <Tag tone="plain">with its film</Tag>}
        {!clip.here && facts?.start && <span className="soft figures">{facts.start}</span>}
      </span>
    </div>
  );
}

/** Sound has no picture: three waves. */
function SoundMark() {
  return (
    <svg viewBox="0 0 120 40" className={styles.sound} aria-hidden="true">
      {[0.3, 0.7, 0.5, 1, 0.6, 0.8, 0.35, 0.9, 0.55, 0.25, 0.65, 0.45].map((h, i) => (
        <rect key={i} x={i * 10 + 3} y={20 - h * 17} width="4" height={h * 34} rx="2" />
      ))}
    </svg>
  );
}
