'use client';
import Button from '@mui/material/Button';
import Link from '../platform/Link';
import { Fragment, useState } from 'react';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import type { CardView } from '../../core/cards';
import type { JobView } from '../../core/jobs';
import { formatBytes, formatDay, plural } from '../platform/format';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useJob, useWall } from '../platform/queries';
import { Tag } from '../platform/Tag';
import { RollingChart } from './RollingChart';
import styles from './wall.module.css';
import { useAddress } from '../platform/job';

/** Days down, cameras across, cards as boxes on boards; beneath, when each camera rolled. */
export function Wall() {
  const address = useAddress();
  const job = useJob().data;
  const wall = useWall();
  const [chosen, setChosen] = useState<number | null>(null);
  if (wall.error)
    return (
      <div style={{ padding: 20 }}>
        <ErrorNotice error={wall.error} again={() => void wall.refetch()} />
      </div>
    );
  if (!job || !wall.data) return null;
  const { cards, rolling } = wall.data;
  if (cards.length === 0) return <Bare />;
  const days = job.days.filter((d) => cards.some((c) => c.day === d.number));
  const cameras = job.cameras.filter((c) => cards.some((k) => k.camera === c.label));
  const day =
    days.find((d) => d.number === chosen) ??
    days.find((d) => rolling.some((r) => r.day === d.number)) ??
    days[0]!;
  return (
    <div className={styles.wall}>
      <h1 className="visuallyHidden">The Wall: days down, cameras across</h1>
      <div className={styles.scroller}>
        <div
          className={styles.grid}
          style={{ gridTemplateColumns: `108px repeat(${cameras.length}, minmax(208px, 280px)) 1fr` }}
        >
          <Button
            component={Link}
            href={address('/intake')}
            variant="contained"
            className={styles.bring}
            sx={{ lineHeight: 1.25, mr: 1 }}
          >
            Bring in footage
          </Button>
          {cameras.map((c) => (
            <CameraHead key={c.label} camera={c} cards={cards.filter((k) => k.camera === c.label)} />
          ))}
          <div className={styles.camera} />
          {days.map((d) => (
            <Fragment key={d.number}>
              <DayHead
                day={d}
                cards={cards.filter((c) => c.day === d.number)}
                isChosen={d.number === day.number}
                choose={() => setChosen(d.number)}
              />
              {cameras.map((c) => (
                <div key={c.label} className={styles.cell}>
                  {cards
                    .filter((k) => k.day === d.number && k.camera === c.label)
                    .map((k) => (
                      <CardBox key={k.id} card={k} />
                    ))}
                </div>
              ))}
              <div className={styles.cell} />
            </Fragment>
          ))}
        </div>
      </div>
      <RollingChart
        day={day}
        cameras={cameras.map((c) => c.label)}
        rolling={rolling.filter((r) => r.day === day.number)}
      />
    </div>
  );
}

const total = (list: readonly CardView[]) => ({
  clips: list.reduce((n, c) => n + c.clips, 0),
  seconds: list.reduce((n, c) => n + c.seconds, 0),
  bytes: list.reduce((n, c) => n + c.bytes, 0),
});

/** A job without footage. */
function Bare() {
  const address = useAddress();
  return (
    <div className={styles.empty}>
      <Empty whole title="Nothing is on the shelf yet">
        <p className="soft" style={{ maxWidth: 420 }}>
          Choose a folder of footage. You see what is in it before anything is stored, and nothing is changed
          on disk.
        </p>
        <Button component={Link} href={address('/intake')} variant="contained" size="large">
          Bring in footage
        </Button>
      </Empty>
    </div>
  );
}

function CameraHead({
  camera: c,
  cards,
}: {
  camera: JobView['cameras'][number];
  cards: readonly CardView[];
}) {
  const t = total(cards);
  return (
    <div className={styles.camera}>
      <span className="figures">{c.label}</span>
      <span className="soft">{c.model ?? 'model not known'}</span>
      <span className={`figures soft ${styles.sums}`}>
        {plural(t.clips, 'clip')} · {formatRunningTime(t.seconds)} · {formatBytes(t.bytes)}
      </span>
    </div>
  );
}

function DayHead({
  day: d,
  cards,
  isChosen,
  choose,
}: {
  day: JobView['days'][number];
  cards: readonly CardView[];
  isChosen: boolean;
  choose: () => void;
}) {
  const t = total(cards);
  return (
    <button type="button" className={styles.day} aria-pressed={isChosen} onClick={choose}>
      <strong>Day {d.number}</strong>
      <span className="soft">{formatDay(d.date)}</span>
      <span className="figures soft">
        {plural(t.clips, 'clip')}
        <br />
        {formatRunningTime(t.seconds)}
        <br />
        {formatBytes(t.bytes)}
      </span>
    </button>
  );
}

function CardBox({ card }: { card: CardView }) {
  const address = useAddress();
  // Two safe copies are the whole of it, one is half.
  const steps = [
    { name: 'copied', n: Math.min(card.clips, Math.round((card.safe * card.clips) / 2)) },
    { name: 'read', n: card.done.read },
    { name: 'named', n: card.done.named },
    { name: 'proxied', n: card.done.proxied },
    { name: 'paired', n: card.done.paired },
  ];
  const problems = card.stop + card.look;
  return (
    <div className={styles.box}>
      <Link href={address(`/card/${card.id}`)} className={styles.open} aria-label={`Card ${card.id}`} />
      <div className={styles.head}>
        <span className="figures">{card.id}</span>
        {problems > 0 ? (
          <Link href={address(`/card/${card.id}?only=problems`)} className={styles.problems}>
            <Tag tone={card.stop > 0 ? 'stop' : 'look'}>{problems} to look at</Tag>
          </Link>
        ) : card.done.read === card.clips ? (
          <Tag tone="proven">clean</Tag>
        ) : null}
      </div>
      <div className={styles.facts}>
        {plural(card.clips, 'clip')} · {formatRunningTime(card.seconds)} · {formatBytes(card.bytes)}
      </div>
      <div className={styles.steps}>
        {steps.map((s) => (
          <span
            key={s.name}
            className={styles.step}
            data-done={s.n === card.clips ? '' : undefined}
            title={`${s.name}: ${s.n} of ${card.clips}`}
          >
            <i style={{ width: `${card.clips === 0 ? 0 : (100 * s.n) / card.clips}%` }} />
            <b>{s.name}</b>
            <span className="visuallyHidden">
              {' '}
              {s.n} of {card.clips}
            </span>
          </span>
        ))}
      </div>
    </div>
  );
}
