import { GAP, spineWidth } from './shelve';

/** A line of what is shown: the head of a group, or some of its clips by their places in the whole order. Pixels from the top. */
export type Line =
  | { kind: 'head'; name: string; clips: number; top: number; height: number }
  | { kind: 'row'; from: number; to: number; top: number; height: number };

export interface Groups {
  groups: readonly { name: string; clips: number }[];
  /** Whether each group has a head. */
  heads: boolean;
}

export const HEAD = 38;

/** Lines of groups of clips: `fill` says how many of those from a place on, of so many that are left, stand side by side. */
export function layLines(
  { groups, heads }: Groups,
  height: number,
  fill: (from: number, left: number) => number,
): Line[] {
  const lines: Line[] = [];
  let [top, at] = [0, 0];
  for (const { name, clips } of groups) {
    if (clips === 0) continue;
    if (heads) {
      lines.push({ kind: 'head', name, clips, top, height: HEAD });
      top += HEAD;
    }
    for (const end = at + clips; at < end;) {
      const to = Math.min(end, at + Math.max(1, fill(at, end - at)));
      lines.push({ kind: 'row', from: at, to, top, height });
      top += height;
      at = to;
    }
  }
  return lines;
}

/** How many spines from a place on fit side by side in `width` pixels, by their running times. */
export function fitting(
  lengths: readonly (number | null)[],
  width: number,
): (from: number, left: number) => number {
  return (from, left) => {
    let [n, used] = [0, 0];
    while (n < left) {
      used += spineWidth(lengths[from + n] ?? null) + GAP;
      if (used > width) break;
      n++;
    }
    return n;
  };
}

/** The line that a clip is in, by its place in the whole order; -1 where none is. */
export function lineOf(lines: readonly Line[], at: number): number {
  let [low, high] = [0, lines.length - 1];
  while (low <= high) {
    const middle = (low + high) >> 1;
    const line = lines[middle]!;
    // A head belongs to the row behind it.
    const row = line.kind === 'row' ? line : lines[middle + 1];
    if (row?.kind !== 'row') {
      high = middle - 1;
      continue;
    }
    if (at < row.from) high = middle - 1;
    else if (at >= row.to) low = middle + 1;
    else return line.kind === 'row' ? middle : middle + 1;
  }
  return -1;
}

/** The place above or below another, in the same column as far as there is one. */
export function vertical(lines: readonly Line[], at: number, way: 1 | -1): number {
  const index = lineOf(lines, at);
  const line = lines[index];
  if (line?.kind !== 'row') return at;
  for (let i = index + way; lines[i]; i += way) {
    const other = lines[i]!;
    if (other.kind === 'row') return Math.min(other.to - 1, other.from + (at - line.from));
  }
  return at;
}
