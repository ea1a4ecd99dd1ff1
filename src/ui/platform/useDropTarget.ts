'use client';
import { type CollisionDetection, type DragEndEvent, pointerWithin } from '@dnd-kit/core';
import { useCallback, useEffect, useRef } from 'react';

/**
 * What lies under the pointer at the moment it is let go. `over` of a drop is of the drawing before, which
 * a slow machine is behind with: by it the clip goes where the pointer came past, or nowhere.
 */
export function useDropTarget() {
  const released = useRef<{ x: number; y: number } | null>(null);
  const targets = useRef<Parameters<CollisionDetection>[0]['droppableContainers']>([]);
  useEffect(() => {
    const keep = (e: PointerEvent) => {
      released.current = { x: e.clientX, y: e.clientY };
    };
    window.addEventListener('pointerup', keep, true);
    return () => window.removeEventListener('pointerup', keep, true);
  }, []);
  const collisionDetection = useCallback<CollisionDetection>((args) => {
    targets.current = args.droppableContainers;
    return pointerWithin(args);
  }, []);
  /** Everything under the pointer, the topmost first. Only for a mouse: a touch has no capture of its own. */
  const elements = useCallback(
    ({ activatorEvent }: DragEndEvent): Element[] =>
      activatorEvent instanceof MouseEvent && released.current
        ? document.elementsFromPoint(released.current.x, released.current.y)
        : [],
    [],
  );
  /** The data of the topmost target there; undefined where there is none. */
  const target = useCallback(
    (drop: DragEndEvent): unknown => {
      if (!(drop.activatorEvent instanceof MouseEvent)) return drop.over?.data.current;
      for (const element of elements(drop)) {
        const hit = targets.current.find((t) => t.node.current === element);
        if (hit) return hit.data.current;
      }
      return undefined;
    },
    [elements],
  );
  return { collisionDetection, elements, target };
}
