import type { NamingPreview } from '../../core/shapes';
import { plural } from '../shared/format';
import styles from './naming.module.css';

interface Line { depth: number; name: string; clips: number; changed: boolean }

/** Folders as an indented outline, each name once. */
function outline(shelf: NamingPreview['shelf']): Line[] {
  const lines: Line[] = [];
  let before: string[] = [];
  for (const { folder, clips, changed } of shelf) {
    const parts = folder === '' ? ['the root itself'] : folder.split('/');
    let same = 0;
    while (same < parts.length - 1 && parts[same] === before[same]) same++;
    parts.slice(same).forEach((name, i) => lines.push({ depth: same + i, name, clips: same + i === parts.length - 1 ? clips : 0, changed: changed && same + i === parts.length - 1 }));
    before = parts;
  }
  return lines;
}

/** The shelf as it will stand. */
export function ShelfAfter({ shelf }: { shelf: NamingPreview['shelf'] }) {
  return (
    <section className={styles.after} aria-label="On the shelf after this">
      <h2>On the shelf after this</h2>
      <div className="figures">
        {outline(shelf).map((l, i) => (
          <div key={i} style={{ paddingLeft: l.depth * 14 }}>{l.name}{l.clips > 0 ? <> <b data-changed={l.changed ? '' : undefined} title={plural(l.clips, 'clip')}>{l.clips}</b></> : '/'}</div>
        ))}
      </div>
      <p className="soft">Families move whole: originals, sidecars, looks, proxies. Safe copies and sources stay as they are.</p>
    </section>
  );
}
