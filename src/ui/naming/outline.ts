import type { NamingPreview } from '../../core/naming/shapes';

export interface Line {
  depth: number;
  name: string;
  clips: number;
  changed: boolean;
}

/** Folders, sorted, as an indented outline in which each name is once. */
export function outline(shelf: NamingPreview['shelf']): Line[] {
  const lines: Line[] = [];
  let before: string[] = [];
  for (const { folder, clips, changed } of shelf) {
    const parts = folder === '' ? ['the root itself'] : folder.split('/');
    let same = 0;
    while (same < parts.length - 1 && parts[same] === before[same]) same++;
    parts.slice(same).forEach((name, i) => {
      const last = same + i === parts.length - 1;
      lines.push({ depth: same + i, name, clips: last ? clips : 0, changed: changed && last });
    });
    before = parts;
  }
  return lines;
}
