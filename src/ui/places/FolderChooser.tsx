'use client';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { type FormEvent, useState } from 'react';
import { shownPath } from '../../core/platform/names';
import { library } from '../platform/client';
import { ErrorNotice } from '../platform/Notice';
import { usePlaces } from '../platform/queries';
import styles from './places.module.css';

/** A walk through the folders of this computer, from `from` on, or from the person's own folder. */
export function useWalk(from: string | null = null) {
  const [path, setPath] = useState(from);
  const [typed, setTyped] = useState<string | null>(null);
  const folder = useQuery({
    queryKey: ['outside', path],
    queryFn: () => library.outside(path),
    retry: false,
    staleTime: 0,
    // The folder before stays in sight until the next is there.
    placeholderData: keepPreviousData,
  });
  const at = folder.data?.path ?? path ?? '';
  const unseen = typed !== null && typed.trim() !== at;
  const chosen = unseen || folder.error || folder.isPlaceholderData ? null : (folder.data ?? null);
  return {
    folder,
    /** The path of the folder that is in sight, and what stands in the field instead. */
    at,
    typed,
    setTyped,
    open: (to: string) => {
      setTyped(null);
      setPath(to);
    },
    /** The folder that is in sight as it is now; null until it is read, and while the field says another one. */
    chosen,
    /** Its path, where a person went to it and did not only begin there. */
    wentTo: path === null ? null : (chosen?.path ?? null),
    /** Why there is none. */
    against: unseen ? 'Press Go to see the folder that was typed.' : null,
  };
}

/** Sends a form, and none that the dialog was opened from: what happens in a dialog goes up through React's tree. */
function alone(e: FormEvent): void {
  e.preventDefault();
  e.stopPropagation();
}

/** Walks through the volumes and folders of this computer. */
export function FolderChooser({ walk }: { walk: ReturnType<typeof useWalk> }) {
  const { folder, at, typed, setTyped, open } = walk;
  const places = usePlaces();
  return (
    <div className={styles.chooser}>
      <nav aria-label="Volumes">
        {(places.data?.volumes ?? []).map((v) => (
          <button
            key={v.at}
            type="button"
            aria-current={at === v.at || (v.at !== '/' && at.startsWith(`${v.at}/`)) ? 'true' : undefined}
            onClick={() => open(v.at)}
          >
            <strong>{shownPath(v.name)}</strong>
            <span className="figures soft">{shownPath(v.at)}</span>
          </button>
        ))}
      </nav>
      <div className={styles.walk}>
        <form
          onSubmit={(e) => {
            alone(e);
            if (typed !== null) open(typed.trim() || at);
          }}
        >
          <Button
            size="small"
            type="button"
            disabled={!folder.data?.up}
            onClick={() => folder.data?.up && open(folder.data.up)}
          >
            Up
          </Button>
          <TextField
            size="small"
            fullWidth
            label="Folder on this computer"
            value={typed ?? at}
            onChange={(e) => setTyped(e.target.value)}
            slotProps={{ htmlInput: { className: 'figures' } }}
          />
          <Button size="small" type="submit">
            Go
          </Button>
        </form>
        {folder.error ? (
          <ErrorNotice error={folder.error} again={() => void folder.refetch()} />
        ) : (
          folder.data && (
            <ul aria-label="Folders in it">
              {folder.data.folders.map((f) => (
                <li key={f.path}>
                  <button type="button" onClick={() => open(f.path)}>
                    <span>{f.name}</span>
                    {f.root !== null && <span className="soft">in use: {f.root}</span>}
                  </button>
                </li>
              ))}
              {folder.data.folders.length === 0 && (
                <li className="soft">
                  {folder.data.files > 0 ? 'No folders in it, only files.' : 'This folder is empty.'}
                </li>
              )}
            </ul>
          )
        )}
        {folder.data && !folder.error && folder.data.writable && (
          <MakeFolder
            key={folder.data.path}
            at={folder.data.path}
            busy={folder.isPlaceholderData}
            done={open}
          />
        )}
      </div>
    </div>
  );
}

function MakeFolder({ at, busy, done }: { at: string; busy: boolean; done: (path: string) => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState<string | null>(null);
  const make = useMutation({
    mutationFn: (folder: string) => library.newFolder({ path: at, name: folder }),
    onSuccess: async ({ path }) => {
      setName(null);
      await queries.invalidateQueries({ queryKey: ['outside'] });
      done(path);
    },
  });
  if (name === null)
    return (
      <Button size="small" disabled={busy} onClick={() => setName('')} sx={{ justifySelf: 'start' }}>
        New folder here …
      </Button>
    );
  return (
    <form
      onSubmit={(e) => {
        alone(e);
        if (name.trim() !== '') make.mutate(name.trim());
      }}
    >
      <TextField
        size="small"
        label="Name of the new folder"
        value={name}
        onChange={(e) => setName(e.target.value)}
        autoFocus
      />
      <Button size="small" type="submit" disabled={name.trim() === '' || make.isPending}>
        Make it
      </Button>
      <Button size="small" type="button" onClick={() => setName(null)}>
        Cancel
      </Button>
      <ErrorNotice error={make.error} close={make.reset} />
    </form>
  );
}
