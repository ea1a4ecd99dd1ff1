import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { NamingRequest, PlanResult } from '../../core/naming/shapes';
import { useServer } from '../platform/job';
import type { usePlan } from './usePlan';

/** Gives the names that are shown, and takes them back; `done` is what was given last. */
export function useRenaming(
  request: NamingRequest,
  plan: Pick<ReturnType<typeof usePlan>, 'composer' | 'preview' | 'again'>,
) {
  const server = useServer();
  const queries = useQueryClient();
  const [done, setDone] = useState<PlanResult | null>(null);
  const apply = useMutation({
    mutationFn: async () =>
      server.applyNames({ ...request, fingerprint: await plan.composer.fingerprint(plan.preview!.number) }),
    onSuccess: (r) => {
      setDone(r);
      void queries.invalidateQueries();
    },
    onError: plan.again,
  });
  const undo = useMutation({
    mutationFn: (id: string) => server.undo(id),
    onSuccess: () => {
      setDone(null);
      void queries.invalidateQueries();
    },
  });
  return { apply, undo, done, setDone };
}
