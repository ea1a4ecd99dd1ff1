'use client';
import { type KeyboardEvent, type PointerEvent, useState } from 'react';
import { keep, kept } from '../platform/kept';
import styles from './choose.module.css';

/** Widths of the columns at the sides, kept in this browser. */
export function useWidth(name: string, usual: number, [least, most]: readonly [number, number]) {
  const key = `width ${name}`;
  const [width, setWidth] = useState(() => {
    const was = Number(kept(key) ?? NaN);
    return was >= least && was <= most ? was : usual;
  });
  const set = (to: number) => {
    const next = Math.round(Math.max(least, Math.min(most, to)));
    keep(key, String(next));
    setWidth(next);
  };
  return { width, set, least, most };
}

/** Between two columns: dragged, or moved by arrow keys. `side` is where the column stands that it sets. */
export function Splitter({
  label,
  side,
  of: { width, set, least, most },
}: {
  label: string;
  side: 'left' | 'right';
  of: ReturnType<typeof useWidth>;
}) {
  const sign = side === 'left' ? 1 : -1;
  const drag = (e: PointerEvent<HTMLDivElement>) => {
    const [from, begun] = [e.clientX, width];
    const bar = e.currentTarget;
    bar.setPointerCapture(e.pointerId);
    const move = (m: globalThis.PointerEvent) => set(begun + sign * (m.clientX - from));
    bar.addEventListener('pointermove', move);
    bar.addEventListener('pointerup', () => bar.removeEventListener('pointermove', move), { once: true });
  };
  const press = (e: KeyboardEvent) => {
    const step = { ArrowLeft: -20, ArrowRight: 20 }[e.key];
    if (!step) return;
    e.preventDefault();
    e.stopPropagation();
    set(width + sign * step);
  };
  return (
    <div
      role="separator"
      aria-orientation="vertical"
      aria-label={label}
      aria-valuenow={width}
      aria-valuemin={least}
      aria-valuemax={most}
      tabIndex={0}
      className={styles.splitter}
      onPointerDown={drag}
      onKeyDown={press}
    />
  );
}
