'use client';
import Link from 'next/link';
import { useSearchParams } from 'next/navigation';
import { useAddress } from '../platform/job';
import { Rehearsal } from './Rehearsal';
import { Timelines } from './Timelines';
import styles from './handover.module.css';

/** What goes to the next person and comes back from them: whether their edit will find its originals, and timelines out and in. */
export function HandOver() {
  const address = useAddress();
  const at = useSearchParams();
  const timelines = at.has('timelines');
  const tab = (href: string, words: string, here: boolean) => (
    <Link href={address(href)} aria-current={here ? 'page' : undefined}>
      {words}
    </Link>
  );
  return (
    <div className={styles.whole}>
      <nav className={styles.tabs} aria-label="Hand over">
        {tab('/handover', 'Relink rehearsal', !timelines)}
        {tab('/handover?timelines', 'Timelines', timelines)}
      </nav>
      {timelines ? <Timelines edit={at.get('edit')} /> : <Rehearsal />}
    </div>
  );
}
