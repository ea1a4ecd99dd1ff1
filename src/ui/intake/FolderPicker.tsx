'use client';
import Breadcrumbs from '@mui/material/Breadcrumbs';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { useQuery } from '@tanstack/react-query';
import NextLink from '../platform/Link';
import { useState } from 'react';
import type { FolderView } from '../../core/intake/shapes';
import type { RootView } from '../../core/places';
import { shownPath } from '../../core/platform/names';
import { useAddress, useServer } from '../platform/job';
import { formatBytes, plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { useJob } from '../platform/queries';
import { ExtractDialog } from '../facts';
import { AddPlace } from '../places';
import { WatchThis } from '../watch';
import { CheckFolder } from './CheckFolder';
import styles from './intake.module.css';

interface Props {
  root: string | null;
  path: string;
  go: (root: string, path: string, look?: boolean) => void;
  /** Whether another folder is about to be open. */
  going: boolean;
  looking: boolean;
}

/** Folders of the server, below the roots: breadcrumb, sizes, what is inside. */
export function FolderPicker({ root, path, go, going, looking }: Props) {
  const server = useServer();
  const address = useAddress();
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
  const [checking, setChecking] = useState(false);
  const [extracting, setExtracting] = useState(false);
  if (at === null) return null;
  const here = roots.find((r) => r.id === at);
  const parts = path === '' ? [] : path.split('/');
  return (
    <section className={styles.picker} aria-label="Folders">
      <h1>Bring in footage</h1>
      <div style={{ display: 'flex', gap: 8, alignItems: 'center', flexWrap: 'wrap' }}>
        <Roots roots={roots} at={at} go={(r) => go(r, '')} />
        <Button size="small" onClick={() => setAdding(true)}>
          Add a place …
        </Button>
        <Button size="small" disabled={going} onClick={() => setChecking(true)}>
          Check this folder …
        </Button>
        {here && here.kind !== 'safe' && (
          <WatchThis disabled={going} root={at} path={path} name={shownPath(parts.at(-1) ?? here.name)} />
        )}
        <Link component={NextLink} href={address('/places')} underline="hover" sx={{ fontSize: 13 }}>
          All places
        </Link>
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
      {adding && (
        <AddPlace
          done={(id, kind) => {
            setAdding(false);
            // A folder for copies holds nothing to look at yet.
            if (id !== null && kind !== 'safe') go(id, '');
          }}
        />
      )}
      <Crumbs {...{ at, path }} name={here?.name ?? at} go={go} />
      {folder.error ? (
        <ErrorNotice error={folder.error} again={() => void folder.refetch()} />
      ) : (
        folder.data && (
          <>
            <LookHere
              name={shownPath(parts.at(-1) ?? here?.name ?? '')}
              folder={folder.data}
              isBusy={going}
              isLooking={looking}
              extract={() => setExtracting(true)}
              look={() => go(at, path, true)}
            />
            <Below folder={folder.data} go={(p, look) => go(at, p, look)} />
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

function Roots({ roots, at, go }: { roots: readonly RootView[]; at: string; go: (root: string) => void }) {
  return (
    <ToggleButtonGroup size="small" exclusive value={at} aria-label="Place" sx={{ flexWrap: 'wrap' }}>
      {roots.map((r) => (
        <ToggleButton key={r.id} value={r.id} onClick={() => go(r.id)} sx={{ py: 0.25 }}>
          {r.name}
          {r.kind === 'source' ? ' (read only)' : r.kind === 'safe' ? ' (safe copies)' : ''}
        </ToggleButton>
      ))}
    </ToggleButtonGroup>
  );
}

/** The folder that is open, and those around it. */
function Crumbs({
  at,
  path,
  name,
  go,
}: {
  at: string;
  path: string;
  name: string;
  go: (root: string, path: string) => void;
}) {
  const parts = path === '' ? [] : path.split('/');
  return (
    <Breadcrumbs aria-label="Where you are" sx={{ fontSize: 14 }} maxItems={5}>
      <Link component="button" onClick={() => go(at, '')} underline="hover">
        {name}
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
  );
}

function LookHere({
  name,
  folder,
  isBusy,
  isLooking,
  extract,
  look,
}: {
  name: string;
  folder: FolderView;
  isBusy: boolean;
  isLooking: boolean;
  extract: () => void;
  look: () => void;
}) {
  return (
    <div className={styles.lookHere}>
      <div>
        <strong>{name}</strong>
        <div className="soft">
          {folder.footage === 0
            ? 'no footage in it'
            : `${plural(folder.footage, 'footage file')} · ${formatBytes(folder.bytes)}`}
        </div>
      </div>
      <Button disabled={isBusy || folder.footage === 0} onClick={extract}>
        Extract facts …
      </Button>
      <Button variant="contained" disabled={isBusy || isLooking || folder.footage === 0} onClick={look}>
        Look in this folder
      </Button>
    </div>
  );
}

/** What is in a folder. */
function Below({ folder, go }: { folder: FolderView; go: (path: string, look?: boolean) => void }) {
  return (
    <ul className={styles.folders}>
      {folder.folders.map((f) => (
        <li key={f.path}>
          <button type="button" onClick={() => go(f.path)}>
            <span className={styles.name}>{f.name}</span>
            <span className="soft figures">
              {f.footage > 0 ? `${f.footage} footage` : 'no footage'}
              {f.whole ? '' : ' and more'} · {formatBytes(f.bytes)}
            </span>
          </button>
          {f.footage > 0 && (
            <Button size="small" onClick={() => go(f.path, true)} aria-label={`Look in ${f.name}`}>
              Look
            </Button>
          )}
        </li>
      ))}
      {folder.folders.length === 0 && (
        <li className="soft" style={{ padding: '10px 4px' }}>
          {folder.samples.length > 0 ? 'No folders below, only files:' : 'This folder is empty.'}
        </li>
      )}
      {folder.samples.map((s) => (
        <li key={s} className={`figures soft ${styles.file}`}>
          {s}
        </li>
      ))}
    </ul>
  );
}
