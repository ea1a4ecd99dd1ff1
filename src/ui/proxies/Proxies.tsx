'use client';
import Button from '@mui/material/Button';
import { useAddress } from '../platform/job';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useProgress, useProxies } from '../platform/queries';
import { Making } from './Making';
import { Pairs } from './Pairs';
import { Queue } from './Queue';
import styles from './proxies.module.css';

/** What needs a proxy and why, the work under way, and every pair by its state. */
export function Proxies() {
  const address = useAddress();
  const view = useProxies();
  const progress = useProgress();
  if (view.error)
    return (
      <div style={{ padding: 20 }}>
        <ErrorNotice error={view.error} again={() => void view.refetch()} />
      </div>
    );
  if (!view.data) return null;
  const p = view.data;
  if (p.pairs.length === 0)
    return (
      <Empty whole title="There are no clips yet">
        <Button href={address('/intake')} variant="contained">
          Bring in footage
        </Button>
      </Empty>
    );
  return (
    <div className={styles.screen}>
      <div className={styles.left}>
        <Making view={p} />
        <Queue work={p.work} measured={p.measured} progress={progress} />
      </div>
      <Pairs pairs={p.pairs} />
    </div>
  );
}
