'use client';
import Button from '@mui/material/Button';
import { useMutation } from '@tanstack/react-query';
import Link from '../platform/Link';
import { plural } from '../platform/format';
import { useAddress, useServer } from '../platform/job';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useUnread } from '../platform/queries';
import styles from './facts.module.css';

/** Clips that could not be read, with the reason and what can be done. */
export function UnreadView() {
  const address = useAddress();
  const server = useServer();
  const unread = useUnread();
  const again = useMutation({ mutationFn: (clips: string[]) => server.readAgain(clips) });
  if (unread.error)
    return (
      <div className={styles.body}>
        <ErrorNotice error={unread.error} again={() => void unread.refetch()} />
      </div>
    );
  if (!unread.data) return null;
  if (unread.data.length === 0) return <Empty title="No reading has failed" />;
  const clips = unread.data;
  return (
    <div className={styles.body}>
      <div className={styles.unreadHead}>
        <p>
          {plural(clips.length, 'clip')} could not be read. Until then{' '}
          {clips.length === 1 ? 'it is' : 'they are'} left out of naming and proxies; the files stand where
          they are.
        </p>
        <Button
          variant="contained"
          disabled={again.isPending}
          onClick={() => again.mutate(clips.map((c) => c.clip))}
        >
          Try all again
        </Button>
      </div>
      <ErrorNotice error={again.error} close={() => again.reset()} />
      <table className={styles.unread} aria-label="Clips that could not be read">
        <tbody>
          {clips.map((c) => (
            <tr key={c.clip}>
              <th className="figures">
                <Link href={address(`/card/${c.card}?clip=${c.clip}`)}>{c.name}</Link>
              </th>
              <td className="figures soft">{c.card}</td>
              <td>{c.why}</td>
              <td>
                <Button
                  size="small"
                  disabled={again.isPending}
                  aria-label={`Try ${c.name} again`}
                  onClick={() => again.mutate([c.clip])}
                >
                  Try again
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
