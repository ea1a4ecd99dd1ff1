import { useQuery } from '@tanstack/react-query';
import type { ClipSet } from '../../core/handover';
import { formatDay } from '../platform/format';
import { useServer } from '../platform/job';
import { useCards, useJob } from '../platform/queries';

export type SetKind = ClipSet['kind'];
export const SET_WORDS: Record<SetKind, string> = {
  job: 'The whole job',
  day: 'A day',
  card: 'A card',
  bin: 'A bin',
  search: 'What a search finds',
  stringOut: 'A string-out',
  edit: 'The clips of an edit',
};

/** One that can be chosen: what it is called, and the set. */
export interface SetOption {
  key: string;
  words: string;
  set: ClipSet;
}

/** Every set of the job that can be handed over, by its kind; a search may be written, too. */
export function useSets(): Record<SetKind, SetOption[]> {
  const server = useServer();
  const job = useJob().data;
  const cards = useCards().data ?? [];
  const chosen = useQuery({ queryKey: ['choose', 'view'], queryFn: server.choose }).data;
  const edits = useQuery({ queryKey: ['edits'], queryFn: server.edits }).data ?? [];
  return {
    job: [{ key: 'job', words: job?.name ?? '', set: { kind: 'job' } }],
    day: (job?.days ?? []).map((d) => ({
      key: String(d.number),
      words: `Day ${d.number}, ${formatDay(d.date)}`,
      set: { kind: 'day', day: d.number },
    })),
    card: cards.map((c) => ({ key: c.id, words: c.id, set: { kind: 'card', card: c.id } })),
    bin: (chosen?.bins ?? []).map((b) => ({ key: b.id, words: b.name, set: { kind: 'bin', bin: b.id } })),
    search: (chosen?.searches ?? []).map((s) => ({
      key: s.id,
      words: s.name,
      set: { kind: 'search', query: s.query },
    })),
    stringOut: (chosen?.stringOuts ?? []).map((l) => ({
      key: l.id,
      words: l.name,
      set: { kind: 'stringOut', list: l.id },
    })),
    edit: edits.map((e) => ({ key: e.id, words: e.name, set: { kind: 'edit', edit: e.id } })),
  };
}

/** Which set is chosen: its kind, which one of it, and a search that is written by hand. */
export interface ChosenSet {
  kind: SetKind;
  key: string;
  query: string;
}

/** What is chosen; a search may be written by hand. Null where nothing is. */
export function optionOf(
  { kind, key, query }: ChosenSet,
  sets: Record<SetKind, SetOption[]>,
): SetOption | null {
  if (kind === 'search' && key === '')
    return query.trim() === ''
      ? null
      : { key: '', words: query.trim(), set: { kind: 'search', query: query.trim() } };
  return sets[kind].find((o) => o.key === key) ?? null;
}
