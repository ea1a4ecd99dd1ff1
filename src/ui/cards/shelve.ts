/** Pixels between two spines. */
export const GAP = 4;

/** A spine's width in pixels: the square root of its length, so that a minute and an hour both fit a shelf. */
export const spineWidth = (seconds: number | null): number =>
  Math.round(Math.min(150, Math.max(38, 24 + 11 * Math.sqrt(seconds ?? 0))));

/** Spines by shelf: as many side by side as fit in `width` pixels, at least one. */
export function shelve<T extends { seconds: number | null }>(clips: readonly T[], width: number): T[][] {
  const rows: T[][] = [];
  let used = Infinity;
  for (const clip of clips) {
    const w = spineWidth(clip.seconds) + GAP;
    if (used + w > width) {
      rows.push([]);
      used = 0;
    }
    rows.at(-1)!.push(clip);
    used += w;
  }
  return rows;
}
