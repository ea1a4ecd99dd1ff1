'use client';
import Breadcrumbs from '@mui/material/Breadcrumbs';
import Link from '@mui/material/Link';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useRouter, useSearchParams } from 'next/navigation';
import { type ReactNode, Suspense, useState, useTransition } from 'react';
import type { CardChoice, Looked } from '../../core/intake/shapes';
import type { NextSteps } from '../../core/next';
import { useAddress, useServer } from '../platform/job';
import { CopyList } from '../offload';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useJob, useOffloads } from '../platform/queries';
import { CardLook } from './CardLook';
import { FolderPicker } from './FolderPicker';
import { Recognised } from './Recognised';
import { Slots } from './Slots';
import { Arrivals } from '../places';
import { NextList, useNext, useWatches, Watched } from '../watch';
import styles from './intake.module.css';

/** Choose a card or folder, see what is in it, copy it or take it in where it is. */
export function Intake() {
  return (
    <Suspense>
      <IntakeScreen />
    </Suspense>
  );
}

type How = 'copy' | 'place';

const folderAddress = (root: string, path: string): string =>
  `/intake?root=${encodeURIComponent(root)}&path=${encodeURIComponent(path)}`;

const NONE: readonly string[] = [];

/** What is in a folder; `byName` is what its names alone tell, until its files were looked into. */
function useLooked({
  root,
  path,
  singles,
  isOn,
  namesFirst,
}: {
  root: string | null;
  path: string;
  singles: readonly string[];
  isOn: boolean;
  namesFirst: boolean;
}) {
  const server = useServer();
  const job = useJob().data;
  const { leaveOut, types, shapes, folders } = job?.intake ?? {};
  const of = [root, path, singles, leaveOut, types, shapes, folders];
  const once = { retry: false, staleTime: 0, gcTime: 0, refetchOnWindowFocus: false };
  const looked = useQuery({
    queryKey: ['look', ...of],
    queryFn: () => server.look(root!, path, singles),
    enabled: isOn && Boolean(job),
    ...once,
  });
  // A large card, or a slow one, is looked into for a while: its pictures are there before.
  const first = useQuery({
    queryKey: ['firstLook', ...of],
    queryFn: () => server.firstLook(root!, path, singles),
    enabled: isOn && namesFirst && Boolean(job) && looked.isPending,
    ...once,
  });
  return { looked, byName: looked.isPending && (first.data?.cards.length ?? 0) > 0 ? first.data! : null };
}

function IntakeScreen() {
  const router = useRouter();
  const address = useAddress();
  const params = useSearchParams();
  const job = useJob().data;
  // The folder is in the address: back, forward and reload keep it.
  const [root, path] = [params.get('root'), params.get('path') ?? ''];
  const looking = params.get('look') === '1' && root !== null;
  // Until the next folder is there, nothing is begun with the one before.
  const [going, startGoing] = useTransition();
  const go = (r: string, p: string, look = false) =>
    startGoing(() => router.push(address(`${folderAddress(r, p)}${look ? '&look=1' : ''}`)));
  // They belong to the folder they were chosen in.
  const [split, setSplit] = useState<{ root: string | null; path: string; singles: readonly string[] }>({
    root,
    path,
    singles: [],
  });
  const singles = split.root === root && split.path === path ? split.singles : NONE;
  const setSingles = (chosen: readonly string[]) => setSplit({ root, path, singles: chosen });
  // Footage in a root that is read only is copied first of all; what is on the shelf already stays where it is.
  const kind = job?.roots.find((r) => r.id === root)?.kind;
  const how: How =
    params.get('how') === 'place'
      ? 'place'
      : params.get('how') === 'copy' || kind === 'source' || kind === 'safe'
        ? 'copy'
        : 'place';
  const { looked, byName } = useLooked({ root, path, singles, isOn: looking, namesFirst: how === 'copy' });
  const choose = (
    <HowChoice
      how={how}
      set={(h) => router.replace(address(`${folderAddress(root!, path)}&look=1&how=${h}`))}
    />
  );
  const waiting = looked.error ? (
    <ErrorNotice error={looked.error} again={() => void looked.refetch()} />
  ) : !looked.data ? (
    <Empty title="Looking …">
      <p className="soft">Reading folders and the first clips of each card.</p>
    </Empty>
  ) : null;
  if (looking && how === 'copy' && (waiting === null ? looked.data!.cards.length > 0 : true)) {
    return (
      <div className={styles.copying}>
        <h1 className="visuallyHidden">What is on the card</h1>
        <Where name={job?.roots.find((r) => r.id === root)?.name} path={path} up={() => go(root, path)}>
          {choose}
        </Where>
        {waiting && !byName ? (
          <div style={{ padding: 20 }}>{waiting}</div>
        ) : (
          <CardLook
            key={`${root}/${path}/${singles.length}`}
            job={job!}
            looked={byName ?? looked.data!}
            singles={singles}
            setSingles={setSingles}
          />
        )}
      </div>
    );
  }
  return (
    <div className={styles.intake}>
      <div className={styles.side}>
        <Slots look={(r, p) => go(r, p, true)} />
        <Arrivals look={(r, p) => go(r, p, true)} />
        <FolderPicker root={root} path={path} go={go} going={going} looking={looking && looked.isFetching} />
      </div>
      <section className={styles.result} aria-label="What was recognised" aria-busy={looked.isFetching}>
        {looking ? (
          <>
            {kind !== 'shelf' && <div style={{ justifySelf: 'end' }}>{choose}</div>}
            {waiting ?? (
              <InPlace
                key={`${root}/${path}`}
                root={root}
                path={path}
                looked={looked.data!}
                before={job!.intake.next}
              />
            )}
          </>
        ) : (
          <Going />
        )}
      </section>
    </div>
  );
}

/** Copying or using in place. */
function HowChoice({ how, set }: { how: How; set: (how: How) => void }) {
  return (
    <ToggleButtonGroup
      size="small"
      exclusive
      value={how}
      onChange={(_, v: How | null) => v && set(v)}
      aria-label="Copy or use in place"
    >
      <ToggleButton value="copy" sx={{ py: 0.25 }}>
        Copy
      </ToggleButton>
      <ToggleButton value="place" sx={{ py: 0.25 }}>
        Use in place
      </ToggleButton>
    </ToggleButtonGroup>
  );
}

/** The folder that is looked into, with the way back `up` to it. */
function Where({
  name,
  path,
  up,
  children,
}: {
  name: string | undefined;
  path: string;
  up: () => void;
  children: ReactNode;
}) {
  return (
    <header className={styles.where}>
      <Breadcrumbs aria-label="Where you are">
        <Link component="button" underline="hover" onClick={up}>
          Intake
        </Link>
        <span>{name}</span>
        {path
          .split('/')
          .filter((p) => p !== '')
          .map((p, i) => (
            <span key={i} className="figures">
              {p}
            </span>
          ))}
      </Breadcrumbs>
      <span style={{ flex: 1 }} />
      {children}
    </header>
  );
}

/** What is being copied, watched and coming next; what to do where there is none of it. */
function Going() {
  const offloads = useOffloads().data ?? [];
  const watched = (useWatches().data ?? []).length > 0;
  const next = useNext().data;
  const coming = next !== undefined && (next.waiting.length > 0 || next.stops > 0);
  if (offloads.length > 0 || watched || coming)
    return (
      <div className={styles.going}>
        <NextList />
        <Watched />
        {offloads.length > 0 && <CopyList />}
      </div>
    );
  return (
    <Empty title="Look before you take in">
      <p className="soft" style={{ maxWidth: 380 }}>
        Plug a card in, or open a folder that holds footage, and look in it. Nothing is stored or copied until
        you confirm, and nothing on the card is ever changed.
      </p>
    </Empty>
  );
}

function InPlace({
  root,
  path,
  looked,
  before,
}: {
  root: string;
  path: string;
  looked: Looked;
  before: NextSteps;
}) {
  const address = useAddress();
  const server = useServer();
  const router = useRouter();
  const queries = useQueryClient();
  const take = useMutation({
    mutationFn: (of: { cards: CardChoice[]; next: NextSteps }) => server.takeIn({ root, path, ...of }),
    onSuccess: async () => {
      await queries.invalidateQueries();
      router.push(address('/'));
    },
  });
  return (
    <Recognised
      looked={looked}
      before={before}
      take={(cards, next) => take.mutate({ cards, next })}
      taking={take.isPending}
      error={take.error}
    />
  );
}
