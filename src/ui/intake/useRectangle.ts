import { type PointerEvent, type RefObject, useRef, useState } from 'react';
import { type Rectangle, touched } from './ticks';

interface Ticking {
  holder: RefObject<HTMLDivElement | null>;
  order: readonly string[];
  layout: Parameters<typeof touched>[2];
  ticked: ReadonlySet<string>;
  tick: ((ticked: Set<string>) => void) | null;
}

/** Ticks what a rectangle touches while it is drawn; with Alt, takes the ticks away. */
export function useRectangle({ holder, order, layout, ticked, tick }: Ticking) {
  const [drawn, setDrawn] = useState<Rectangle | null>(null);
  const drawing = useRef<{
    from: Rectangle;
    before: ReadonlySet<string>;
    off: boolean;
    moved: boolean;
  } | null>(null);
  const drop = (): void => {
    drawing.current = null;
    setDrawn(null);
  };
  /** Where the pointer is, measured from the first tile. */
  const place = (e: PointerEvent): { x: number; y: number } => {
    const box = holder.current!.getBoundingClientRect();
    return { x: e.clientX - box.left - 16, y: e.clientY - box.top + holder.current!.scrollTop - 12 };
  };
  const down = (e: PointerEvent): void => {
    if (!tick || e.button !== 0 || (e.target as HTMLElement).closest('[data-acts]')) return;
    const { x, y } = place(e);
    drawing.current = { from: { x, y, x2: x, y2: y }, before: ticked, off: e.altKey, moved: false };
  };
  const move = (e: PointerEvent): void => {
    const d = drawing.current;
    if (!d) return;
    const { x, y } = place(e);
    if (!d.moved && Math.hypot(x - d.from.x, y - d.from.y) < 6) return;
    d.moved = true;
    holder.current!.setPointerCapture(e.pointerId);
    const r = { ...d.from, x2: x, y2: y };
    setDrawn(r);
    const out = new Set(d.before);
    for (const i of touched(r, order.length, layout)) {
      if (d.off) out.delete(order[i]!);
      else out.add(order[i]!);
    }
    tick?.(out);
  };
  /** Ends it. Returns whether it was anything but a click on a tile. */
  const up = (): boolean => {
    const d = drawing.current;
    drop();
    return !d || d.moved;
  };
  return { drawn, down, move, up, drop };
}
