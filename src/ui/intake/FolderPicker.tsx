'use client';
import Breadcrumbs from '@mui/material/Breadcrumbs';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import TextField from '@mui/material/TextField';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { useIsMutating, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { shownPath } from '../../core/platform/names';
import type { NewRoot } from '../../core/places';
import { library } from '../platform/client';
import { useServer } from '../platform/job';
import { formatBytes, plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { useJob } from '../platform/queries';
import { ExtractDialog } from '../facts';
import { CheckFolder } from './CheckFolder';
import styles from './intake.module.css';

const ADD_ROOT = ['addRoot'];

interface Props {
  root: string | null;
  path: string;
  go: (root: string, path: string, look?: boolean) => void;
  looking: boolean;
}

/** Folders of the server, below the roots: breadcrumb, sizes, what is inside. */
export function FolderPicker({ root, path, go, looking }: Props) {
  const server = useServer();
  const roots = (useJob().data?.roots ?? []).filter(
    (r) => r.kind === 'source' || r.kind === 'shelf' || r.kind === 'safe',
  );
  const at = root ?? roots[0]?.id ?? null;
  const folder = useQuery({
    queryKey: ['folder', at, path],
    queryFn: () => server.folder(at!, path),
    enabled: at !== null,
    retry: false,
    staleTime: 0,
  });
  const [adding, setAdding] = useState(false);
  // Until the new root is there, a look would be taken at the old one, and lost.
  const busy = useIsMutating({ mutationKey: ADD_ROOT }) > 0;
  const [checking, setChecking] = useState(false);
  const [extracting, setExtracting] = useState(false);
  const queries = useQueryClient();
  const remove = useMutation({
    mutationFn: (id: string) => library.removeRoot(id),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['job'] });
      go('shelf', '');
    },
  });
  if (at === null) return null;
  const here = roots.find((r) => r.id === at);
  const parts = path === '' ? [] : path.split('/');
  return (
    <section className={styles.picker} aria-label="Folders">
      <h1>Bring in footage</h1>
      <div style={{ display: 'flex', gap: 8, alignItems: 'center', flexWrap: 'wrap' }}>
        <ToggleButtonGroup size="small" exclusive value={at} aria-label="Root" sx={{ flexWrap: 'wrap' }}>
          {roots.map((r) => (
            <ToggleButton
              key={r.id}
              value={r.id}
              onClick={() => {
                remove.reset();
                go(r.id, '');
              }}
              sx={{ py: 0.25 }}
            >
              {r.name}
              {r.kind === 'source' ? ' (read only)' : r.kind === 'safe' ? ' (safe copies)' : ''}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <Button size="small" onClick={() => setAdding(!adding)} aria-expanded={adding}>
          Add a root …
        </Button>
        <Button size="small" onClick={() => setChecking(true)}>
          Check this folder …
        </Button>
        {here && here.id !== 'shelf' && (
          <Button
            size="small"
            disabled={remove.isPending}
            onClick={() => remove.mutate(here.id)}
            title="Takes it out of this list; nothing in the folder is changed"
          >
            Remove this root
          </Button>
        )}
      </div>
      {extracting && (
        <ExtractDialog
          close={() => setExtracting(false)}
          choices={[
            {
              from: { kind: 'folder', root: at, path },
              words: `the folder ${parts.at(-1) ?? here?.name ?? ''}`,
            },
          ]}
        />
      )}
      <ErrorNotice error={remove.error} />
      {adding && (
        <AddRoot
          done={(id) => {
            setAdding(false);
            if (id !== null) go(id, '');
          }}
        />
      )}
      <Breadcrumbs aria-label="Where you are" sx={{ fontSize: 14 }} maxItems={5}>
        <Link component="button" onClick={() => go(at, '')} underline="hover">
          {here?.name ?? at}
        </Link>
        {parts.map((p, i) => (
          <Link
            key={i}
            component="button"
            underline="hover"
            onClick={() => go(at, parts.slice(0, i + 1).join('/'))}
          >
            {shownPath(p)}
          </Link>
        ))}
      </Breadcrumbs>
      {folder.error ? (
        <ErrorNotice error={folder.error} again={() => void folder.refetch()} />
      ) : (
        folder.data && (
          <>
            <div className={styles.lookHere}>
              <div>
                <strong>{shownPath(parts.at(-1) ?? here?.name ?? '')}</strong>
                <div className="soft">
                  {folder.data.footage === 0
                    ? 'no footage in it'
                    : `${plural(folder.data.footage, 'footage file')} · ${formatBytes(folder.data.bytes)}`}
                </div>
              </div>
              <Button disabled={folder.data.footage === 0} onClick={() => setExtracting(true)}>
                Extract facts …
              </Button>
              <Button
                variant="contained"
                disabled={looking || busy || folder.data.footage === 0}
                onClick={() => go(at, path, true)}
              >
                Look in this folder
              </Button>
            </div>
            <ul className={styles.folders}>
              {folder.data.folders.map((f) => (
                <li key={f.path}>
                  <button type="button" onClick={() => go(at, f.path)}>
                    <span className={styles.name}>{f.name}</span>
                    <span className="soft figures">
                      {f.footage > 0 ? `${f.footage} footage` : 'no footage'}
                      {f.whole ? '' : ' and more'} · {formatBytes(f.bytes)}
                    </span>
                  </button>
                  {f.footage > 0 && (
                    <Button
                      size="small"
                      onClick={() => go(at, f.path, true)}
                      aria-label={`Look in ${f.name}`}
                    >
                      Look
                    </Button>
                  )}
                </li>
              ))}
              {folder.data.folders.length === 0 && (
                <li className="soft" style={{ padding: '10px 4px' }}>
                  {folder.data.samples.length > 0 ? 'No folders below, only files:' : 'This folder is empty.'}
                </li>
              )}
              {folder.data.samples.map((s) => (
                <li key={s} className={`figures soft ${styles.file}`}>
                  {s}
                </li>
              ))}
            </ul>
          </>
        )
      )}
      <CheckFolder
        open={checking}
        close={() => setChecking(false)}
        root={at}
        rootName={here?.name ?? at}
        path={path}
      />
    </section>
  );
}

function AddRoot({ done }: { done: (id: string | null) => void }) {
  const queries = useQueryClient();
  const [path, setPath] = useState('');
  const add = useMutation({
    mutationKey: ADD_ROOT,
    mutationFn: (kind: NewRoot['kind']) => library.addRoot({ kind, path }),
    onSuccess: async ({ id }, kind) => {
      await queries.invalidateQueries({ queryKey: ['job'] });
      // A folder for copies holds nothing to look at yet.
      done(kind === 'safe' ? null : id);
    },
  });
  return (
    <div className={styles.addRoot}>
      <TextField
        label="Full path of a folder on this computer"
        value={path}
        onChange={(e) => setPath(e.target.value)}
        fullWidth
        autoFocus
        slotProps={{ htmlInput: { className: 'figures' } }}
      />
      <div style={{ display: 'flex', gap: 8, flexWrap: 'wrap' }}>
        <Button
          variant="outlined"
          disabled={path === '' || add.isPending}
          onClick={() => add.mutate('source')}
        >
          Only read it
        </Button>
        <Button
          variant="outlined"
          disabled={path === '' || add.isPending}
          onClick={() => add.mutate('shelf')}
        >
          Name and sort in it
        </Button>
        <Button variant="outlined" disabled={path === '' || add.isPending} onClick={() => add.mutate('safe')}>
          Keep safe copies in it
        </Button>
      </div>
      <span className="soft">
        From a folder that is only read, clips are copied to the shelf and the copies named.
      </span>
      <ErrorNotice error={add.error} />
    </div>
  );
}
