'use client';
import {
  DndContext,
  type DragEndEvent,
  DragOverlay,
  MouseSensor,
  TouchSensor,
  useDraggable,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { type ReactNode, useId, useMemo, useState } from 'react';
import type { ChangeAsked } from '../platform/client';
import { plural } from '../platform/format';
import { useDropTarget } from '../platform/useDropTarget';
import styles from './choose.module.css';
import { dropped, type Dragged, type Over } from './dropped';

// The same ones at every drawing: with others everything that can be dragged would be drawn anew.
const BY_MOUSE = { activationConstraint: { distance: 6 } };
const BY_TOUCH = { activationConstraint: { delay: 250, tolerance: 8 } };

/** Clips, bins and keywords are dragged within it. Out of the bin that is shown clips move; with Ctrl they stay there, too. */
export function Dragging({
  chosen,
  here,
  change,
  children,
}: {
  chosen: ReadonlySet<string>;
  here: string | null;
  change: (change: ChangeAsked) => void;
  children: ReactNode;
}) {
  const [dragged, setDragged] = useState<Dragged | null>(null);
  const sensors = useSensors(useSensor(MouseSensor, BY_MOUSE), useSensor(TouchSensor, BY_TOUCH));
  const { collisionDetection, elements, target } = useDropTarget();
  const end = (drop: DragEndEvent) => {
    setDragged(null);
    const { active, activatorEvent } = drop;
    const onto = (target(drop) as Over | undefined) ?? clipAmong(elements(drop));
    if (!onto) return;
    const copy = activatorEvent instanceof MouseEvent && (activatorEvent.ctrlKey || activatorEvent.metaKey);
    const done = dropped(active.data.current as Dragged, onto, { chosen, here, copy });
    if (done) change(done);
  };
  const n = dragged?.clip !== undefined && chosen.has(dragged.clip) ? chosen.size : 1;
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={collisionDetection}
      onDragStart={({ active }) => setDragged(active.data.current as Dragged)}
      onDragCancel={() => setDragged(null)}
      onDragEnd={end}
    >
      {children}
      <DragOverlay dropAnimation={null}>
        {dragged && (
          <span className={styles.dragged} data-dragged>
            {dragged.name ?? plural(n, 'clip')}
          </span>
        )}
      </DragOverlay>
    </DndContext>
  );
}

/** The clip that something is dropped on: there are too many for each to be a target that is told of every drag. */
function clipAmong(under: readonly Element[]): Over | null {
  const clip = under.map((e) => e.closest<HTMLElement>('[data-clip]')).find((e) => e !== null);
  return clip?.dataset.clip === undefined ? null : { on: clip.dataset.clip };
}

/** A clip that can be dragged. */
export function DraggableClip({
  id,
  children,
}: {
  id: string;
  children: (drag: Record<string, unknown>) => ReactNode;
}) {
  const { listeners, setNodeRef } = useDraggable({ id: useId(), data: { clip: id } });
  const drag = useMemo(() => ({ ...listeners, ref: setNodeRef }), [listeners, setNodeRef]);
  return children(drag);
}
