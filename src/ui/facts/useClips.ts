import { useQueries, useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import type { FieldId } from '../../core/facts/catalogue';
import type { FactFilter, FactPage, Sorting } from '../../core/facts/shapes';
import { useServer } from '../platform/job';
import { type Layout, lineAt, partsBetween, type Section } from './lines';

export type FactClip = FactPage['clips'][number];

/** What the table is asked for, but for which part of it. */
export interface Asked {
  fields: FieldId[];
  filter: FactFilter;
  sorting: Sorting | null;
}

/** Clips that are fetched together. */
const SOME = 100;

/** The clips at the lines in sight, fetched in pages, and what is between two lines whether or not it was fetched. */
export function useClips({ fields, filter, sorting }: Asked, layout: Layout, first: number, last: number) {
  const server = useServer();
  const client = useQueryClient();
  const pageOf = (section: Section, page: number) => ({
    ...filter,
    fields,
    only: [...filter.only, ...section.only],
    sorting,
    offset: page * SOME,
    limit: SOME,
  });
  const keyOf = (section: Section, page: number) => ['facts', 'page', pageOf(section, page)];
  const inSight = partsBetween(layout, first, last).flatMap(({ section, offset, limit }) => {
    const from = Math.floor(offset / SOME);
    const pages = Math.floor((offset + limit - 1) / SOME) - from + 1;
    return Array.from({ length: pages }, (_, i) => ({ section, page: from + i }));
  });
  const found = useQueries({
    queries: inSight.map(({ section, page }) => ({
      queryKey: keyOf(section, page),
      queryFn: () => server.factPage(pageOf(section, page)),
    })),
  });

  // What is in sight is drawn again when it comes; the rest is there as far as it was in sight before.
  const fetched = new Map(
    inSight.map(({ section, page }, i) => [`${section.from} ${page}`, found[i]!.data] as const),
  );
  /** The clip at a line; null for a head, and for what was not fetched yet. */
  const at = (line: number): FactClip | null => {
    const place = lineAt(layout, line);
    if (!place || place.clip === null) return null;
    const { section, clip } = place;
    const page = Math.floor(clip / SOME);
    const now = fetched.get(`${section.from} ${page}`) ?? client.getQueryData<FactPage>(keyOf(section, page));
    return now?.clips[clip % SOME] ?? null;
  };

  const between = useCallback(
    async (a: number, b: number): Promise<string[]> => {
      const parts = partsBetween(layout, a, b).map(({ section, offset, limit }) =>
        server.factIds({
          ...filter,
          only: [...filter.only, ...section.only],
          sorting,
          offset,
          limit: Math.min(limit, 100_000),
        }),
      );
      return (await Promise.all(parts)).flat();
    },
    [server, layout, filter, sorting],
  );

  const all = useCallback(
    () => server.factIds({ ...filter, sorting, offset: 0, limit: 100_000 }),
    [server, filter, sorting],
  );

  return { at, between, all, error: found.find((q) => q.error)?.error ?? null };
}
