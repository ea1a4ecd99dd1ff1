'use client';
import { memo } from 'react';
import { useDroppable } from '@dnd-kit/core';
import type { StringOutView } from '../../core/choose';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import styles from './choose.module.css';
import { ItemMenu, openItsMenu } from './ItemMenu';
import type { Asking } from './NameDialog';
import { SideList } from './SideList';
import type { Acts } from './useChanges';

interface Props {
  lists: readonly StringOutView[];
  open: string | null;
  go: (list: string | null) => void;
  acts: Acts;
  ask: (asking: Asking) => void;
}

/** The job's string-outs with their running times. Clips are dragged on one to be added at its end. */
export const StringOuts = memo(function StringOuts({ lists, open, go, acts, ask }: Props) {
  return (
    <SideList
      name="String-outs"
      amount={lists.length}
      buttons={
        <button
          type="button"
          aria-label="New string-out"
          title="New string-out"
          onClick={() =>
            ask({
              title: 'New string-out',
              label: 'Name',
              value: '',
              done: 'Make it',
              take: (name) => acts.change({ do: 'addStringOut', name }),
            })
          }
        >
          +
        </button>
      }
      list={
        <ul>
          {lists.map((l) => (
            <ListLine key={l.id} list={l} open={open === l.id} {...{ go, acts, ask }} />
          ))}
        </ul>
      }
    />
  );
});

function ListLine({
  list,
  open,
  go,
  acts,
  ask,
}: Pick<Props, 'go' | 'acts' | 'ask'> & { list: StringOutView; open: boolean }) {
  const { setNodeRef, isOver } = useDroppable({ id: `list ${list.id}`, data: { list: list.id } });
  return (
    <li
      ref={setNodeRef}
      className={styles.item}
      data-open={open ? '' : undefined}
      data-over={isOver ? '' : undefined}
      onContextMenu={openItsMenu}
    >
      <button
        type="button"
        className={styles.called}
        aria-pressed={open}
        onClick={() => go(open ? null : list.id)}
      >
        {list.name}
      </button>
      <span className={`figures ${styles.count}`}>{formatRunningTime(list.seconds)}</span>
      <ItemMenu
        label={`More about the string-out ${list.name}`}
        items={[
          {
            words: 'Rename …',
            act: () =>
              ask({
                title: 'Rename the string-out',
                label: 'Name',
                value: list.name,
                done: 'Rename',
                take: (name) => acts.change({ do: 'renameStringOut', list: list.id, was: list.name, name }),
              }),
          },
          {
            words: 'Remove it; no clip goes',
            act: () => {
              if (open) go(null);
              acts.change({ do: 'removeStringOut', list: list.id });
            },
          },
        ]}
      />
    </li>
  );
}
