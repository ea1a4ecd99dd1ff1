import { keepPreviousData, useInfiniteQuery, useMutation } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Mended, MendRequest, Mend, RehearsalView, Tried, Verdict, Way } from '../../core/handover';
import { handOn } from '../platform/handedOn';
import { useAddress, useServer } from '../platform/job';
import { useSettled } from '../platform/useSettled';

/** Lines that are asked for at a time. */
const PAGE = 100;

export interface Wanted {
  verdict: Verdict | null;
  way: { way: Way; result: Tried['result'] } | null;
}

/** The rehearsal as it is asked for, page by page, and what is done about it. */
export function useRehearsal() {
  const server = useServer();
  const router = useRouter();
  const address = useAddress();
  const [wanted, setWanted] = useState<Wanted>({ verdict: null, way: null });
  const [words, setWords] = useState('');
  const settled = useSettled(words, 200);
  const query = { ...wanted, words: settled };
  const pages = useInfiniteQuery({
    queryKey: ['rehearsal', query],
    queryFn: ({ pageParam }) => server.rehearsal({ ...query, offset: pageParam, limit: PAGE }),
    initialPageParam: 0,
    getNextPageParam: (last, all) => {
      const had = all.reduce((n, p) => n + p.lines.length, 0);
      return last.lines.length > 0 && had < last.found ? had : undefined;
    },
    placeholderData: keepPreviousData,
  });
  const work = useMutation<Mended | null, Error, { mend: Mend; clips: string[] | null }>({
    mutationFn: async ({ mend, clips }) => {
      if (mend !== 'name') return server.mendClips({ mend, clips } satisfies MendRequest);
      handOn(clips ?? (await namedAlike(server.rehearsal)));
      router.push(address('/naming?chosen'));
      return null;
    },
  });
  const view: RehearsalView | undefined = pages.data?.pages[0];
  return {
    ...{ view, wanted, setWanted, words, setWords, pages, work },
    lines: pages.data?.pages.flatMap((p) => p.lines) ?? [],
  };
}

/** Clips whose names are to be made their own, of all that were tried. */
async function namedAlike(rehearsal: ReturnType<typeof useServer>['rehearsal']): Promise<string[]> {
  const ids: string[] = [];
  for (let offset = 0; ;) {
    const { lines, found } = await rehearsal({ offset, limit: 500 });
    ids.push(...lines.filter((l) => l.mends.includes('name')).map((l) => l.clip));
    offset += lines.length;
    if (lines.length === 0 || offset >= found) return ids;
  }
}
