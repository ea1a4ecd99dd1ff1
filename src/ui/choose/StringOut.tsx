'use client';
import { closestCenter, DndContext, MouseSensor, useSensor, useSensors } from '@dnd-kit/core';
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import { type KeyboardEvent, memo, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { nudged, spanTimes, type StringOutDetail } from '../../core/choose';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { Empty, ErrorNotice } from '../platform/Notice';
import { Tag } from '../platform/Tag';
import styles from './stringOut.module.css';
import { AT_FIRST, type Control, StringPlayer } from './StringPlayer';
import type { Acts } from './useChanges';

type Part = StringOutDetail['parts'][number];

interface Props {
  id: string;
  acts: Acts;
  close: () => void;
  /** Shows a clip in the drawer. */
  show: (clip: string) => void;
}

/** A string-out: played through, its parts put in order, trimmed, split and taken out. */
export function StringOut({ id, acts, close, show }: Props) {
  const server = useServer();
  const found = useQuery({ queryKey: ['choose', 'list', id], queryFn: () => server.stringOut(id) });
  const parts = found.data?.parts ?? NONE;
  const ids = useMemo(() => parts.map((p) => p.id), [parts]);
  const [stands, setStands] = useState(AT_FIRST);
  const control = useRef<Control>(null);
  const sensors = useSensors(useSensor(MouseSensor, BY_MOUSE));
  const move = useCallback(
    (part: string, before: string | null) =>
      acts.change({ do: 'moveInStringOut', list: id, items: [part], before }),
    [acts, id],
  );
  const go = useCallback((n: number) => control.current?.go(n), []);
  const step = useCallback(
    (part: string, way: 1 | -1) => {
      const to = ids.indexOf(part) + way;
      const others = ids.filter((other) => other !== part);
      if (to >= 0 && to < ids.length) move(part, others[to] ?? null);
    },
    [ids, move],
  );
  if (found.error)
    return (
      <div className={styles.whole}>
        <ErrorNotice error={found.error} again={() => void found.refetch()} />
        <Button onClick={close}>Back to the clips</Button>
      </div>
    );
  if (!found.data) return <div className={styles.whole} aria-busy="true" />;
  const { name, seconds } = found.data;
  const twice = parts.filter((p) => p.twice).length;
  return (
    <div className={styles.whole}>
      <header className={styles.head}>
        <h1>{name}</h1>
        <span className="soft">
          {plural(parts.length, 'part')} · {formatRunningTime(seconds)}
        </span>
        {twice > 0 && <Tag tone="look">{plural(twice, 'part')} with frames in common</Tag>}
        <span className={styles.space} />
        <Button size="small" onClick={close}>
          Back to the clips
        </Button>
      </header>
      {parts.length === 0 ? (
        <Empty title="Nothing is in it yet">
          Drag clips on its name, or choose clips and “Add to a string-out”.
        </Empty>
      ) : (
        <>
          <StringPlayer parts={parts} what="the string-out" control={control} tell={setStands} />
          <DndContext
            sensors={sensors}
            collisionDetection={closestCenter}
            onDragEnd={({ active, over }) => {
              const [from, to] = [active.id, over?.id].map((x) => parts.findIndex((p) => p.id === x));
              if (from === undefined || to === undefined || to < 0 || from === to) return;
              const after = from < to ? parts[to + 1] : parts[to];
              move(parts[from]!.id, after?.id ?? null);
            }}
          >
            <SortableContext items={ids} strategy={verticalListSortingStrategy}>
              <ol className={styles.parts} aria-label="Parts">
                {parts.map((part, i) => (
                  <PartLine
                    key={part.id}
                    {...{ part, acts, show, go, step }}
                    number={i + 1}
                    on={stands.at === i}
                    frame={stands.at === i ? stands.frame : null}
                  />
                ))}
              </ol>
            </SortableContext>
          </DndContext>
        </>
      )}
    </div>
  );
}

const NONE: readonly Part[] = [];
const BY_MOUSE = { activationConstraint: { distance: 6 } };

interface LineProps {
  part: Part;
  number: number;
  on: boolean;
  /** The frame that is shown, where it is of this part and nothing moves. */
  frame: number | null;
  go: (part: number) => void;
  step: (part: string, way: 1 | -1) => void;
  show: (clip: string) => void;
  acts: Acts;
}

const PartLine = memo(function PartLine({ part, number, on, frame, go, step, show, acts }: LineProps) {
  const server = useServer();
  const sort = useSortable({ id: part.id });
  const times = spanTimes(part, part);
  const line = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (on) line.current?.scrollIntoView({ block: 'nearest' });
  }, [on]);
  const trim = (end: 'from' | 'to', by: number) => {
    const next = nudged(part, end, by, part.frames);
    if (next.from === part.from && next.to === part.to) return;
    const was = { from: part.from, to: part.to };
    acts.change({ do: 'trimInStringOut', item: part.id, from: next.from, to: next.to, was });
  };
  const remove = () => acts.change({ do: 'removeFromStringOut', items: [part.id] });
  const press = (e: KeyboardEvent<HTMLElement>) => {
    if (e.target !== e.currentTarget) return;
    const all = [...e.currentTarget.closest('ol')!.querySelectorAll<HTMLElement>('li')];
    const way = { ArrowDown: 1, ArrowUp: -1 }[e.key] as 1 | -1 | undefined;
    if (way && e.altKey) step(part.id, way);
    else if (way) all[all.indexOf(e.currentTarget) + way]?.focus();
    else if (e.key === 'Enter') go(number - 1);
    else if (e.key === 'Delete') remove();
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  const inside = frame !== null && frame > part.from && frame < part.to;
  return (
    <li
      ref={(el) => {
        sort.setNodeRef(el);
        line.current = el;
      }}
      className={styles.part}
      data-on={on ? '' : undefined}
      style={{ transform: CSS.Translate.toString(sort.transform), transition: sort.transition }}
      tabIndex={0}
      aria-label={`Part ${number}: ${part.name}`}
      aria-current={on}
      onKeyDown={press}
      {...sort.listeners}
    >
      <span className="figures soft">{number}</span>
      <button
        type="button"
        className={styles.picture}
        aria-label={`Go to part ${number}`}
        onClick={() => go(number - 1)}
      >
        {part.media === 'sound' ? (
          <span>sound</span>
        ) : (
          <img
            src={server.frameUrl(part.clip, part.plays ?? 'original', part.from, 240)}
            alt=""
            loading="lazy"
            fetchPriority="low"
            draggable={false}
          />
        )}
      </button>
      <div>
        <button type="button" className={`figures ${styles.name}`} onClick={() => show(part.clip)}>
          {part.name}
        </button>
        <div className={styles.times}>
          <End words="In point" at={times?.first} number={number} trim={(by) => trim('from', by)} />
          <End words="Out point" at={times?.last} number={number} trim={(by) => trim('to', by)} />
          <span className="figures soft">{times?.seconds.toFixed(1)} s</span>
        </div>
      </div>
      {part.twice && <Tag tone="look">twice</Tag>}
      {part.plays === null && <Tag tone="plain">no proxy</Tag>}
      <button
        type="button"
        className={styles.act}
        disabled={!inside}
        title={inside ? 'Split it at the frame that is shown' : 'Stop inside it to split it there'}
        onClick={() => acts.change({ do: 'splitInStringOut', item: part.id, at: frame! })}
      >
        Split
      </button>
      <button type="button" className={styles.act} aria-label={`Take part ${number} out`} onClick={remove}>
        ×
      </button>
    </li>
  );
});

/** One end of a part, moved by frames. */
function End({
  words,
  at,
  number,
  trim,
}: {
  words: string;
  at: string | undefined;
  number: number;
  trim: (by: number) => void;
}) {
  return (
    <span className={styles.end}>
      <button
        type="button"
        aria-label={`${words} of part ${number} one frame earlier`}
        onClick={() => trim(-1)}
      >
        ‹
      </button>
      <span className="figures">{at}</span>
      <button type="button" aria-label={`${words} of part ${number} one frame later`} onClick={() => trim(1)}>
        ›
      </button>
    </span>
  );
}
