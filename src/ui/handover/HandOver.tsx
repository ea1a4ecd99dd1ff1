'use client';
import Link from '../platform/Link';
import { useSearchParams } from 'next/navigation';
import { useAddress } from '../platform/job';
import { Lists } from './Lists';
import { Packages } from './packages/Packages';
import { Rehearsal } from './Rehearsal';
import { Reports } from './Reports';
import { Timelines } from './Timelines';
import styles from './handover.module.css';

/** What goes to the next person and comes back from them: whether their edit will find its originals, packages for them, timelines out and in, reports, lists of others. */
export function HandOver() {
  const address = useAddress();
  const at = useSearchParams();
  const tab = (['timelines', 'packages', 'reports', 'lists'] as const).find((t) => at.has(t)) ?? 'rehearsal';
  const link = (href: string, words: string, of: typeof tab) => (
    <Link href={address(href)} aria-current={tab === of ? 'page' : undefined}>
      {words}
    </Link>
  );
  return (
    <div className={styles.whole}>
      <nav className={styles.tabs} aria-label="Hand over">
        {link('/handover', 'Relink rehearsal', 'rehearsal')}
        {link('/handover?packages', 'Packages', 'packages')}
        {link('/handover?timelines', 'Timelines', 'timelines')}
        {link('/handover?reports', 'Reports', 'reports')}
        {link('/handover?lists', 'Lists in', 'lists')}
      </nav>
      {tab === 'timelines' ? (
        <Timelines edit={at.get('edit')} />
      ) : tab === 'packages' ? (
        <Packages open={at.get('package')} />
      ) : tab === 'reports' ? (
        <Reports />
      ) : tab === 'lists' ? (
        <Lists />
      ) : (
        <Rehearsal />
      )}
    </div>
  );
}
