import type { NamingPreview } from '../../core/naming/shapes';
import { plural } from '../platform/format';
import styles from './naming.module.css';
import { outline } from './outline';

/** The shelf as it will stand. */
export function ShelfAfter({ shelf }: { shelf: NamingPreview['shelf'] }) {
  return (
    <section className={styles.after} aria-label="On the shelf after this">
      <h2>On the shelf after this</h2>
      <div className="figures">
        {outline(shelf).map((l, i) => (
          <div key={i} style={{ paddingLeft: l.depth * 14 }}>
            {l.name}
            {l.clips > 0 ? (
              <>
                {' '}
                <b data-changed={l.changed ? '' : undefined} title={plural(l.clips, 'clip')}>
                  {l.clips}
                </b>
              </>
            ) : (
              '/'
            )}
          </div>
        ))}
      </div>
      <p className="soft">
        Families move whole: originals, sidecars, looks, proxies. Safe copies and sources stay as they are.
      </p>
    </section>
  );
}
