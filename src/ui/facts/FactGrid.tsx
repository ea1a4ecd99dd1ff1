'use client';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, type MouseEvent, useRef, useState } from 'react';
import { type FieldId, fieldOf, SOURCE_WORDS, type Source } from '../../core/facts/catalogue';
import type { Sorting } from '../../core/facts/shapes';
import { plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { isNumeric, widthOf } from './columns';
import styles from './facts.module.css';
import { type Layout, lineAt } from './lines';
import { type Asked, type FactClip, useClips } from './useClips';

const NAME = 210;
/** Clips by whose cells the columns are made wide. */
const MEASURED = 100;

/** What the person chose: ids, and the clip that was clicked last. */
export interface Chosen {
  ids: ReadonlySet<string>;
  last: FactClip | null;
}
export const NOTHING: Chosen = { ids: new Set(), last: null };

interface Props {
  asked: Asked;
  layout: Layout;
  sort: (s: Sorting | null) => void;
  chosen: Chosen;
  choose: (chosen: Chosen) => void;
}

type Modifiers = Pick<MouseEvent, 'shiftKey' | 'ctrlKey' | 'metaKey'>;

/** Thousands of clips by fields. Only the lines in sight are fetched and drawn; chosen by click, Shift, Ctrl and keys. */
export function FactGrid({ asked, layout, sort, chosen, choose }: Props) {
  const { fields } = asked;
  const box = useRef<HTMLDivElement>(null);
  const [focus, setFocus] = useState<number | null>(null);
  const [failed, fail] = useState<unknown>(null);
  const virtual = useVirtualizer({
    count: layout.lines,
    getScrollElement: () => box.current,
    estimateSize: () => 30,
    overscan: 12,
  });
  const items = virtual.getVirtualItems();
  const clips = useClips(asked, layout, items[0]?.index ?? 0, items.at(-1)?.index ?? 40);
  const widths = useWidths(fields, clips.at, layout);
  const width = NAME + widths.reduce((n, w) => n + w, 0);
  const { pick, press } = usePicking({ layout, clips, chosen, choose, focus, setFocus, fail }, (line) =>
    virtual.scrollToIndex(line),
  );
  return (
    <>
      {(clips.error ?? failed) !== null && (
        <div style={{ padding: '0 20px 10px' }}>
          <ErrorNotice error={clips.error ?? failed} close={() => fail(null)} />
        </div>
      )}
      <div
        ref={box}
        className={styles.table}
        role="grid"
        aria-label="Clips by fields"
        aria-rowcount={layout.lines}
        aria-multiselectable
        tabIndex={0}
        onKeyDown={(e) => press(e, box.current?.clientHeight ?? 300)}
        data-testid="facts"
      >
        <div className={styles.inner} style={{ width }}>
          <Heads fields={fields} widths={widths} sorting={asked.sorting} sort={sort} />
          <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
            {items.map((item) => {
              const place = lineAt(layout, item.index);
              if (!place) return null;
              if (place.clip === null)
                return (
                  <div key={item.key} className={styles.group} style={{ top: item.start }} role="row">
                    <span>
                      <strong>{place.section.head}</strong>
                      <span className="soft">{plural(place.section.clips, 'clip')}</span>
                    </span>
                  </div>
                );
              const clip = clips.at(item.index);
              return (
                <div
                  key={item.key}
                  className={styles.row}
                  style={{ top: item.start, width }}
                  role="row"
                  aria-busy={clip === null}
                  aria-selected={clip !== null && chosen.ids.has(clip.id)}
                  data-focus={item.index === focus ? '' : undefined}
                  onMouseDown={(e: MouseEvent) => e.shiftKey && e.preventDefault()}
                  onClick={(e) => pick(item.index, e)}
                >
                  {clip && <Cells clip={clip} fields={fields} widths={widths} />}
                </div>
              );
            })}
          </div>
        </div>
      </div>
    </>
  );
}

/** Widths by the first clips, kept while others are fetched. */
function useWidths(
  fields: readonly FieldId[],
  at: (line: number) => FactClip | null,
  layout: Layout,
): number[] {
  const measured = Array.from({ length: Math.min(MEASURED, layout.lines) }, (_, line) => at(line)).filter(
    (c) => c !== null,
  );
  const cells = fields.map((_, i) => measured.map((c) => c.cells[i]?.[0] ?? ''));
  const now = fields.map((f, i) => widthOf(f, cells[i]!));
  const [kept, keep] = useState<{ fields: readonly FieldId[]; widths: number[] }>({ fields: [], widths: [] });
  const same = kept.fields === fields && (measured.length === 0 || String(kept.widths) === String(now));
  if (!same && measured.length > 0) keep({ fields, widths: now });
  return kept.fields === fields ? kept.widths : now;
}

function Heads({
  fields,
  widths,
  sorting,
  sort,
}: {
  fields: readonly FieldId[];
  widths: readonly number[];
  sorting: Sorting | null;
  sort: (s: Sorting | null) => void;
}) {
  const head = (by: Sorting['by'], words: string, extra: Record<string, unknown>) => {
    const mine = sorting?.by === by;
    return (
      <span
        key={by}
        role="columnheader"
        {...extra}
        {...(mine ? { 'aria-sort': sorting.down ? ('descending' as const) : ('ascending' as const) } : {})}
      >
        <button
          type="button"
          onClick={() => sort(!mine ? { by, down: false } : sorting.down ? null : { by, down: true })}
        >
          {words}
          {mine ? (sorting.down ? ' ↓' : ' ↑') : ''}
        </button>
      </span>
    );
  };
  return (
    <div className={styles.heads} role="row">
      {head('name', 'Clip', { className: styles.name, style: { width: NAME } })}
      {fields.map((f, i) =>
        head(f, fieldOf(f).term, {
          style: { width: widths[i] },
          title: fieldOf(f).meaning,
          ...(isNumeric(f) ? { 'data-number': '' } : {}),
        }),
      )}
    </div>
  );
}

function Cells({
  clip,
  fields,
  widths,
}: {
  clip: FactClip;
  fields: readonly FieldId[];
  widths: readonly number[];
}) {
  return (
    <>
      <span className={styles.name} style={{ width: NAME }} role="gridcell" title={clip.name}>
        {clip.name}
      </span>
      {fields.map((f, i) => {
        const cell = clip.cells[i];
        return (
          <span
            key={f}
            role="gridcell"
            style={{ width: widths[i] }}
            data-number={isNumeric(f) ? '' : undefined}
            title={cell ? `${cell[0]} (${SOURCE_WORDS[cell[2] as Source]})` : undefined}
          >
            {cell?.[0] ?? ''}
          </span>
        );
      })}
    </>
  );
}

interface Picking extends Pick<Props, 'layout' | 'chosen' | 'choose'> {
  clips: Pick<ReturnType<typeof useClips>, 'at' | 'between' | 'all'>;
  focus: number | null;
  setFocus: (line: number) => void;
  fail: (error: unknown) => void;
}

/** Choosing by pointer and keys. What lies between two lines is asked for where it was not fetched; the newest choice counts. */
function usePicking(
  { layout, clips, chosen, choose, focus, setFocus, fail }: Picking,
  scrollTo: (line: number) => void,
) {
  const anchor = useRef<number | null>(null);
  const turn = useRef(0);
  const chooseNow = (now: Chosen) => {
    turn.current++;
    choose(now);
  };
  const chooseThose = (asked: Promise<string[]>, last: FactClip | null) => {
    const mine = ++turn.current;
    void asked.then((ids) => {
      if (mine === turn.current) choose({ ids: new Set(ids), last });
    }, fail);
  };
  const pick = (line: number, e: Modifiers) => {
    const clip = clips.at(line);
    setFocus(line);
    if (e.shiftKey && anchor.current !== null) return chooseThose(clips.between(anchor.current, line), clip);
    anchor.current = line;
    if (!clip) return chooseThose(clips.between(line, line), null);
    if (!e.ctrlKey && !e.metaKey) return chooseNow({ ids: new Set([clip.id]), last: clip });
    const ids = new Set(chosen.ids);
    if (!ids.delete(clip.id)) ids.add(clip.id);
    chooseNow({ ids, last: clip });
  };
  const press = (e: KeyboardEvent, height: number) => {
    if ((e.ctrlKey || e.metaKey) && e.key === 'a') {
      e.preventDefault();
      return chooseThose(clips.all(), chosen.last);
    }
    if (e.key === 'Escape') return chooseNow(NOTHING);
    const page = Math.max(1, Math.floor(height / 30) - 2);
    const by = {
      ArrowDown: 1,
      ArrowUp: -1,
      PageDown: page,
      PageUp: -page,
      Home: -layout.lines,
      End: layout.lines,
    }[e.key];
    if (by === undefined) return;
    e.preventDefault();
    const way = by > 0 ? 1 : -1;
    let to = Math.max(0, Math.min(layout.lines - 1, (focus ?? -1) + by));
    while (lineAt(layout, to)?.clip === null) to += way > 0 || to === 0 ? 1 : -1;
    scrollTo(to);
    pick(to, { shiftKey: e.shiftKey, ctrlKey: false, metaKey: false });
  };
  return { pick, press };
}
