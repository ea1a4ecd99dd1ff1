'use client';
import { useDroppable } from '@dnd-kit/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, useState } from 'react';
import type { NamingSummary } from '../../core/naming/shapes';
import { plural } from '../platform/format';
import styles from './naming.module.css';
import { type Line, outline } from './outline';

/** The shelf as it will be. Clips are dropped on a folder to become ones of its day, camera or card. */
export function ShelfTree({
  shelf,
  dragging,
  still,
}: {
  shelf: NamingSummary['shelf'];
  dragging: boolean;
  still: boolean;
}) {
  const holder = useRef<HTMLDivElement>(null);
  const [now, setNow] = useState(false);
  const lines = outline(
    now
      ? shelf.filter((f) => f.before > 0).map((f) => ({ ...f, clips: f.before, changed: false }))
      : shelf.filter((f) => f.clips > 0),
  );
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => holder.current,
    estimateSize: () => 21,
    overscan: 20,
  });
  return (
    <section
      className={styles.after}
      aria-label="On the shelf after this"
      data-dragging={dragging ? '' : undefined}
    >
      <div className={styles.afterHead}>
        <h2>On the shelf</h2>
        <button type="button" aria-pressed={now} onClick={() => setNow(true)}>
          now
        </button>
        <button type="button" aria-pressed={!now} onClick={() => setNow(false)}>
          after this
        </button>
      </div>
      <div
        ref={holder}
        className={`figures ${styles.tree}`}
        role="group"
        aria-label="Folders"
        // It is scrolled by the keyboard, too.
        tabIndex={0}
      >
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((v) => (
            <TreeLine key={lines[v.index]!.path} line={lines[v.index]!} top={v.start} />
          ))}
        </div>
      </div>
      <p className="soft">
        {dragging
          ? 'Drop the clips on a day, a camera or a card to make them part of it.'
          : still
            ? 'Families are placed whole, when they are copied.'
            : 'Families move whole. Drag clips here to another day, camera or card.'}
      </p>
    </section>
  );
}

function TreeLine({ line: l, top }: { line: Line; top: number }) {
  const can = l.day !== null || l.camera !== null || l.card !== null;
  const { setNodeRef, isOver } = useDroppable({ id: `folder ${l.path}`, data: { line: l }, disabled: !can });
  return (
    <div
      ref={setNodeRef}
      className={styles.treeLine}
      data-over={isOver ? '' : undefined}
      data-folder={l.path}
      // Not moved by a transform: what is dropped is measured without it.
      style={{ top, paddingLeft: l.depth * 14 }}
    >
      {l.name}
      {l.clips > 0 ? (
        <>
          {' '}
          <b data-changed={l.changed ? '' : undefined} title={plural(l.clips, 'clip')}>
            {l.clips}
          </b>
        </>
      ) : (
        '/'
      )}
    </div>
  );
}
