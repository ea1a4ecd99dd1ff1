'use client';
import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { asValue, type ChooseView, searchField } from '../../core/choose';
import { ClipSet, Drawer, useFetchFound, useFound } from '../cards';
import { formatCount } from '../platform/format';
import { useServer } from '../platform/job';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useCards, useClip, useJob } from '../platform/queries';
import { isTyping, JustDone } from '../shell';
import { Bins } from './Bins';
import styles from './choose.module.css';
import { Dragging, DraggableClip } from './Dragging';
import { Foot } from './Foot';
import { KeywordPanel } from './KeywordPanel';
import { Keywords } from './Keywords';
import { type Asking, NameDialog } from './NameDialog';
import type { Place } from './place';
import { RangeList } from './RangeList';
import { RangePanel } from './RangePanel';
import { RollingPanel } from './RollingPanel';
import { Rules } from './Rules';
import { Searches } from './Searches';
import { StringOut } from './StringOut';
import { StringOuts } from './StringOuts';
import { faultOf } from './SearchLine';
import { SearchTop } from './SearchTop';
import { SetBar } from './SetBar';
import { Splitter, useWidth } from './Splitter';
import { type Changes, useChanges } from './useChanges';
import { type Go, usePlace } from './usePlace';

/** The whole job to be looked through: bins and searches at the left, clips in the middle, one of them at the right. */
export function Choose() {
  const server = useServer();
  const [place, go] = usePlace();
  const view = useQuery({ queryKey: ['choose', 'view'], queryFn: server.choose });
  const changes = useChanges();
  const [asking, ask] = useState<Asking | null>(null);
  const [ruling, setRuling] = useState(false);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(() => new Set(place.clip ? [place.clip] : []));
  // What is chosen is what is in sight: of another set no more than the clip that is open.
  const set = JSON.stringify([place.wanted.query, place.wanted.bin]);
  const [of, setOf] = useState(set);
  if (of !== set) {
    setOf(set);
    setChosen((now) => alone(now, place.clip));
  }
  const showRules = useCallback(() => setRuling(true), []);
  const left = useWidth('bins', 204, [150, 420]);
  const right = useWidth('clip', 368, [300, 760]);
  const choose = useCallback(
    (next: ReadonlySet<string>, focus: string | null) => {
      setChosen(next);
      go({ clip: focus });
    },
    [go],
  );
  // Where a clip is shown that was gone to by one of its ranges.
  const [spot, setSpot] = useState<Spot | null>(null);
  const showAt = useCallback(
    (clip: string, frame: number | null = null) => {
      setSpot((now) => (frame === null ? null : { clip, frame, nth: (now?.nth ?? 0) + 1 }));
      choose(new Set([clip]), clip);
    },
    [choose],
  );
  if (view.error)
    return (
      <div className={styles.failed}>
        <ErrorNotice error={view.error} again={() => void view.refetch()} />
      </div>
    );
  if (!view.data) return null;
  const parts = { showAt, view: view.data, place, go, changes, ask, chosen, choose };
  return (
    <Dragging chosen={chosen} here={place.wanted.bin} change={changes.acts.change}>
      <div
        className={styles.screen}
        style={{ gridTemplateColumns: `${left.width}px 6px minmax(0, 1fr) 6px ${right.width}px` }}
      >
        <Side {...parts} rules={showRules} />
        <Splitter label="Width of the bins" side="left" of={left} />
        <div className={styles.center}>
          <ErrorNotice error={changes.error} close={changes.forgetError} />
          {place.list === null ? (
            <Middle {...parts} />
          ) : (
            <StringOut
              id={place.list}
              acts={changes.acts}
              close={() => go({ list: null }, true)}
              show={showAt}
            />
          )}
          <JustDone done={changes} />
        </div>
        <Splitter label="Width of the clip" side="right" of={right} />
        {place.clip === null ? (
          <aside className={styles.noClip}>
            <p className="soft">Choose a clip to see it here.</p>
          </aside>
        ) : (
          <OpenClip id={place.clip} spot={spot} {...parts} />
        )}
      </div>
      {ruling && <Rules rules={view.data.rules} changes={changes} close={() => setRuling(false)} />}
      {asking && <NameDialog key={asking.title} asking={asking} close={() => ask(null)} />}
    </Dragging>
  );
}

/** The one clip as all that is chosen; the same set where it is that already. */
const alone = (now: ReadonlySet<string>, clip: string | null): ReadonlySet<string> =>
  now.size === (clip === null ? 0 : 1) && (clip === null || now.has(clip))
    ? now
    : new Set(clip === null ? [] : [clip]);

/** A frame of a clip that was gone to; `nth` tells it from the same one gone to before. */
interface Spot {
  clip: string;
  frame: number;
  nth: number;
}

interface Of {
  view: ChooseView;
  place: Place;
  go: Go;
  changes: Changes;
  ask: (asking: Asking) => void;
  chosen: ReadonlySet<string>;
  choose: (chosen: ReadonlySet<string>, focus: string | null) => void;
  /** Shows a clip in the drawer, at a frame. */
  showAt: (clip: string, frame?: number | null) => void;
}

function Side({ view, place, go, changes, ask, rules }: Of & { rules: () => void }) {
  const { wanted, list } = place;
  const { acts } = changes;
  const bin = useCallback(
    (id: string | null) => go((now) => ({ wanted: { ...now.wanted, bin: id }, list: null }), true),
    [go],
  );
  const find = useCallback(
    (query: string) => go((now) => ({ wanted: { ...now.wanted, query, bin: null }, list: null }), true),
    [go],
  );
  const open = useCallback((id: string | null) => go({ list: id }, true), [go]);
  const whole = (id: 'none' | null, words: string, clips: number) => (
    <button
      type="button"
      className={styles.whole}
      aria-pressed={wanted.bin === id && list === null}
      onClick={() => bin(id)}
    >
      {words} <span className="figures soft">{formatCount(clips)}</span>
    </button>
  );
  const word = view.keywords.find((k) => wanted.query === `keyword is ${asValue(k.name)}`)?.id ?? null;
  return (
    <nav className={styles.side} aria-label="Bins, searches and keywords">
      {whole(null, 'All clips', view.clips)}
      {whole('none', 'In no bin', view.unbinned)}
      <Bins bins={view.bins} open={wanted.bin} go={bin} {...{ acts, ask }} />
      <Searches searches={view.searches} query={wanted.query} {...{ find, changes, ask }} />
      <StringOuts lists={view.stringOuts} open={list} go={open} {...{ acts, ask }} />
      <Keywords keywords={view.keywords} open={word} {...{ find, acts, ask, rules }} />
    </nav>
  );
}

/** What clips have of some fields, to be offered while a search is typed. */
function useValues(view: ChooseView): (field: string) => readonly string[] {
  const cards = useCards().data;
  const job = useJob().data;
  return useCallback(
    (field) => {
      const byClips = (list: readonly { name: string; clips: number }[]) =>
        [...list].sort((a, b) => b.clips - a.clips).map((k) => k.name);
      switch (field) {
        case 'keyword':
          return byClips(view.keywords);
        case 'bin':
          return byClips(view.bins);
        case 'card':
          return cards?.map((c) => c.id) ?? [];
        case 'camera':
          return job?.cameras.map((c) => c.label) ?? [];
        case 'day':
          return job?.days.map((d) => String(d.number)) ?? [];
        default:
          return searchField(field)?.type === 'rate' ? ['edit'] : [];
      }
    },
    [view, cards, job],
  );
}

function Middle(of: Of) {
  const { view, place, go, changes, chosen, choose } = of;
  const { query, bin, by, sort } = place.wanted;
  // What is not understood yet leaves what was found before.
  const [understood, setUnderstood] = useState(query);
  if (query !== understood && faultOf(query) === null) setUnderstood(query);
  const wanted = useMemo(() => ({ query: understood, bin, by, sort }), [understood, bin, by, sort]);
  const found = useFound(wanted, place.view === 'spines');
  const names = useMemo(() => new Map(view.keywords.map((k) => [k.id, k.name])), [view.keywords]);
  const values = useValues(view);
  const fetch = useFetchFound(place.view === 'spines');
  const search = (text: string) => {
    // Asked for before the screen is drawn anew.
    if (faultOf(text) === null) fetch({ ...place.wanted, query: text });
    go({ wanted: { ...place.wanted, query: text } });
  };
  const title =
    bin === null
      ? 'All clips'
      : bin === 'none'
        ? 'In no bin'
        : (view.bins.find((b) => b.id === bin)?.name ?? 'A bin that is gone');
  const { set, enter } = useEntered(query, !found.isFetching);
  return (
    <div className={styles.main}>
      <SearchTop query={query} find={search} values={values} enter={enter} />
      <SetBar place={place} go={go} title={title} found={found.data} />
      <ErrorNotice error={found.error} />
      <div className={styles.clips} ref={set}>
        {found.data?.clips === 0 ? (
          <Nothing view={view} bin={bin} query={query} />
        ) : place.view === 'ranges' ? (
          <RangeList wanted={wanted} keywords={names} show={of.showAt} open={place.clip} />
        ) : (
          <ClipSet
            {...{ wanted, chosen, choose }}
            view={place.view}
            size={place.size}
            focus={place.clip}
            keywords={names}
            Draggable={DraggableClip}
          />
        )}
      </div>
      <Foot
        {...{ chosen, changes, wanted }}
        bins={view.bins}
        lists={view.stringOuts}
        here={bin}
        ask={of.ask}
      />
    </div>
  );
}

/** What goes from a search to what it finds, once that is there: to the list, in which clips come and go, and not to one of them. */
function useEntered(query: string, settled: boolean) {
  const set = useRef<HTMLDivElement>(null);
  const awaited = useRef<string | null>(null);
  const arrive = useCallback(() => {
    if (awaited.current !== query || !settled) return;
    awaited.current = null;
    set.current?.querySelector<HTMLElement>('[role="listbox"], button')?.focus();
  }, [query, settled]);
  useEffect(arrive, [arrive]);
  const enter = (text: string) => {
    awaited.current = text;
    arrive();
  };
  return { set, enter };
}

function Nothing({ view, bin, query }: { view: ChooseView; bin: string | null; query: string }) {
  if (view.clips === 0)
    return <Empty title="No clips yet">Take in a card or a folder first: Intake, key 2.</Empty>;
  if (query.trim() !== '')
    return <Empty title="No clip is found">Take a word out of the search, or look in all clips.</Empty>;
  return bin === 'none' ? (
    <Empty title="Every clip stands in a bin" />
  ) : (
    <Empty title="This bin is empty">Drag clips into it from “All clips”. No file moves.</Empty>
  );
}

/** The clip in the drawer, with what is said of it. */
function OpenClip({ id, spot, view, changes, chosen, showAt }: Of & { id: string; spot: Spot | null }) {
  const server = useServer();
  const clip = useClip(id);
  const marks = useQuery({ queryKey: ['choose', 'clip', id], queryFn: () => server.chosenClip(id) });
  const input = useRef<HTMLInputElement>(null);
  const here = spot?.clip === id ? spot : null;
  const all = chosen.has(id) ? [...chosen] : [id];
  const give = (name: string) => changes.acts.change({ do: 'addKeyword', clips: all, name });
  useKeywordKeys(view, give, () => input.current?.focus());
  const ranges = marks.data?.ranges ?? [];
  const rolling = marks.data?.rolling;
  return (
    <div className={styles.open}>
      {clip.error ? (
        <aside className={styles.noClip}>
          <ErrorNotice error={clip.error} again={() => void clip.refetch()} />
        </aside>
      ) : clip.data ? (
        <Drawer
          key={`${id} ${here?.nth}`}
          clip={clip.data}
          at={here?.frame ?? 0}
          others={all.length - 1}
          ranges={ranges}
          between={rolling && <RollingPanel clip={id} rolling={rolling} acts={changes.acts} show={showAt} />}
          below={(film) => <RangePanel {...{ film, ranges }} acts={changes.acts} keywords={view.keywords} />}
        />
      ) : (
        <aside className={styles.noClip} aria-busy="true" />
      )}
      <section className={styles.given} aria-label="Keywords of the clip">
        <KeywordPanel
          keywords={view.keywords}
          has={marks.data?.keywords ?? []}
          ruled={marks.data?.ruled ?? []}
          clips={all.length}
          give={give}
          take={(keyword) => changes.acts.change({ do: 'takeKeyword', clips: all, keyword })}
          input={input}
        />
      </section>
    </div>
  );
}

/** W types a keyword; Shift with a digit gives the one that is on it. */
function useKeywordKeys(view: ChooseView, give: (name: string) => void, type: () => void): void {
  const now = useRef({ view, give, type });
  useEffect(() => {
    now.current = { view, give, type };
  });
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (isTyping(e) || e.ctrlKey || e.metaKey || e.altKey) return;
      const digit = e.shiftKey ? /^Digit([1-9])$/.exec(e.code)?.[1] : undefined;
      const word = digit && now.current.view.keywords.find((k) => k.hotkey === Number(digit));
      if (word) now.current.give(word.name);
      else if (e.key.toLowerCase() === 'w' && !e.shiftKey) now.current.type();
      else return;
      e.preventDefault();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, []);
}
