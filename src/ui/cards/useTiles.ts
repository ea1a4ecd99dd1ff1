import { keepPreviousData, useQueries, useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import type { Found, Tile, Wanted } from '../../core/choose';
import { useServer } from '../platform/job';

/** Clips that are fetched together. */
const SOME = 60;

type Server = ReturnType<typeof useServer>;
const keyOf = (wanted: Wanted, page: number, lengths: boolean) => ['choose', 'page', wanted, page, lengths];

/** A page of clips. The first says how many there are, in which groups, and how long each is where that is asked for. */
const pageOf = (server: Server, wanted: Wanted, page: number, lengths: boolean) => ({
  queryKey: keyOf(wanted, page, lengths),
  queryFn: () => server.findClips({ ...wanted, offset: page * SOME, limit: SOME, lengths }),
});

/** How many clips there are of what is wanted, and in which groups; and, where spines are shown, how long each is. */
export function useFound(wanted: Wanted, lengths: boolean) {
  const server = useServer();
  return useQuery({ ...pageOf(server, wanted, 0, lengths), placeholderData: keepPreviousData });
}

/** Fetches what is wanted next before it is shown. */
export function useFetchFound(lengths: boolean): (wanted: Wanted) => void {
  const server = useServer();
  const client = useQueryClient();
  return useCallback(
    (wanted) => void client.prefetchQuery(pageOf(server, wanted, 0, lengths)),
    [client, server, lengths],
  );
}

/** The clips between two places of their order, fetched in pages; the first as `useFound` fetches it. */
export function useTiles(wanted: Wanted, lengths: boolean, [from, to]: readonly [number, number]) {
  const server = useServer();
  const client = useQueryClient();
  const first = Math.floor(from / SOME);
  const pages = to > from ? Math.floor((to - 1) / SOME) - first + 1 : 0;
  const found = useQueries({
    queries: Array.from({ length: pages }, (_, i) =>
      pageOf(server, wanted, first + i, lengths && first + i === 0),
    ),
  });
  /** The clip at a place; null while it is fetched. */
  const at = (place: number): Tile | null => {
    const page = Math.floor(place / SOME);
    const now =
      found[page - first]?.data ?? client.getQueryData<Found>(keyOf(wanted, page, lengths && page === 0));
    return now?.tiles[place % SOME] ?? null;
  };
  /** Those from a place to before another. */
  const between = (from: number, to: number): (Tile | null)[] =>
    Array.from({ length: to - from }, (_, i) => at(from + i));
  return { at, between, error: found.find((q) => q.error)?.error ?? null };
}
