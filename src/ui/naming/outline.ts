import type { NamingSummary } from '../../core/naming/shapes';

type Folder = NamingSummary['shelf'][number];

/** A folder in the outline; its clips are those right in it, `all` those below it too. */
export interface Line extends Pick<Folder, 'clips' | 'changed' | 'day' | 'camera' | 'card'> {
  depth: number;
  name: string;
  path: string;
  all: number;
}

const same = <T>(a: T | null | undefined, b: T | null): T | null => (a === undefined || a === b ? b : null);

/** Folders, sorted, as an indented outline in which each name is once. A folder is of the day, camera and card that all below it are of. */
export function outline(shelf: readonly Folder[]): Line[] {
  const lines: Line[] = [];
  /** The lines that the present one is below, outermost first. */
  let above: Line[] = [];
  for (const folder of shelf) {
    const parts = folder.folder === '' ? ['the place itself'] : folder.folder.split('/');
    let depth = 0;
    while (depth < parts.length - 1 && above[depth]?.name === parts[depth]) depth++;
    above = above.slice(0, depth);
    for (let i = depth; i < parts.length; i++) {
      const line: Line = {
        depth: i,
        name: parts[i]!,
        path: folder.folder === '' ? '' : parts.slice(0, i + 1).join('/'),
        clips: 0,
        changed: false,
        all: 0,
        day: folder.day,
        camera: folder.camera,
        card: folder.card,
      };
      lines.push(line);
      above.push(line);
    }
    Object.assign(above.at(-1)!, { clips: folder.clips, changed: folder.changed });
    for (const line of above) {
      line.all += folder.clips;
      line.day = same(line.all === folder.clips ? undefined : line.day, folder.day);
      line.camera = same(line.all === folder.clips ? undefined : line.camera, folder.camera);
      line.card = same(line.all === folder.clips ? undefined : line.card, folder.card);
    }
  }
  return lines;
}
