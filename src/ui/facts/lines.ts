import type { FactLines, Grouping, Only } from '../../core/facts/shapes';

export const GROUPINGS: Record<Grouping, string> = {
  none: 'nothing',
  camera: 'camera',
  day: 'day',
  card: 'card',
  codec: 'codec',
  rate: 'frame rate',
};

/** Clips that stand together in the table: under a head, or all of them without one. */
export interface Section {
  /** The line of its first clip. */
  from: number;
  clips: number;
  head: string | null;
  only: readonly Only[];
}

/** The table's lines, clips and heads of groups, without the clips themselves. */
export interface Layout {
  lines: number;
  sections: readonly Section[];
}

const headOf = (by: Grouping, value: string | null): string =>
  value === null ? 'not stated' : by === 'camera' ? `Camera ${value}` : by === 'day' ? `Day ${value}` : value;

const onlyOf = (by: Exclude<Grouping, 'none'>, value: string | null): Only =>
  by === 'codec' || by === 'rate' ? { field: by, value } : { field: by, value: value ?? '' };

export function layoutOf({ clips, groups }: FactLines, by: Grouping): Layout {
  if (groups === null || by === 'none')
    return { lines: clips, sections: [{ from: 0, clips, head: null, only: [] }] };
  let lines = 0;
  const sections = groups.map(({ value, clips: n }): Section => {
    const section = { from: lines + 1, clips: n, head: headOf(by, value), only: [onlyOf(by, value)] };
    lines += n + 1;
    return section;
  });
  return { lines, sections };
}

/** What is at a line: a section, and which of its clips; null for its head. */
export function lineAt({ sections }: Layout, line: number): { section: Section; clip: number | null } | null {
  const section = sections.find((s) => line < s.from + s.clips);
  if (!section) return null;
  return { section, clip: line < section.from ? null : line - section.from };
}

/** The parts of sections that lie between two lines, both taken in. */
export function partsBetween(
  { sections }: Layout,
  a: number,
  b: number,
): { section: Section; offset: number; limit: number }[] {
  const [first, last] = [Math.min(a, b), Math.max(a, b)];
  return sections.flatMap((section) => {
    const offset = Math.max(0, first - section.from);
    const limit = Math.min(section.clips, last - section.from + 1) - offset;
    return limit > 0 ? [{ section, offset, limit }] : [];
  });
}
