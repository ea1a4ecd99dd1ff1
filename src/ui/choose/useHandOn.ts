import { useMutation } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { plural } from '../platform/format';
import { handOn } from '../platform/handedOn';
import { useAddress, useServer } from '../platform/job';
import type { Changes } from './useChanges';

type To = 'naming' | 'facts' | 'proxies';

/** What is done with clips elsewhere. */
export const HANDED: readonly (readonly [To, string])[] = [
  ['naming', 'Name them'],
  ['facts', 'Show their facts'],
  ['proxies', 'Make the proxies they need'],
];

/** Gives clips to another screen to be named or extracted, or has the proxies made that they need and have not. */
export function useHandOn({ say }: Changes): {
  handOn: (to: To, clips: readonly string[] | (() => Promise<string[]>)) => void;
  pending: boolean;
  error: Error | null;
  forget: () => void;
} {
  const server = useServer();
  const router = useRouter();
  const address = useAddress();
  const work = useMutation({
    mutationFn: async ({ to, clips }: { to: To; clips: readonly string[] | (() => Promise<string[]>) }) => {
      const ids = typeof clips === 'function' ? await clips() : clips;
      if (to !== 'proxies') {
        handOn(ids);
        router.push(address(`/${to}?chosen`));
        return null;
      }
      // What is proven is not made again.
      const needed = new Set(await server.findIds({ query: 'with read any(pair is missing, pair is lost)' }));
      const wanted = ids.filter((id) => needed.has(id));
      return wanted.length > 0 ? server.makeProxies(wanted) : { added: 0 };
    },
    onSuccess: (made) => {
      if (!made) return;
      const { added } = made;
      say(added > 0 ? `${plural(added, 'proxy', 'proxies')} queued` : 'None of them needs a proxy');
    },
  });
  return {
    handOn: (to, clips) => work.mutate({ to, clips }),
    pending: work.isPending,
    error: work.error,
    forget: work.reset,
  };
}
