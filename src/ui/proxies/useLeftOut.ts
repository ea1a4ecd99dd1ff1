import { useState } from 'react';

/** What of a list a person has unticked; all of it is ticked at first. */
export function useLeftOut() {
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const turn = (key: string) =>
    setLeft((old) => {
      const next = new Set(old);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  return { left, turn, forget: () => setLeft(new Set()) };
}
