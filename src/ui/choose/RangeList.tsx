'use client';
import { useInfiniteQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, useEffect, useMemo, useRef, useState } from 'react';
import { RANGE_WORDS, RangeKind, type RangesFound, spanTimes, type Wanted } from '../../core/choose';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { Empty, ErrorNotice } from '../platform/Notice';
import styles from './ranges.module.css';
import { AT_FIRST, type Control, StringPlayer } from './StringPlayer';

type Part = RangesFound['parts'][number];

/** Ranges that are fetched together, and pixels of a line. */
const [SOME, LINE] = [200, 64];

interface Props {
  wanted: Wanted;
  /** Names of keywords by their ids. */
  keywords: ReadonlyMap<string, string>;
  /** Shows a clip at a frame. */
  show: (clip: string, frame: number) => void;
  /** The clip that is open. */
  open: string | null;
}

/** The ranges of a set of clips, all together: each with its picture, length and timecode, to be gone to, and played one after another. */
export function RangeList({ wanted, keywords, show, open }: Props) {
  const [kind, setKind] = useState<RangeKind | ''>('select');
  const [playing, setPlaying] = useState(false);
  const [stands, setStands] = useState(AT_FIRST);
  const control = useRef<Control>(null);
  const found = useRanges(wanted, kind);
  const parts = useMemo(() => found.data?.pages.flatMap((p) => p.parts) ?? [], [found.data]);
  const holder = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: parts.length,
    getScrollElement: () => holder.current,
    estimateSize: () => LINE,
    overscan: 6,
  });
  const inSight = virtual.getVirtualItems();
  const last = Math.max(inSight.at(-1)?.index ?? 0, playing ? stands.at : 0);
  const { hasNextPage, isFetching, fetchNextPage } = found;
  useEffect(() => {
    if (hasNextPage && !isFetching && last >= parts.length - 20) void fetchNextPage();
  }, [hasNextPage, isFetching, fetchNextPage, last, parts.length]);
  const first = found.data?.pages[0];
  const press = (e: KeyboardEvent<HTMLElement>) => {
    const way = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (!way) return;
    e.preventDefault();
    e.stopPropagation();
    const lines = [...e.currentTarget.querySelectorAll<HTMLElement>('[data-line]')];
    lines[lines.indexOf(document.activeElement as HTMLElement) + way]?.focus();
  };
  return (
    <div className={styles.whole}>
      <Top {...{ kind, setKind, first, playing }} none={parts.length === 0} play={setPlaying} />
      <ErrorNotice error={found.error} />
      {playing && parts.length > 0 && (
        <div className={styles.played}>
          <StringPlayer parts={parts} what="the ranges" control={control} tell={setStands} />
        </div>
      )}
      {first?.ranges === 0 ? (
        <Empty title="No such range">
          Open a clip, mark in and out with I and O, and keep the part with S.
        </Empty>
      ) : (
        <div
          ref={holder}
          className={styles.holder}
          role="list"
          aria-label="Ranges of these clips"
          onKeyDown={press}
        >
          <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
            {inSight.map(({ index, start }) => (
              <div
                key={parts[index]!.id}
                role="listitem"
                className={styles.line}
                style={{ transform: `translateY(${start}px)`, height: LINE }}
                data-open={parts[index]!.clip === open ? '' : undefined}
                data-on={playing && stands.at === index ? '' : undefined}
              >
                <Line
                  part={parts[index]!}
                  keywords={keywords}
                  go={() => {
                    if (playing) control.current?.go(index);
                    show(parts[index]!.clip, parts[index]!.from);
                  }}
                />
              </div>
            ))}
          </div>
        </div>
      )}
    </div>
  );
}

/** Ranges of a kind, or of all, in pages. */
function useRanges(wanted: Wanted, kind: RangeKind | '') {
  const server = useServer();
  return useInfiniteQuery({
    queryKey: ['choose', 'ranges', wanted, kind],
    queryFn: ({ pageParam }) =>
      server.findRanges({ ...wanted, kinds: kind === '' ? [] : [kind], offset: pageParam, limit: SOME }),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => {
      const have = pages.length * SOME;
      return have < last.ranges ? have : undefined;
    },
  });
}

/** Which kind is shown, how many there are, and whether they are played. */
function Top({
  kind,
  setKind,
  first,
  none,
  playing,
  play,
}: {
  kind: RangeKind | '';
  setKind: (kind: RangeKind | '') => void;
  first: RangesFound | undefined;
  none: boolean;
  playing: boolean;
  play: (on: boolean) => void;
}) {
  return (
    <div className={styles.top}>
      <label>
        show{' '}
        <select
          aria-label="Kind of ranges"
          value={kind}
          onChange={(e) => setKind(e.target.value === '' ? '' : RangeKind.parse(e.target.value))}
        >
          <option value="">all ranges</option>
          {RangeKind.options.map((k) => (
            <option key={k} value={k}>
              {RANGE_WORDS[k]}s
            </option>
          ))}
        </select>
      </label>
      {first && (
        <span className="soft" aria-live="polite">
          {plural(first.ranges, 'range')} · {formatRunningTime(first.seconds)}
        </span>
      )}
      <button type="button" disabled={none} onClick={() => play(!playing)}>
        {playing ? 'Close the player' : 'Play them'}
      </button>
    </div>
  );
}

function Line({ part, keywords, go }: { part: Part; keywords: Props['keywords']; go: () => void }) {
  const server = useServer();
  // A still has no time.
  const times = part.media === 'still' ? null : spanTimes(part, part);
  const words = part.keywords.flatMap((k) => keywords.get(k) ?? []);
  return (
    <button type="button" className={styles.go} data-line onClick={go}>
      {part.media !== 'sound' ? (
        <img
          src={server.frameUrl(part.clip, part.plays ?? 'original', part.from, 240)}
          alt=""
          loading="lazy"
        />
      ) : (
        <span className={styles.none}>sound</span>
      )}
      <span className={styles.said}>
        <span>
          <b data-range={part.kind}>{RANGE_WORDS[part.kind]}</b> {part.called}
          {part.note && <span className="soft"> {part.note}</span>}
        </span>
        <span className="figures soft">
          {part.name}
          {times && ` · ${times.first} – ${times.last}`}
        </span>
        {words.length > 0 && <span className="soft">{words.join(', ')}</span>}
      </span>
      <span className="figures">{times ? `${times.seconds.toFixed(1)} s` : ''}</span>
    </button>
  );
}
