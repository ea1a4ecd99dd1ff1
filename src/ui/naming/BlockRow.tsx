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
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useState } from 'react';
import {
  type Block,
  BLOCK_WORDS,
  type BlockKind,
  type Convention,
  newBlock,
} from '../../core/naming/convention';
import type { NamingRow } from '../../core/naming/shapes';
import styles from './naming.module.css';

interface Props {
  convention: Convention;
  change: (c: Convention) => void;
  chosen: string | null;
  choose: (id: string | null) => void;
  example: NamingRow | null;
}

const KINDS = Object.keys(BLOCK_WORDS) as BlockKind[];

/** The blocks on their board: dragged, added, chosen, taken out. */
export function BlockRow({ convention, change, chosen, choose, example }: Props) {
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const { blocks } = convention;
  const drop = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const at = (id: unknown) => blocks.findIndex((b) => b.id === id);
    change({ ...convention, blocks: arrayMove(blocks, at(active.id), at(over.id)) });
  };
  const add = (kind: BlockKind) => {
    setMenu(null);
    let n = blocks.length;
    while (blocks.some((b) => b.id === `${kind}-${n}`)) n++;
    const id = `${kind}-${n}`;
    change({ ...convention, blocks: [...blocks, newBlock(kind, id)] });
    choose(id);
  };
  const remove = (id: string) => {
    if (blocks.length === 1) return;
    change({ ...convention, blocks: blocks.filter((b) => b.id !== id) });
    if (chosen === id) choose(null);
  };
  return (
    <div className={styles.board} role="group" aria-label="Blocks of the name">
      <DndContext id="blocks" sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop}>
        <SortableContext items={blocks.map((b) => b.id)} strategy={horizontalListSortingStrategy}>
          {blocks.map((b, i) => (
            <BlockCard
              key={b.id}
              block={b}
              text={example?.parts.find((p) => p.blockId === b.id)?.text ?? '–'}
              separator={i === 0 ? null : convention.separator}
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
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        {KINDS.map((k) => (
          <MenuItem key={k} dense onClick={() => add(k)}>
            {BLOCK_WORDS[k]}
          </MenuItem>
        ))}
      </Menu>
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
  return (
    <div
      ref={setNodeRef}
      className={styles.slot}
      style={{ transform: CSS.Translate.toString(transform), transition, zIndex: isDragging ? 5 : undefined }}
    >
      {separator !== null && (
        <span className={`figures ${styles.separator}`} aria-hidden="true">
          {separator === ' ' ? '␣' : separator}
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
          aria-label={`${BLOCK_WORDS[block.kind]}: ${text}`}
          onClick={choose}
          onKeyDown={(e) => {
            if (e.key === 'Delete' && remove) remove();
            else if (e.key === 'Enter') choose();
            else listeners?.onKeyDown?.(e);
          }}
        >
          <span>{BLOCK_WORDS[block.kind]}</span>
          <strong className="figures">{text}</strong>
        </button>
        {remove && chosen && (
          <button
            type="button"
            className={styles.remove}
            onClick={remove}
            aria-label={`Take out ${BLOCK_WORDS[block.kind]}`}
          >
            ×
          </button>
        )}
      </div>
    </div>
  );
}
