import { usePathname, useSearchParams } from 'next/navigation';
import { useCallback, useEffect, useRef, useState } from 'react';
import { keep, kept } from '../platform/kept';
import { addressOf, type Place, placeOf } from './place';

/** Goes to another place, which may follow from where one is. */
export type Go = (next: Partial<Place> | ((now: Place) => Partial<Place>), step?: boolean) => void;

/** Where this job was left, in this browser. */
const keptUnder = (path: string): string => `choose ${path}`;
/** Milliseconds after the last letter until it stands in the address: browsers take only so many changes of it. */
const SETTLED = 250;

const here = (): string => window.location.search.slice(1);

/**
 * The place that the address says, and the way to another. Going to another bin or way to show is a step that the browser goes back over;
 * what is typed, pointed at or resized is not. Come back to without an address, it is where it was left.
 */
export function usePlace(): [Place, Go] {
  const path = usePathname();
  const says = useSearchParams().toString();
  const [place, setPlace] = useState(() => placeOf(new URLSearchParams(says)));
  const now = useRef(place);
  const set = useCallback((next: Place) => {
    now.current = next;
    setPlace(next);
  }, []);
  useEffect(() => {
    const was = kept(keptUnder(path));
    const left = here() === '' && was ? placeOf(new URLSearchParams(was)) : null;
    // Shown behind what the server drew, which knows nothing of this browser.
    const timer = setTimeout(() => left && set(left));
    const back = () => set(placeOf(new URLSearchParams(here())));
    window.addEventListener('popstate', back);
    return () => {
      clearTimeout(timer);
      window.removeEventListener('popstate', back);
    };
  }, [path, set]);
  useEffect(() => {
    const timer = setTimeout(() => {
      const address = addressOf(place);
      if (address !== here())
        window.history.replaceState(null, '', address === '' ? path : `${path}?${address}`);
    }, SETTLED);
    return () => clearTimeout(timer);
  }, [place, path]);
  const go = useCallback(
    (next: Parameters<Go>[0], step = false) => {
      const then = { ...now.current, ...(typeof next === 'function' ? next(now.current) : next) };
      const [from, to] = [addressOf(now.current), addressOf(then)];
      set(then);
      keep(keptUnder(path), to);
      if (!step || from === to) return;
      // What was typed since stands in the address that is gone back to.
      window.history.replaceState(null, '', `${path}?${from}`);
      window.history.pushState(null, '', `${path}?${to}`);
    },
    [path, set],
  );
  return [place, go];
}
