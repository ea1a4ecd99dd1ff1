import { useEffect, useState } from 'react';

/** A value once it has not changed for so many milliseconds: what is typed is not asked for letter by letter. */
export function useSettled<T>(value: T, milliseconds: number): T {
  const [settled, settle] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => settle(value), milliseconds);
    return () => clearTimeout(timer);
  }, [value, milliseconds]);
  return settled;
}
