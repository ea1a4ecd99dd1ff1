'use client';
import { useEffect, useRef, useState } from 'react';
import {
  countOf,
  type GivenKind,
  LONGEST_NAME,
  type KeywordView,
  nudged,
  isGiven,
  RANGE_WORDS,
  type Span,
  spanTimes,
  type Tile,
} from '../../core/choose';
import type { Film } from '../cards';
import { useServer } from '../platform/job';
import { isTyping } from '../shell';
import styles from './choose.module.css';
import { KeywordPanel } from './KeywordPanel';
import type { Acts } from './useChanges';

type Range = Tile['ranges'][number];

interface Props {
  film: Film;
  ranges: readonly Range[];
  keywords: readonly KeywordView[];
  acts: Acts;
}

/** What is kept of the marked part by one key, and the ranges of the clip. */
export function RangePanel({ film, ranges, keywords, acts }: Props) {
  const { clip, marks, frames, frame } = film;
  // What is not marked is all of the clip; a note without marks is of the frame that is shown.
  const marked: Span = { from: marks.in ?? 0, to: (marks.out ?? frames - 1) + 1 };
  const [noting, setNoting] = useState<Span | null>(null);
  const keep = (kind: GivenKind, span: Span, note = '') => {
    acts.change({ do: 'addRange', clip: clip.id, ...span, kind, note });
  };
  const isMarked = marks.in !== null || marks.out !== null;
  const note = () => setNoting(isMarked ? marked : { from: frame, to: frame + 1 });
  const selects = ranges.filter(isSelect);
  const playSelects = usePlaying(film, selects);
  useKeepKeys({
    s: () => keep('select', marked),
    r: () => keep('reject', marked),
    n: note,
    a: playSelects,
  });
  const whole = isMarked ? 'the part' : 'all of it';
  return (
    <div className={styles.ranges}>
      <div className={styles.keep}>
        <button type="button" title={`Keep ${whole} as a select (S)`} onClick={() => keep('select', marked)}>
          Select <kbd>S</kbd>
        </button>
        <button type="button" title={`Keep ${whole} as a reject (R)`} onClick={() => keep('reject', marked)}>
          Reject <kbd>R</kbd>
        </button>
        <button type="button" title="Write a note on it (N)" onClick={note}>
          Note <kbd>N</kbd>
        </button>
        <span className="soft">{whole}</span>
        {selects.length > 0 && (
          <button
            type="button"
            title="Play the selects of the clip one after another (A)"
            onClick={playSelects}
          >
            Play selects <kbd>A</kbd>
          </button>
        )}
      </div>
      {noting && (
        <NoteLine
          take={(words) => {
            keep('note', noting, words);
            setNoting(null);
          }}
          close={() => setNoting(null)}
        />
      )}
      {ranges.length > 0 && (
        <ul aria-label="Ranges">
          {ranges.map((r) => (
            <RangeLine key={r.id} range={r} {...{ film, keywords, acts }} />
          ))}
        </ul>
      )}
    </div>
  );
}

const isSelect = (r: Range): boolean => r.kind === 'select' || r.kind === 'circled';

/** Who clicks elsewhere keeps what was typed; Escape drops it. */
function NoteLine({ take, close }: { take: (words: string) => void; close: () => void }) {
  const [words, setWords] = useState('');
  const keep = () => (words.trim() === '' ? close() : take(words));
  return (
    <input
      autoFocus
      aria-label="Note"
      placeholder="Note, then Enter"
      maxLength={2000}
      value={words}
      onChange={(e) => setWords(e.target.value)}
      // Where the whole window goes behind another it stays as it is.
      onBlur={(e) => document.activeElement !== e.currentTarget && keep()}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === 'Escape') close();
        if (e.key === 'Enter' && words.trim() !== '') take(words);
      }}
    />
  );
}

/** The keys by which a part is kept, wherever nobody types. */
function useKeepKeys(keys: Record<string, () => void>): void {
  const now = useRef(keys);
  useEffect(() => {
    now.current = keys;
  });
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (isTyping(e) || e.ctrlKey || e.metaKey || e.altKey || e.shiftKey) return;
      const act = now.current[e.key.toLowerCase()];
      if (!act) return;
      e.preventDefault();
      act();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, []);
}

/** Returns what plays the selects of the clip one after another; whoever stops it does not want the next. */
function usePlaying(film: Film, selects: readonly Range[]): () => void {
  const left = useRef<readonly Range[]>([]);
  const { frame, seek, drive, speed } = film;
  useEffect(() => {
    const [now, next] = left.current;
    if (!now || speed !== 1) return;
    if (frame < now.to - 1) return;
    left.current = left.current.slice(1);
    if (next) seek(next.from);
    else drive(0);
  }, [frame, speed, seek, drive]);
  useEffect(() => {
    if (speed === 0) left.current = [];
  }, [speed]);
  return () => {
    left.current = selects;
    const [first] = selects;
    if (!first) return;
    seek(first.from);
    drive(1);
  };
}

const at = (range: Range, { clip }: Film) => spanTimes(range, countOf(clip) ?? { start: null, rate: null });

function RangeLine({ range: r, film, keywords, acts }: { range: Range } & Omit<Props, 'ranges'>) {
  const server = useServer();
  // What a recorder or a check says is nobody's to change.
  const given = isGiven(r.kind);
  const { kind } = film.clip;
  const times = at(r, film);
  const edit = (set: object) =>
    acts.change({
      do: 'editRange',
      range: r.id,
      was: { from: r.from, to: r.to, name: r.name, note: r.note },
      set,
    });
  const nudge = (end: 'from' | 'to', by: number) => {
    const next = nudged(r, end, by, film.frames);
    if (next.from !== r.from || next.to !== r.to) edit(next);
    film.seek(end === 'from' ? next.from : next.to - 1);
  };
  const end = (which: 'from' | 'to', words: string) => (
    <span className={styles.end}>
      {given && (
        <button type="button" aria-label={`${words} one frame earlier`} onClick={() => nudge(which, -1)}>
          ‹
        </button>
      )}
      <button
        type="button"
        className="figures"
        aria-label={`Go to the ${words}`}
        onClick={() => film.seek(which === 'from' ? r.from : r.to - 1)}
      >
        {(which === 'from' ? times?.first : times?.last) ?? `frame ${which === 'from' ? r.from + 1 : r.to}`}
      </button>
      {given && (
        <button type="button" aria-label={`${words} one frame later`} onClick={() => nudge(which, 1)}>
          ›
        </button>
      )}
    </span>
  );
  return (
    <li data-range={r.kind}>
      {kind === 'sound' ? (
        <span className={styles.noPicture}>sound</span>
      ) : (
        <img
          src={server.frameUrl(r.clip, film.clip.pair.state === 'proven' ? 'proxy' : 'original', r.from, 240)}
          alt=""
          loading="lazy"
        />
      )}
      <div>
        <div className={styles.said}>
          <b>{RANGE_WORDS[r.kind]}</b>
          <span className="figures soft">
            {times && kind !== 'still' ? `${times.seconds.toFixed(1)} s` : ''}
          </span>
          {given && (
            <button
              type="button"
              aria-label="Remove this range"
              onClick={() => acts.change({ do: 'removeRanges', ranges: [r.id] })}
            >
              ×
            </button>
          )}
        </div>
        {kind !== 'still' && (
          <div className={styles.ends}>
            {end('from', 'in point')}
            {end('to', 'out point')}
          </div>
        )}
        {r.note && <div>{r.note}</div>}
      </div>
      {given && <OwnWords range={r} edit={edit} {...{ keywords, acts }} />}
    </li>
  );
}

/** The name of a range, and its keywords. */
function OwnWords({
  range: r,
  edit,
  keywords,
  acts,
}: { range: Range; edit: (set: object) => void } & Pick<Props, 'keywords' | 'acts'>) {
  const [name, setName] = useState<string | null>(null);
  return (
    <div className={styles.own}>
      <input
        aria-label="Name of the range"
        placeholder="name"
        maxLength={LONGEST_NAME}
        value={name ?? r.name}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === 'Enter') e.currentTarget.blur();
        }}
        onBlur={() => {
          if (name !== null && name.trim() !== r.name) edit({ name });
          setName(null);
        }}
      />
      <KeywordPanel
        {...{ keywords }}
        has={r.keywords}
        clips={1}
        label="Add a keyword to the range"
        give={(word) => acts.change({ do: 'addKeyword', clips: [r.clip], range: r.id, name: word })}
        take={(keyword) => acts.change({ do: 'takeKeyword', clips: [r.clip], range: r.id, keyword })}
      />
    </div>
  );
}
