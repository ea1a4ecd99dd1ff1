'use client';
import Button from '@mui/material/Button';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import Link from '../../platform/Link';
import { useRouter } from 'next/navigation';
import type { PackageName } from '../../../core/handover';
import { formatMoment } from '../../platform/format';
import { useServer } from '../../platform/job';
import { ErrorNotice } from '../../platform/Notice';
import { Compose } from './Compose';
import { PackageOpened } from './PackageOpened';
import { SendingMark } from './SendingMark';
import { usePackageAddress } from './usePackageAddress';
import styles from '../handover.module.css';

/** What was handed over, one of it open; or a new package before it goes. */
export function Packages({ open }: { open: string | null }) {
  const server = useServer();
  const queries = useQueryClient();
  const at = usePackageAddress();
  const router = useRouter();
  const list = useQuery({ queryKey: ['packages'], queryFn: server.packages });
  const drop = useMutation({
    mutationFn: server.dropPackage,
    onSuccess: async (_, id) => {
      if (id === open) router.replace(at(null));
      await queries.invalidateQueries({ queryKey: ['packages'] });
    },
  });
  return (
    <div className={styles.screen} data-narrow>
      <section className={styles.panel} aria-label="Packages">
        <header className={styles.bar}>
          <h2>Handed over</h2>
          <Button
            size="small"
            variant={open === null ? 'outlined' : 'contained'}
            component={Link}
            href={at(null)}
            disabled={open === null}
          >
            New package
          </Button>
        </header>
        <ErrorNotice error={list.error ?? drop.error} close={drop.reset} />
        {list.data?.length === 0 && (
          <p className={styles.none}>
            Nothing yet. Put a package together at the right: what goes is shown before anything is copied.
          </p>
        )}
        <ul className={styles.names}>
          {list.data?.map((p) => (
            <PackageLine key={p.id} of={p} open={p.id === open} drop={() => drop.mutate(p.id)} />
          ))}
        </ul>
      </section>
      {open === null ? <Compose /> : <PackageOpened key={open} id={open} />}
    </div>
  );
}

function PackageLine({ of: p, open, drop }: { of: PackageName; open: boolean; drop: () => void }) {
  const at = usePackageAddress();
  return (
    <li data-open={open}>
      <Link href={at(p.id)} aria-current={open ? 'true' : undefined}>
        <b>{p.name}</b>
        <small className="soft">
          {p.form}
          {p.to ? ` · ${p.to}` : ''} · {formatMoment(p.sentAt)}
        </small>
        {p.state !== 'done' && (
          <small>
            <SendingMark state={p.state} />
          </small>
        )}
      </Link>
      <button
        type="button"
        aria-label={`Take ${p.name} off the list; its files stay`}
        title="Take it off the list; its files stay"
        onClick={drop}
      >
        ×
      </button>
    </li>
  );
}
