'use client';
import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import {
  arrayMove,
  horizontalListSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
} from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { useState } from 'react';
import { type Block, type BlockKind, moduleOf } from '../../core/naming/blocks';
import type { NamingRow } from '../../core/naming/shapes';
import { KindMenu } from './KindMenu';
import { another } from './rows';
import styles from './naming.module.css';

interface Props {
  /** Names the board for what cannot see it, and tells boards of a page apart. */
  label: string;
  blocks: readonly Block[];
  change: (blocks: Block[]) => void;
  chosen: string | null;
  choose: (id: string | null) => void;
  /** Texts of an example by block; those that have none are shown by their kind only. */
  example: NamingRow['parts'] | null;
}

/** Blocks on their board: dragged, added, chosen, taken out. */
export function BlockRow({ label, blocks, change, chosen, choose, example }: Props) {
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const drop = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const at = (id: unknown) => blocks.findIndex((b) => b.id === id);
    change(arrayMove([...blocks], at(active.id), at(over.id)));
  };
  const add = (kind: BlockKind) => {
    setMenu(null);
    const block = another(kind, blocks);
    change([...blocks, block]);
    choose(block.id);
  };
  const remove = (id: string) => {
    if (blocks.length === 1) return;
    change(blocks.filter((b) => b.id !== id));
    if (chosen === id) choose(null);
  };
  return (
    <div className={styles.board} role="group" aria-label={label}>
      <DndContext id={label} sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop}>
        <SortableContext items={blocks.map((b) => b.id)} strategy={horizontalListSortingStrategy}>
          {blocks.map((b, i) => (
            <BlockCard
              key={b.id}
              block={b}
              text={example?.find((p) => p.blockId === b.id)?.text ?? '–'}
              separator={i === 0 ? null : b.before}
              chosen={chosen === b.id}
              choose={() => choose(chosen === b.id ? null : b.id)}
              {...(blocks.length > 1 ? { remove: () => remove(b.id) } : {})}
            />
          ))}
        </SortableContext>
      </DndContext>
      <button
        type="button"
        className={styles.add}
        onClick={(e) => setMenu(e.currentTarget)}
        aria-haspopup="menu"
      >
        + block
      </button>
      <KindMenu at={menu} add={add} close={() => setMenu(null)} />
    </div>
  );
}

interface CardProps {
  block: Block;
  text: string;
  separator: string | null;
  chosen: boolean;
  choose: () => void;
  remove?: () => void;
}

function BlockCard({ block, text, separator, chosen, choose, remove }: CardProps) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id: block.id,
  });
  const { term } = moduleOf(block.kind);
  return (
    <div
      ref={setNodeRef}
      className={styles.slot}
      style={{ transform: CSS.Translate.toString(transform), transition, zIndex: isDragging ? 5 : undefined }}
    >
      {separator !== null && (
        <span className={`figures ${styles.separator}`} aria-hidden="true">
          {separator.replaceAll(' ', '␣')}
        </span>
      )}
      <div
        className={styles.block}
        data-chosen={chosen ? '' : undefined}
        data-dragging={isDragging ? '' : undefined}
      >
        <button
          type="button"
          className={styles.blockFace}
          {...attributes}
          {...listeners}
          aria-pressed={chosen}
          aria-label={`${term}: ${text}`}
          onClick={choose}
          onKeyDown={(e) => {
            if (e.key === 'Delete' && remove) remove();
            else if (e.key === 'Enter') choose();
            else listeners?.onKeyDown?.(e);
          }}
        >
          <span>{term}</span>
          <strong className="figures">{text}</strong>
        </button>
        {remove && chosen && (
          <button type="button" className={styles.remove} onClick={remove} aria-label={`Take out ${term}`}>
            ×
          </button>
        )}
      </div>
    </div>
  );
}
