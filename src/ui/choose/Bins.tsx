'use client';
import { useDraggable, useDroppable } from '@dnd-kit/core';
import { memo, type KeyboardEvent, useState } from 'react';
import { BinLabel, type BinView, moveFault, withInside } from '../../core/choose';
import { formatCount } from '../platform/format';
import { BinMark } from './BinMark';
import styles from './choose.module.css';
import { ItemMenu, openItsMenu } from './ItemMenu';
import type { Asking } from './NameDialog';
import { SideList } from './SideList';
import type { Acts } from './useChanges';

interface Props {
  bins: readonly BinView[];
  open: string | null;
  go: (bin: string | null) => void;
  acts: Acts;
  ask: (asking: Asking) => void;
}

/** Bins in the order of a tree, with how deep each stands; what stands in one that is folded is left out. */
function treeOf(bins: readonly BinView[], folded: ReadonlySet<string>): { bin: BinView; depth: number }[] {
  const of = (parent: string | null, depth: number): { bin: BinView; depth: number }[] =>
    bins
      .filter((b) => b.parent === parent)
      .flatMap((bin) => [{ bin, depth }, ...(folded.has(bin.id) ? [] : of(bin.id, depth + 1))]);
  return of(null, 0);
}

const BY_WORDS = {
  day: 'day',
  camera: 'camera',
  card: 'card',
  rate: 'frame rate',
  scene: 'scene',
  folder: 'folders as they stand',
} as const;

export const Bins = memo(function Bins({ bins, open, go, acts, ask }: Props) {
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const tree = treeOf(bins, folded);
  const { setNodeRef, isOver } = useDroppable({ id: 'bin top', data: { into: null } });
  const add = (parent: string | null) =>
    ask({
      title: parent === null ? 'New bin' : 'New bin in it',
      label: 'Name',
      value: '',
      done: 'Make it',
      take: (name) => acts.change({ do: 'addBin', name, parent }),
    });
  const fold = (id: string, to: boolean) => {
    const next = new Set(folded);
    if (to) next.add(id);
    else next.delete(id);
    setFolded(next);
  };
  return (
    <SideList
      name="Bins"
      amount={bins.length}
      drop={{ ref: setNodeRef, over: isOver }}
      buttons={
        <>
          <button type="button" aria-label="New bin" title="New bin" onClick={() => add(null)}>
            +
          </button>
          <ItemMenu
            label="More about bins"
            items={Object.entries(BY_WORDS).map(([by, words]) => ({
              words: `A bin for each ${by === 'folder' ? 'of the ' : ''}${words}`,
              act: () => acts.change({ do: 'makeBins', by: by as keyof typeof BY_WORDS }),
            }))}
          />
        </>
      }
      list={
        <>
          {bins.length === 0 && <p className="soft">None yet. Clips are dragged into them; no file moves.</p>}
          <ul role="tree" aria-label="Bins">
            {tree.map(({ bin, depth }, i) => (
              <BinLine
                key={bin.id}
                {...{ bin, depth, bins, acts, ask, fold }}
                folded={folded.has(bin.id)}
                parent={bins.some((b) => b.parent === bin.id)}
                open={open === bin.id}
                tabbable={open === bin.id || (i === 0 && !bins.some((b) => b.id === open))}
                go={() => go(bin.id)}
                add={() => add(bin.id)}
              />
            ))}
          </ul>
        </>
      }
    />
  );
});

interface LineProps {
  bin: BinView;
  bins: readonly BinView[];
  depth: number;
  folded: boolean;
  parent: boolean;
  open: boolean;
  tabbable: boolean;
  go: () => void;
  add: () => void;
  fold: (id: string, to: boolean) => void;
  acts: Acts;
  ask: (asking: Asking) => void;
}

function BinLine(props: LineProps) {
  const { bin, depth, folded, parent, open, tabbable, go, fold, acts } = props;
  const drop = useDroppable({ id: `bin ${bin.id}`, data: { into: bin.id, name: bin.name } });
  const drag = useDraggable({ id: `drag bin ${bin.id}`, data: { bin: bin.id, name: bin.name } });
  const items = useBinItems(props);
  const press = (e: KeyboardEvent<HTMLElement>) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (step) {
      const all = [...e.currentTarget.closest('ul')!.querySelectorAll<HTMLElement>('[role="treeitem"]')];
      all[all.indexOf(e.currentTarget) + step]?.focus();
    } else if (e.key === 'Enter' || e.key === ' ') go();
    else if (e.key === 'ArrowRight' && parent) fold(bin.id, false);
    else if (e.key === 'ArrowLeft' && parent) fold(bin.id, true);
    else if (e.key === 'F2') items.rename();
    else if (e.key === 'Delete') acts.change({ do: 'removeBin', bin: bin.id });
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  return (
    <li
      ref={(el) => {
        drop.setNodeRef(el);
        drag.setNodeRef(el);
      }}
      role="treeitem"
      aria-selected={open}
      aria-level={depth + 1}
      {...(parent ? { 'aria-expanded': !folded } : {})}
      tabIndex={tabbable ? 0 : -1}
      className={styles.item}
      data-over={drop.isOver ? '' : undefined}
      style={{ paddingLeft: 8 + depth * 14 }}
      title={bin.note || undefined}
      onClick={go}
      onContextMenu={openItsMenu}
      onKeyDown={press}
      {...drag.listeners}
    >
      <button
        type="button"
        className={styles.fold}
        tabIndex={-1}
        aria-label={folded ? 'Unfold' : 'Fold'}
        style={{ visibility: parent ? 'visible' : 'hidden' }}
        onClick={(e) => {
          e.stopPropagation();
          fold(bin.id, !folded);
        }}
      >
        {folded ? '▸' : '▾'}
      </button>
      <BinMark label={bin.label} />
      <span className={styles.called}>{bin.name}</span>
      <span className={`figures ${styles.count}`}>{formatCount(bin.clips)}</span>
      <ItemMenu label={`More about the bin ${bin.name}`} items={items.list} tabbable={false} />
    </li>
  );
}

/** What of a bin can be changed, as it is shown. */
const seen = ({ name, label, note }: BinView) => ({ name, label, note });

/** What can be done with a bin. */
function useBinItems({ bin, bins, acts, ask, add }: LineProps) {
  const edit = (set: { name?: string; label?: BinLabel | null; note?: string }) =>
    acts.change({ do: 'editBin', bin: bin.id, was: seen(bin), set });
  const rename = () =>
    ask({
      title: 'Rename the bin',
      label: 'Name',
      value: bin.name,
      done: 'Rename',
      take: (name) => edit({ name }),
    });
  const label = () =>
    ask({
      title: `Label of ${bin.name}`,
      label: 'Shape',
      value: bin.label ?? '',
      empty: true,
      options: [{ value: '', words: 'none' }, ...BinLabel.options.map((o) => ({ value: o, words: o }))],
      done: 'Set it',
      take: (v) => edit({ label: BinLabel.options.find((o) => o === v) ?? null }),
    });
  const note = () =>
    ask({
      title: `Note on ${bin.name}`,
      label: 'Note',
      value: bin.note,
      empty: true,
      done: 'Keep it',
      take: (n) => edit({ note: n }),
    });
  const inside = withInside(bins, bin.id);
  const move = () =>
    ask({
      title: `Move ${bin.name}`,
      label: 'Into',
      value: bin.parent ?? '',
      empty: true,
      options: [
        { value: '', words: 'the top' },
        ...bins
          .filter((b) => moveFault(bins, bin.id, b.id) === null)
          .map((b) => ({ value: b.id, words: b.name })),
      ],
      done: 'Move it',
      take: (into) => acts.change({ do: 'moveBins', bins: [bin.id], into: into || null }),
    });
  return {
    rename,
    list: [
      { words: 'New bin in it …', act: add },
      { words: 'Rename … (F2)', act: rename },
      { words: 'Label …', act: label },
      { words: 'Note …', act: note },
      { words: 'Move into …', act: move },
      {
        words:
          inside.length > 1
            ? `Remove it and ${inside.length - 1} in it; no clip goes`
            : 'Remove it; no clip goes',
        act: () => acts.change({ do: 'removeBin', bin: bin.id }),
      },
    ],
  };
}
