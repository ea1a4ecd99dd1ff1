'use client';
import { memo } from 'react';
import { useDraggable, useDroppable } from '@dnd-kit/core';
import { asValue, type KeywordView } from '../../core/choose';
import { formatCount } from '../platform/format';
import styles from './choose.module.css';
import { type Item, ItemMenu, openItsMenu } from './ItemMenu';
import type { Asking } from './NameDialog';
import { SideList } from './SideList';
import type { Acts } from './useChanges';

interface Props {
  keywords: readonly KeywordView[];
  /** Shows the rules by which clips get them. */
  rules: () => void;
  /** The id of the one that is searched for alone; null where none is. */
  open: string | null;
  find: (query: string) => void;
  acts: Acts;
  ask: (asking: Asking) => void;
}

/** The job's keywords by their groups. One is clicked to be searched for, dragged on clips to be given, on another to be listed before it, and takes clips dragged on it. */
export const Keywords = memo(function Keywords({ keywords, rules, ...rest }: Props) {
  const families = [...new Set(keywords.map((k) => k.family))].sort();
  return (
    <SideList
      name="Keywords"
      amount={keywords.length}
      buttons={
        <button type="button" title="Keywords by rule" onClick={rules}>
          Rules …
        </button>
      }
      list={
        <>
          {keywords.length === 0 && (
            <p className="soft">None yet. Choose clips and press W to give them one.</p>
          )}
          {families.map((family) => (
            <ul key={family} aria-label={family || 'Keywords'}>
              {family && <li className={styles.family}>{family}</li>}
              {keywords
                .filter((k) => k.family === family)
                .map((k) => (
                  <KeywordLine key={k.id} keyword={k} all={keywords} {...rest} />
                ))}
            </ul>
          ))}
        </>
      }
    />
  );
});

function KeywordLine({
  keyword: k,
  all,
  open,
  find,
  acts,
  ask,
}: Omit<Props, 'keywords' | 'rules'> & { keyword: KeywordView; all: readonly KeywordView[] }) {
  const keyword = { id: k.id, name: k.name };
  const drop = useDroppable({ id: `keyword ${k.id}`, data: { keyword } });
  const drag = useDraggable({ id: `drag keyword ${k.id}`, data: { keyword, name: k.name } });
  const asked = `keyword is ${asValue(k.name)}`;
  const items = itemsOf({ keyword: k, all, acts, ask });
  return (
    <li
      ref={(el) => {
        drop.setNodeRef(el);
        drag.setNodeRef(el);
      }}
      className={styles.item}
      data-over={drop.isOver ? '' : undefined}
      data-open={open === k.id ? '' : undefined}
      onContextMenu={openItsMenu}
      {...drag.listeners}
    >
      <button
        type="button"
        className={styles.called}
        aria-pressed={open === k.id}
        onClick={() => find(open === k.id ? '' : asked)}
      >
        {k.name}
      </button>
      {k.hotkey !== null && <kbd title={`Shift ${k.hotkey} gives it`}>⇧{k.hotkey}</kbd>}
      <span className={`figures ${styles.count}`}>{formatCount(k.clips)}</span>
      <ItemMenu label={`More about the keyword ${k.name}`} items={items} />
    </li>
  );
}

/** What can be done with a keyword. */
function itemsOf({
  keyword: k,
  all,
  acts,
  ask,
}: Pick<Props, 'acts' | 'ask'> & { keyword: KeywordView; all: readonly KeywordView[] }): Item[] {
  const edit = (set: { name?: string; family?: string; hotkey?: number | null }) =>
    acts.change({
      do: 'editKeyword',
      keyword: k.id,
      was: { name: k.name, family: k.family, hotkey: k.hotkey },
      set,
    });
  const others = all.filter((o) => o.id !== k.id);
  const group = all.filter((o) => o.family === k.family);
  const at = group.indexOf(k);
  const move = (before: KeywordView | undefined) =>
    acts.change({ do: 'moveKeyword', keyword: k.id, before: before?.id ?? null });
  return [
    {
      words: 'Rename …',
      act: () =>
        ask({
          title: 'Rename the keyword',
          label: 'Name',
          value: k.name,
          done: 'Rename',
          take: (name) => edit({ name }),
        }),
    },
    {
      words: 'Key …',
      act: () =>
        ask({
          title: `Key of ${k.name}`,
          label: 'Shift with',
          value: String(k.hotkey ?? ''),
          empty: true,
          options: [
            { value: '', words: 'none' },
            ...Array.from({ length: 9 }, (_, i) => {
              const has = others.find((o) => o.hotkey === i + 1);
              return { value: String(i + 1), words: `${i + 1}${has ? ` (now ${has.name})` : ''}` };
            }),
          ],
          done: 'Set it',
          take: (v) => edit({ hotkey: v === '' ? null : Number(v) }),
        }),
    },
    {
      words: 'Group …',
      act: () =>
        ask({
          title: `Group of ${k.name}`,
          label: 'Group',
          value: k.family,
          empty: true,
          done: 'Set it',
          take: (family) => edit({ family }),
        }),
    },
    {
      words: 'Move up',
      not: at === 0 ? 'It is the first of its group' : undefined,
      act: () => move(group[at - 1]),
    },
    {
      words: 'Move down',
      not: at === group.length - 1 ? 'It is the last of its group' : undefined,
      act: () => move(group[at + 2]),
    },
    {
      words: 'Merge into …',
      not: others.length === 0 ? 'There is no other' : undefined,
      act: () =>
        ask({
          title: `Merge ${k.name}`,
          label: 'Into',
          value: others[0]!.id,
          options: others.map((o) => ({ value: o.id, words: o.name })),
          done: 'Merge',
          take: (into) => acts.change({ do: 'mergeKeyword', keyword: k.id, into }),
        }),
    },
    { words: 'Remove it from the job', act: () => acts.change({ do: 'removeKeyword', keyword: k.id }) },
  ];
}
