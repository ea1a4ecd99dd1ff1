import { useMutation } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import type { JobView } from '../../core/jobs';
import type { Convention, FolderPlan, NamingMore } from '../../core/naming';
import { useServer } from '../platform/job';
import { useSettled } from '../platform/useSettled';

/** What is composed on the bench: the job's own convention and folder plan, and the rules for some clips. */
export interface Composition {
  convention: Convention;
  folderPlan: FolderPlan;
  naming: NamingMore;
}

const of = ({ convention, folderPlan, naming }: Composition): Composition => ({
  convention,
  folderPlan,
  naming,
});

/**
 * The composition of a job, kept as it is changed, so that a reload or another tab finds it again. What another tab composed is taken
 * over, unless something is being composed here.
 */
export function useComposition(job: JobView) {
  const server = useServer();
  const [composition, setComposition] = useState<Composition>(of(job));
  const save = useMutation({ mutationFn: server.saveSettings });
  const { mutate: keep } = save;
  const said = JSON.stringify(of(job));
  const mine = JSON.stringify(composition);
  const kept = useSettled(mine, 600);
  /** What this tab and the server agreed on last, whichever said it. */
  const agreed = useRef(said);
  useEffect(() => {
    if (kept === agreed.current) return;
    agreed.current = kept;
    keep(JSON.parse(kept) as Composition);
  }, [kept, keep]);
  /** Keeps what is not kept yet. */
  const keepRest = useRef(() => {});
  useEffect(() => {
    keepRest.current = () => {
      if (mine === agreed.current) return;
      agreed.current = mine;
      void server.saveSettingsLeaving(JSON.parse(mine) as Composition).catch(() => undefined);
    };
  });
  // Whoever leaves at once after a change has made it all the same, by a link as by a reload.
  useEffect(() => {
    const leave = () => keepRest.current();
    window.addEventListener('pagehide', leave);
    return () => {
      window.removeEventListener('pagehide', leave);
      leave();
    };
  }, []);
  useEffect(() => {
    if (said === agreed.current || mine !== agreed.current || save.isPending) return;
    agreed.current = said;
    setComposition(of(job));
    // When the server tells of it, not when the person changes it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [said]);
  return { composition, setComposition, saving: save };
}
