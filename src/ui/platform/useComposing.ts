'use client';
import { useEffect } from 'react';

/**
 * Leaves the keys by which a word is composed, as of scripts that have more signs than a keyboard has keys, to the input method: Enter
 * there chooses a sign and enters nothing.
 */
export function useComposing(): void {
  useEffect(() => {
    const leave = (e: KeyboardEvent): void => {
      if (e.isComposing) e.stopPropagation();
    };
    window.addEventListener('keydown', leave, true);
    return () => window.removeEventListener('keydown', leave, true);
  }, []);
}
