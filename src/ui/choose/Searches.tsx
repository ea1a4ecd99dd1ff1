'use client';
import { useMutation } from '@tanstack/react-query';
import { useRef } from 'react';
import { SearchFile, type SearchView } from '../../core/choose';
import { formatCount } from '../platform/format';
import { JsonFile, readJson } from '../platform/JsonFile';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import styles from './choose.module.css';
import { ItemMenu, openItsMenu } from './ItemMenu';
import type { Asking } from './NameDialog';
import { SideList } from './SideList';
import { faultOf } from './SearchLine';
import type { Changes } from './useChanges';
import { HANDED, useHandOn } from './useHandOn';

interface Props {
  searches: readonly SearchView[];
  /** What is searched for now. */
  query: string;
  find: (query: string) => void;
  changes: Changes;
  ask: (asking: Asking) => void;
}

/** Searches that are kept; each says how many clips it has now. */
export function Searches({ searches, query, find, changes, ask }: Props) {
  const server = useServer();
  const { acts } = changes;
  const on = useHandOn(changes);
  const file = useRef<HTMLInputElement>(null);
  const take = useMutation({
    mutationFn: async (chosen: File) => {
      const given = SearchFile.safeParse(await readJson(chosen));
      if (!given.success)
        throw new Error(`${chosen.name} holds no searches of Sort Shelf. Nothing was taken from it.`);
      acts.run(() => server.takeSearches(given.data));
    },
  });
  const not =
    query.trim() === ''
      ? 'Search for something first'
      : faultOf(query)
        ? 'The search is not understood'
        : undefined;
  const save = () =>
    ask({
      title: 'Save the search',
      label: 'Name',
      value: query.slice(0, 60),
      done: 'Save',
      take: (name) => acts.change({ do: 'saveSearch', name, query }),
    });
  return (
    <SideList
      name="Searches"
      amount={searches.length}
      buttons={
        <>
          <button
            type="button"
            aria-label="Save this search"
            title={not ?? 'Save this search'}
            disabled={not !== undefined}
            onClick={save}
          >
            +
          </button>
          <ItemMenu
            label="More about searches"
            items={[
              {
                words: 'Export all as a file',
                act: () => window.open(server.searchesUrl, '_self'),
                not: searches.length === 0 ? 'There are none' : undefined,
              },
              { words: 'Import a file …', act: () => file.current?.click() },
            ]}
          />
        </>
      }
      list={
        <ul>
          {searches.map((s) => (
            <SavedLine key={s.id} search={s} {...{ query, find, changes, ask, not, on }} />
          ))}
        </ul>
      }
    >
      <JsonFile ref={file} label="File of searches" read={(f) => take.mutate(f)} />
      <ErrorNotice error={take.error} close={() => take.reset()} />
      <ErrorNotice error={on.error} close={on.forget} />
    </SideList>
  );
}

function SavedLine({
  search: s,
  query,
  find,
  changes: { acts },
  ask,
  not,
  on,
}: Omit<Props, 'searches'> & {
  on: ReturnType<typeof useHandOn>;
  search: SearchView;
  /** Why what is searched for now cannot take its place. */
  not: string | undefined;
}) {
  const server = useServer();
  return (
    <li className={styles.item} data-open={s.query === query ? '' : undefined} onContextMenu={openItsMenu}>
      <button
        type="button"
        className={styles.called}
        title={s.query}
        aria-pressed={s.query === query}
        onClick={() => find(s.query)}
      >
        {s.name}
      </button>
      <span className={`figures ${styles.count}`}>{s.clips === null ? '!' : formatCount(s.clips)}</span>
      <ItemMenu
        label={`More about the search ${s.name}`}
        items={[
          {
            words: 'Rename …',
            act: () =>
              ask({
                title: 'Rename the search',
                label: 'Name',
                value: s.name,
                done: 'Rename',
                take: (name) =>
                  acts.change({ do: 'editSearch', search: s.id, was: { name: s.name }, set: { name } }),
              }),
          },
          {
            words: 'Let it be what is searched for now',
            act: () =>
              acts.change({ do: 'editSearch', search: s.id, was: { query: s.query }, set: { query } }),
            not,
          },
          ...HANDED.map(([to, words]) => ({
            words: `All it finds: ${words.charAt(0).toLowerCase()}${words.slice(1)}`,
            act: () => on.handOn(to, () => server.findIds({ query: s.query })),
            not: s.clips ? undefined : 'It finds no clip now',
          })),
          { words: 'Remove it', act: () => acts.change({ do: 'removeSearch', search: s.id }) },
        ]}
      />
    </li>
  );
}
