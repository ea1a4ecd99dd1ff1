import { useEffect } from 'react';
import styles from './shell.module.css';
import type { Undoable } from './useUndoable';

/** Milliseconds for which it stays said what was done. */
const SAID = 8000;

/** What was done last, with the way back of that very thing. */
export function JustDone({ done: { said, say, back, undo, redo } }: { done: Undoable }) {
  useEffect(() => {
    if (said === null) return;
    const timer = setTimeout(() => say(null), SAID);
    return () => clearTimeout(timer);
  }, [said, say]);
  return (
    <div className={styles.toast} role="status">
      {said}
      {back !== null && said !== null && (
        <button type="button" onClick={back === 'undo' ? undo : redo}>
          {back === 'undo' ? 'Undo' : 'Redo'}
        </button>
      )}
    </div>
  );
}
