import { keepPreviousData, useQueries, useQuery, useQueryClient } from '@tanstack/react-query';
import type { Found, Tile, Wanted } from '../../core/choose';
import { useServer } from '../platform/job';

/** Clips that are fetched together. */
const SOME = 100;

/** How many clips there are of what is wanted, and in which groups; and, where spines are shown, how long each is. */
export function useFound(wanted: Wanted, lengths: boolean, enabled = true) {
  const server = useServer();
  return useQuery({
    queryKey: ['choose', 'found', wanted, lengths],
    queryFn: () => server.findClips({ ...wanted, limit: 0, lengths }),
    placeholderData: keepPreviousData,
    enabled,
  });
}

/** The clips between two places of their order, fetched in pages. */
export function useTiles(wanted: Wanted, from: number, to: number) {
  const server = useServer();
  const client = useQueryClient();
  const keyOf = (page: number) => ['choose', 'page', wanted, page];
  const first = Math.floor(from / SOME);
  const pages = to > from ? Math.floor((to - 1) / SOME) - first + 1 : 0;
  const found = useQueries({
    queries: Array.from({ length: pages }, (_, i) => ({
      queryKey: keyOf(first + i),
      queryFn: () => server.findClips({ ...wanted, offset: (first + i) * SOME, limit: SOME }),
    })),
  });
  /** The clip at a place; null while it is fetched. */
  const at = (place: number): Tile | null => {
    const page = Math.floor(place / SOME);
    const now = found[page - first]?.data ?? client.getQueryData<Found>(keyOf(page));
    return now?.tiles[place % SOME] ?? null;
  };
  return { at, error: found.find((q) => q.error)?.error ?? null };
}
