'use client';
import { useQuery } from '@tanstack/react-query';
import Link from '../platform/Link';
import { useEffect, useRef } from 'react';
import { plural } from '../platform/format';
import { useAddress, useServer } from '../platform/job';
import styles from './shell.module.css';

/** What came in watched folders and is not read yet, and steps that stopped: a line that leads to both. */
export function News() {
  const server = useServer();
  const address = useAddress();
  const watches = useQuery({ queryKey: ['watches'], queryFn: server.watches }).data;
  const finds = (watches ?? []).flatMap((w) =>
    w.finds.map((f) => ({ ...f, folder: w.path === '' ? w.rootName : w.path })),
  );
  const stops = useQuery({ queryKey: ['next'], queryFn: server.next }).data?.stops ?? 0;
  useNotices(watches && finds);
  if (finds.length === 0 && stops === 0) return null;
  const words = [
    ...(finds.length > 0 ? [`${finds.length} found`] : []),
    ...(stops > 0 ? [`${stops} stopped`] : []),
  ].join(' · ');
  return (
    <Link
      href={address('/intake')}
      className={styles.running}
      title={[
        ...(finds.length > 0 ? [`${plural(finds.length, 'line')} of watched folders not read yet`] : []),
        ...(stops > 0 ? [`${plural(stops, 'step')} of what happens next stopped`] : []),
      ].join('; ')}
    >
      {words}
    </Link>
  );
}

/** Tells what was found by the browser's notices, where they are allowed and this window is behind others; once in all windows. */
function useNotices(finds: readonly { id: string; text: string; folder: string }[] | undefined): void {
  const known = useRef<Set<string> | null>(null);
  useEffect(() => {
    if (!finds) return;
    const fresh = finds.filter((f) => known.current?.has(f.id) === false);
    known.current = new Set([...(known.current ?? []), ...finds.map((f) => f.id)]);
    if (fresh.length === 0 || !document.hidden) return;
    if (!('Notification' in window) || Notification.permission !== 'granted') return;
    const [first] = fresh;
    new Notification(first!.folder, {
      body: fresh.length === 1 ? first!.text : `${first!.text}, and ${fresh.length - 1} more`,
      tag: first!.id,
    });
  }, [finds]);
}
