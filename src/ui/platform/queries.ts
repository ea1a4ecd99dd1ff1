'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import type { OffloadProgress } from '../../core/offload';
import { ServerEvent } from '../../core/overview';
import { library } from './client';
import { useServer } from './job';
import { listen, mayHaveMissed } from './listen';

/** Every job, the one that was worked on last first. */
export const useJobs = (enabled = true) => useQuery({ queryKey: ['jobs'], queryFn: library.jobs, enabled });
export const useJob = () => useQuery({ queryKey: ['job'], queryFn: useServer().job });
export const useWall = () => useQuery({ queryKey: ['wall'], queryFn: useServer().wall });
/** The job's cards without their figures, which of very many clips take long. */
export const useCards = () => useQuery({ queryKey: ['cards'], queryFn: useServer().cards });
export function useCard(id: string) {
  const server = useServer();
  return useQuery({ queryKey: ['card', id], queryFn: () => server.card(id) });
}
export function useClip(id: string | null) {
  const server = useServer();
  return useQuery({ queryKey: ['clip', id], queryFn: () => server.clip(id!), enabled: id !== null });
}
/** Clocks that look wrong and wait for a decision. */
export function useSuspicions(enabled = true) {
  const server = useServer();
  return useQuery({ queryKey: ['clocks', 'open'], queryFn: server.suspicions, enabled });
}
/** Clips whose reading failed. */
export function useUnread(enabled = true) {
  const server = useServer();
  return useQuery({ queryKey: ['unread'], queryFn: server.unread, enabled });
}
export const useProxies = () => useQuery({ queryKey: ['proxies'], queryFn: useServer().proxies });
export const useWork = () => useQuery({ queryKey: ['work'], queryFn: useServer().work });
export const useOffloads = () => useQuery({ queryKey: ['offloads'], queryFn: useServer().offloads });
export function useOffload(id: string) {
  const server = useServer();
  return useQuery({ queryKey: ['offload', id], queryFn: () => server.offload(id) });
}
export function useWipe(card: string) {
  const server = useServer();
  return useQuery({ queryKey: ['wipe', card], queryFn: () => server.wipe(card) });
}
export const useStandIns = () => useQuery({ queryKey: ['standIns'], queryFn: library.standIns });
export const usePlaces = () => useQuery({ queryKey: ['places'], queryFn: library.places });
export const useFieldSets = () => useQuery({ queryKey: ['fieldSets'], queryFn: library.fieldSets });
export const useTasks = () => useQuery({ queryKey: ['tasks'], queryFn: library.tasks });

export type Progress = Record<string, { progress: number; speed: number | null }>;
/** Pieces of work of which progress is kept: many more than run at once. */
const MOST_RUNNING = 100;

/** Progress with what was heard now. Of a page that stays open for days, what was heard of long ago is let go. */
export function withProgress(old: Progress, heard: readonly (Progress[string] & { id: string })[]): Progress {
  const now = new Map(heard.map((w) => [w.id, w]));
  const before = Object.entries(old).filter(([id]) => !now.has(id));
  return Object.fromEntries([...before, ...now].slice(-MOST_RUNNING));
}

/** Progress of running work by its id, as the events bring it. */
export const useProgress = (): Progress =>
  useQuery<Progress>({ queryKey: ['progress'], queryFn: () => ({}), staleTime: Infinity }).data ?? {};

export interface Running {
  job: string | null;
  title: string;
  done: number;
  total: number;
  left: number | null;
}
/** A change to footage that is being applied; null when none is. */
export const useRunning = (): Running | null =>
  useQuery<Running | null>({ queryKey: ['running'], queryFn: () => null, staleTime: Infinity }).data ?? null;

/** How the running copies stand, as last heard. */
export const useCopying = (): OffloadProgress[] =>
  useQuery<OffloadProgress[]>({ queryKey: ['copying'], queryFn: () => [], staleTime: Infinity }).data ?? [];

const TOUCHED: Record<string, string[]> = {
  job: ['job', 'jobs', 'fieldSets', 'conventions', 'recipes', 'proxies', 'templates'],
  cards: ['wall', 'cards', 'card', 'job', 'choose'],
  clips: [
    'wall',
    'cards',
    'card',
    'clip',
    'proxies',
    'names',
    'namesOfKeywords',
    'facts',
    'sideBySide',
    'stated',
    'clocks',
    'unread',
    'choose',
    'rehearsal',
    'edit',
    'editEvents',
    'packagePlan',
  ],
  choose: ['choose', 'namesOfKeywords', 'edits', 'edit', 'editEvents', 'packagePlan'],
  packages: ['packages', 'package', 'packagePlan', 'forms'],
  work: ['work', 'proxies'],
  log: ['log'],
  tasks: ['tasks'],
  watches: ['watches'],
  next: ['next'],
  places: ['places', 'outside', 'glance', 'folder'],
  copies: ['offloads', 'offload', 'wipe', 'standIns', 'folder'],
};

/** Milliseconds between two askings for the same thing, at least and at most. */
const [REST, LONG_REST] = [300, 2000];

/**
 * Asks again for what changed. One asking of a kind at a time, and after it a rest as long as it took, within bounds: changes that keep
 * coming, as while thousands of clips are read, never keep the server busy with telling of them.
 */
export class Refresher {
  readonly #busy = new Set<string>();
  readonly #again = new Set<string>();

  constructor(private readonly ask: (key: string) => Promise<unknown>) {}

  changed(key: string): void {
    if (this.#busy.has(key)) {
      this.#again.add(key);
      return;
    }
    this.#busy.add(key);
    const begun = Date.now();
    const rested = () => {
      this.#busy.delete(key);
      if (this.#again.delete(key)) this.changed(key);
    };
    void this.ask(key)
      .catch(() => undefined)
      .finally(() => setTimeout(rested, Math.min(LONG_REST, Math.max(REST, Date.now() - begun))));
  }
}

/** Listens to the server for as long as the page is open, and has what changed asked for again. */
export function useServerEvents(): void {
  const queries = useQueryClient();
  useEffect(() => {
    const newRefresher = () => new Refresher((key) => queries.invalidateQueries({ queryKey: [key] }));
    let refresher = newRefresher();
    let heard = performance.now();
    return listen((told) => {
      const event = ServerEvent.safeParse(told);
      if (!event.success) return;
      const e = event.data;
      const now = performance.now();
      if (e.type === 'opened') {
        if (mayHaveMissed(heard, now, e.quiet)) {
          // Of a server that is gone, what was asked before may never be answered.
          refresher = newRefresher();
          void queries.invalidateQueries();
        }
      } else if (e.type === 'changed')
        for (const key of new Set(e.what.flatMap((w) => TOUCHED[w] ?? []))) refresher.changed(key);
      else if (e.type === 'progress')
        queries.setQueryData<Progress>(['progress'], (old) => withProgress(old ?? {}, e.work));
      else if (e.type === 'copying') queries.setQueryData<OffloadProgress[]>(['copying'], e.copies);
      else queries.setQueryData<Running | null>(['running'], e.done >= e.total ? null : e);
      heard = now;
    });
  }, [queries]);
}
