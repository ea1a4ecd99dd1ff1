'use client';
import Button from '@mui/material/Button';
import Divider from '@mui/material/Divider';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import type { Kept } from '../../core/naming';
import type { Suggestion } from '../../core/naming/suggest';
import { library } from '../platform/client';
import { plural } from '../platform/format';
import { JsonFile, savedAs, readJson } from '../platform/JsonFile';
import { ErrorNotice } from '../platform/Notice';
import styles from './naming.module.css';

/** What is in the library, and what is done to it, with what came of it. */
function useLibrary(open: boolean, done: () => void) {
  const queries = useQueryClient();
  const [said, setSaid] = useState<string | null>(null);
  const list =
    useQuery({ queryKey: ['conventions'], queryFn: library.conventions, enabled: open }).data ?? [];
  const act = useMutation({
    mutationFn: (work: () => Promise<string>) => work(),
    onSuccess: (text) => {
      setSaid(text);
      done();
      void queries.invalidateQueries({ queryKey: ['conventions'] });
    },
  });
  const read = (chosen: File) =>
    act.mutate(async () => {
      const { added } = await library.importConventions(await readJson(chosen));
      return `${plural(added, 'convention')} added from ${chosen.name}`;
    });
  const forget = () => {
    setSaid(null);
    act.reset();
  };
  return { list, act, said, read, forget };
}

/** Conventions of the library: taken, kept, removed, and exchanged as JSON files. */
export function LibraryMenu({
  kept,
  take,
  suggest,
}: {
  kept: Kept;
  take: (kept: Kept) => void;
  /** Looks for the convention that the names in use follow. */
  suggest: () => Promise<Suggestion | null>;
}) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const { list, act, said, read, forget } = useLibrary(at !== null, () => setAt(null));
  const mine = list.find((k) => !k.ready && k.convention.name === kept.convention.name);
  const close = () => {
    setAt(null);
    act.reset();
  };
  return (
    <>
      <Button
        size="small"
        variant="outlined"
        color="inherit"
        aria-haspopup="menu"
        onClick={(e) => {
          forget();
          setAt(e.currentTarget);
        }}
      >
        Conventions …
      </Button>
      {said && at === null && (
        <span role="status" className="soft">
          {said}
        </span>
      )}
      <Menu anchorEl={at} open={at !== null} onClose={close} className={styles.library}>
        {list.map((k) => keptItem(k, take, close))}
        <Suggested
          suggest={suggest}
          take={(convention) => {
            take({ convention, folderPlan: kept.folderPlan });
            close();
          }}
        />
        <Divider />
        <MenuItem
          dense
          onClick={() =>
            act.mutate(() => library.keepConvention(kept).then(() => `“${kept.convention.name}” is kept`))
          }
        >
          Keep “{kept.convention.name}” for all jobs
        </MenuItem>
        {mine && (
          <MenuItem
            dense
            onClick={() =>
              act.mutate(() =>
                library.dropConvention(mine.id).then(() => `“${mine.convention.name}” was removed`),
              )
            }
          >
            Remove “{mine.convention.name}” from the library
          </MenuItem>
        )}
        <MenuItem
          dense
          component="a"
          href={savedAs('conventions', kept)}
          download={`${kept.convention.name}.json`}
        >
          Export as a file
        </MenuItem>
        <MenuItem dense onClick={() => file.current?.click()}>
          Import a file …
        </MenuItem>
        {act.error ? (
          <div className={styles.librarySaid}>
            <ErrorNotice error={act.error} close={() => act.reset()} />
          </div>
        ) : null}
      </Menu>
      <JsonFile ref={file} label="Convention file" read={read} />
    </>
  );
}

const keptItem = (
  k: Kept & { id: string; ready: boolean },
  take: (kept: Kept) => void,
  close: () => void,
) => (
  <MenuItem
    key={k.id}
    dense
    onClick={() => {
      take({ convention: k.convention, folderPlan: k.folderPlan });
      close();
    }}
  >
    {k.convention.name}
    {!k.ready && <span className="soft">&nbsp;· yours</span>}
  </MenuItem>
);

/** The convention that the names in use follow, where they follow one. */
function Suggested({
  suggest,
  take,
}: {
  suggest: () => Promise<Suggestion | null>;
  take: (convention: Kept['convention']) => void;
}) {
  const found = useQuery({
    queryKey: ['suggestion'],
    queryFn: suggest,
    gcTime: 0,
    staleTime: 0,
    retry: false,
  }).data;
  return (
    found && (
      <MenuItem dense onClick={() => take(found.convention)}>
        As the names in use
        <span className="soft">
          &nbsp;· {found.follow} of {found.of} follow
        </span>
      </MenuItem>
    )
  );
}
