import type { Span } from './range';

/** The places of things that come between two others, or behind the last (`after` of null), or before the first. */
export function placesBetween(before: number | null, after: number | null, n: number): number[] | null {
  const from = before ?? (after === null ? 0 : after - n - 1);
  const to = after ?? from + n + 1;
  const step = (to - from) / (n + 1);
  // Halved again and again there is no room left: all have to be given new places.
  if (step < 1e-9) return null;
  return Array.from({ length: n }, (_, i) => from + step * (i + 1));
}

/** Which of some stretches have frames in common with another of the same clip, by their places. */
export function duplicates(items: readonly (Span & { clip: string })[]): boolean[] {
  const order = items
    .map((_, i) => i)
    .sort((a, b) => {
      const [x, y] = [items[a]!, items[b]!];
      return x.clip === y.clip ? x.from - y.from : x.clip < y.clip ? -1 : 1;
    });
  const found = items.map(() => false);
  let widest: number | null = null;
  for (const i of order) {
    const now = items[i]!;
    const last: (Span & { clip: string }) | null = widest === null ? null : items[widest]!;
    if (last?.clip === now.clip && now.from < last.to) {
      found[i] = true;
      found[widest!] = true;
      if (now.to > last.to) widest = i;
    } else widest = i;
  }
  return found;
}
