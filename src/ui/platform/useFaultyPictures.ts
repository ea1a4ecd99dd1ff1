'use client';
import { useEffect } from 'react';

/** Marks pictures that cannot be shown, as of a clip whose drive is offline, so that the browser's own sign for it does not stand in their place. */
export function useFaultyPictures(): void {
  useEffect(() => {
    const heed = ({ type, target }: Event): void => {
      if (target instanceof HTMLImageElement) target.toggleAttribute('data-faulty', type === 'error');
    };
    // Neither event bubbles.
    for (const type of ['error', 'load']) document.addEventListener(type, heed, true);
    return () => {
      for (const type of ['error', 'load']) document.removeEventListener(type, heed, true);
    };
  }, []);
}
