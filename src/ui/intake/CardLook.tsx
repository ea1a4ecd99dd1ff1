'use client';
import Button from '@mui/material/Button';
import Tab from '@mui/material/Tab';
import Tabs from '@mui/material/Tabs';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { useState } from 'react';
import { join, shownPath } from '../../core/platform/names';
import type { JobView } from '../../core/jobs';
import type { FirstLook, Looked, LookedCard } from '../../core/intake/shapes';
import { formatBytes, plural } from '../platform/format';
import { Empty } from '../platform/Notice';
import { Tag } from '../platform/Tag';
import { ClipGrid, type Size, SIZES } from './ClipGrid';
import { CopyPanel } from './CopyPanel';
import styles from './intake.module.css';
import { LookRules } from '../watch';
import { Player } from './Player';
import { invert, sumOf, type LookedClip } from './ticks';
import { Warnings } from './Warnings';

interface Props {
  job: JobView;
  looked: FirstLook | Looked;
  singles: readonly string[];
  setSingles: (singles: readonly string[]) => void;
}

/** A card by its names alone, until its files were looked into. */
type SeenCard = FirstLook['cards'][number] | LookedCard;

/** One card at a time: its clips to tick, and beside them where they go. */
export function CardLook({ job, looked, singles, setSingles }: Props) {
  const cards: readonly SeenCard[] = looked.cards;
  const [folder, setFolder] = useState(cards[0]!.folder);
  const card = cards.find((c) => c.folder === folder) ?? cards[0]!;
  return (
    <div className={styles.cardLook}>
      {cards.length > 1 && (
        <Tabs
          value={card.folder}
          onChange={(_, f: string) => setFolder(f)}
          variant="scrollable"
          aria-label="Cards"
          sx={{
            gridColumn: '1 / 3',
            minHeight: 36,
            '& .MuiTab-root': { minHeight: 36, textTransform: 'none' },
          }}
        >
          {cards.map((c) => (
            <Tab
              key={c.folder}
              value={c.folder}
              label={<span className="figures">{shownPath(c.folder) || 'this folder'}</span>}
            />
          ))}
        </Tabs>
      )}
      <OneCard
        key={card.folder}
        job={job}
        looked={looked}
        card={card}
        singles={singles}
        setSingles={setSingles}
      />
    </div>
  );
}

function OneCard({ job, looked, card, singles, setSingles }: Props & { card: SeenCard }) {
  const full = 'suggestion' in card ? card : null;
  // What is new is known once the files were looked into; until somebody chooses, that is ticked.
  const fresh = full ? card.clips.filter((c) => c.here === null).map((c) => c.path) : [];
  const [chosen, setTicked] = useState<ReadonlySet<string> | null>(null);
  const ticked = chosen ?? new Set(fresh);
  const [size, setSize] = useState<Size>('medium');
  const [playing, setPlaying] = useState<LookedClip | null>(null);
  const [rules, setRules] = useState(false);
  const folder = join(looked.path, card.folder);
  const inSingles = singles.filter((p) => card.folder === '' || p.startsWith(`${card.folder}/`));
  const playables = card.clips.filter((c) => c.kind === 'video' || c.kind === 'sound');
  return (
    <>
      <section className={styles.clips} aria-label="Clips">
        <header className={styles.shape}>
          <div>
            <strong className="figures">
              {shownPath(card.folder || looked.path.split('/').pop() || 'this folder')}
            </strong>{' '}
            looks like <b>{card.shape.name}</b>: <span className="soft">{card.shape.because}.</span>
            {full?.model && <span className="soft"> Recorded by {full.model}.</span>}
          </div>
          {full && (
            <Findings
              card={full}
              fresh={fresh}
              tick={setTicked}
              group={
                inSingles.length > 0
                  ? () => setSingles(singles.filter((p) => !inSingles.includes(p)))
                  : undefined
              }
            />
          )}
        </header>
        <Tools
          {...{ card, fresh, ticked, size, setSize }}
          tick={full ? setTicked : null}
          showRules={() => setRules(true)}
        />
        <ClipGrid
          root={looked.root}
          folder={folder}
          clips={card.clips}
          size={size}
          ticked={ticked}
          tick={full ? setTicked : null}
          play={(c) => (c.kind === 'video' || c.kind === 'sound') && setPlaying(c)}
          single={(c) => setSingles([...singles, join(card.folder, c.path)])}
        />
      </section>
      {full ? (
        <CopyPanel
          job={job}
          root={looked.root}
          path={looked.path}
          card={full}
          others={looked.cards.filter((c) => c.folder !== card.folder)}
          ticked={ticked}
          singles={singles}
        />
      ) : (
        <aside className={styles.panel} aria-label="Where it goes">
          <Empty title="Looking into the files …">
            <p className="soft">
              Their pictures are here already. What is new on the card, and where it can go, follows.
            </p>
          </Empty>
        </aside>
      )}
      <LookRules open={rules} close={() => setRules(false)} root={looked.root} path={looked.path} />
      <Player
        root={looked.root}
        folder={folder}
        clip={playing}
        close={() => setPlaying(null)}
        step={(by) => setPlaying((c) => (c ? (playables[playables.indexOf(c) + by] ?? c) : null))}
      />
    </>
  );
}

/** What is ticked by one click, how much it is, and how large the pictures are. `tick` is null until the files were looked into. */
function Tools({
  card,
  fresh,
  ticked,
  tick,
  size,
  setSize,
  showRules,
}: {
  card: SeenCard;
  fresh: readonly string[];
  ticked: ReadonlySet<string>;
  tick: ((ticked: Set<string>) => void) | null;
  size: Size;
  setSize: (size: Size) => void;
  showRules: () => void;
}) {
  const order = card.clips.map((c) => c.path);
  const sum = sumOf(card.clips, tick ? ticked : new Set(order));
  return (
    <div className={styles.tools}>
      <Button size="small" disabled={!tick} onClick={() => tick?.(new Set(order))}>
        All
      </Button>
      <Button size="small" disabled={!tick} onClick={() => tick?.(new Set())}>
        None
      </Button>
      <Button size="small" disabled={!tick} onClick={() => tick?.(invert(ticked, order))}>
        Invert
      </Button>
      <Button
        size="small"
        disabled={!tick || fresh.length === order.length}
        onClick={() => tick?.(new Set(fresh))}
      >
        Only new
      </Button>
      <span className={styles.sum} role="status">
        {tick && (
          <>
            <b>{sum.clips}</b> of{' '}
          </>
        )}
        {plural(card.clips.length, 'clip')} · {formatBytes(sum.bytes)}
      </span>
      <ToggleButtonGroup
        size="small"
        exclusive
        value={size}
        onChange={(_, v: Size | null) => v && setSize(v)}
        aria-label="Size of the pictures"
      >
        {(Object.keys(SIZES) as Size[]).map((s) => (
          <ToggleButton key={s} value={s} sx={{ py: 0, px: 1 }} aria-label={`${s} pictures`}>
            {s[0]!.toUpperCase()}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <Button size="small" onClick={showRules}>
        How it is recognised …
      </Button>
    </div>
  );
}

/** What was found on a card, once its files were looked into. `group` makes rows of stills that were made single one clip again. */
function Findings({
  card,
  fresh,
  tick,
  group,
}: {
  card: LookedCard;
  fresh: readonly string[];
  tick: (ticked: Set<string>) => void;
  group: (() => void) | undefined;
}) {
  const [elsewhere] = card.known?.elsewhere ?? [];
  const [asideOpen, setAsideOpen] = useState(false);
  return (
    <>
      <div className={styles.findings}>
        {card.known && (
          <Tag tone="look">
            this is {card.known.labels.join(', ') || (elsewhere?.label ?? card.known.label)}
            {elsewhere && ` of the job “${elsewhere.job}”`}, copied before:{' '}
            {card.known.newFiles === 0
              ? 'nothing is new on it'
              : `${plural(card.known.newFiles, 'file')} new since`}
            {card.known.gone > 0 ? `, ${plural(card.known.gone, 'file')} no longer on it` : ''}
          </Tag>
        )}
        {card.same &&
          !card.known &&
          (card.same.clips === card.clips.length ? (
            <Tag tone="look">
              these are the recordings of {card.same.card}, all {card.same.clips}: nothing is new
            </Tag>
          ) : (
            <Tag tone="look">
              {card.same.clips} of {card.same.of} are in {card.same.card} already:{' '}
              {plural(fresh.length, 'new clip')}
            </Tag>
          ))}
        {(card.same ?? card.known) && fresh.length > 0 && fresh.length < card.clips.length && (
          <Button size="small" sx={{ py: 0 }} onClick={() => tick(new Set(fresh))}>
            tick only those
          </Button>
        )}
        <Warnings card={card} />
        {card.clips
          .filter((c) => c.kind === 'stills' && c.missing.length > 0)
          .map((c) => (
            <Tag key={c.path} tone="look">
              {plural(c.missing.length, 'still')} missing in {c.stem}: {c.missing.slice(0, 4).join(', ')}
            </Tag>
          ))}
        {group && (
          <Button size="small" sx={{ py: 0 }} onClick={group}>
            group numbered stills again
          </Button>
        )}
        {(card.aside.length > 0 || card.names.length > 0) && (
          <Button
            size="small"
            sx={{ py: 0 }}
            aria-expanded={asideOpen}
            onClick={() => setAsideOpen(!asideOpen)}
          >
            {plural(card.aside.length + card.names.length, 'note')}
          </Button>
        )}
      </div>
      {asideOpen && (
        <ul className={styles.known} aria-label="Left aside or marked">
          {card.aside.map((a) => (
            <li key={a.path}>
              <span className="figures">{a.path}</span> {a.reason}
            </li>
          ))}
          {card.names.map((n) => (
            <li key={n}>{n}</li>
          ))}
        </ul>
      )}
    </>
  );
}
