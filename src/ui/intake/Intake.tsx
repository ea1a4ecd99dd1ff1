'use client';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useRouter, useSearchParams } from 'next/navigation';
import { Suspense, useEffect } from 'react';
import type { CardChoice } from '../../core/shapes';
import { server } from '../client';
import { Empty, ErrorNotice } from '../shared/Notice';
import { FolderPicker } from './FolderPicker';
import { Recognised } from './Recognised';
import styles from './intake.module.css';

/** Choose a folder, see what was recognised, confirm where it belongs, take it in. */
export function Intake() {
  return <Suspense><IntakeScreen /></Suspense>;
}

function IntakeScreen() {
  const router = useRouter();
  const queries = useQueryClient();
  const params = useSearchParams();
  // The folder stands in the address: back, forward and reload keep it.
  const [root, path] = [params.get('root'), params.get('path') ?? ''];
  const looking = params.get('look') === '1';
  const go = (r: string, p: string, look = false) => router.push(`/intake?root=${encodeURIComponent(r)}&path=${encodeURIComponent(p)}${look ? '&look=1' : ''}`);
  const looked = useQuery({ queryKey: ['look', root, path], queryFn: () => server.look(root!, path), enabled: looking && root !== null, retry: false, staleTime: 0, gcTime: 0 });
  const take = useMutation({
    mutationFn: (cards: CardChoice[]) => server.takeIn({ root: root!, path, cards }),
    onSuccess: async () => {
      await queries.invalidateQueries();
      router.push('/');
    },
  });
  const { reset } = take;
  useEffect(() => reset(), [root, path, reset]);
  return (
    <div className={styles.intake}>
      <FolderPicker root={root} path={path} go={go} looking={looking && looked.isFetching} />
      <section className={styles.result} aria-label="What was recognised" aria-busy={looked.isFetching}>
        {!looking || root === null ? (
          <Empty title="Look before you take in">
            <p className="soft" style={{ maxWidth: 380 }}>Open the folder that holds the footage, a whole day or one card, and look in it. Nothing is stored until you confirm, and nothing on disk is changed.</p>
          </Empty>
        ) : looked.error ? <ErrorNotice error={looked.error} again={() => void looked.refetch()} />
          : looked.isFetching || !looked.data ? <Empty title="Looking …"><p className="soft">Reading folders and the first clips of each card.</p></Empty>
            : <Recognised key={`${root}/${path}`} looked={looked.data} take={(cards) => take.mutate(cards)} taking={take.isPending} error={take.error} />}
      </section>
    </div>
  );
}

