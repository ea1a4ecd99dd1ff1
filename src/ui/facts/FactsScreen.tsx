'use client';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import { useRouter, useSearchParams } from 'next/navigation';
import { useCallback, useState } from 'react';
import { FieldId } from '../../core/facts/catalogue';
import { DEFAULT_FIELDS } from '../../core/facts/fieldSets';
import { formatCount } from '../platform/format';
import { handedOn } from '../platform/handedOn';
import { useAddress, useServer } from '../platform/job';
import { keep, kept } from '../platform/kept';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useSuspicions, useUnread } from '../platform/queries';
import { ChartsView } from './ChartsView';
import { ClocksView } from './ClocksView';
import type { Behind } from './columns';
import { type Chosen, NOTHING } from './FactGrid';
import styles from './facts.module.css';
import { type Narrowed, TableView } from './TableView';
import { JustDone, useUndoable } from '../shell';
import { SideBySideView } from './SideBySideView';
import { StatedView } from './StatedView';
import { TrustView } from './TrustView';
import { UnreadView } from './UnreadView';

const VIEWS = {
  table: 'Table',
  side: 'Side by side',
  stated: 'Who states what',
  charts: 'Charts',
  clocks: 'Clocks',
  unread: 'Not read',
  trust: 'Trust',
} as const;
type ViewName = keyof typeof VIEWS;

/** The fields that are shown, and the set they are of. */
export interface ShownFields {
  fields: FieldId[];
  set: string | null;
}

/** What was chosen last on this browser; the fields may have changed since, so they are checked. */
function remembered(): ShownFields {
  if (typeof window === 'undefined') return { fields: [...DEFAULT_FIELDS], set: null };
  try {
    const was = JSON.parse(kept('facts') ?? '{}') as { fields?: unknown[]; set?: unknown };
    const fields = (was.fields ?? []).flatMap((f) => {
      const id = FieldId.safeParse(f);
      return id.success ? [id.data] : [];
    });
    if (fields.length > 0) return { fields, set: typeof was.set === 'string' ? was.set : null };
  } catch {
    /* nothing was kept */
  }
  return { fields: [...DEFAULT_FIELDS], set: 'shipped At a glance' };
}

/** Everything the clips say of themselves, and who said it. */
export function FactsScreen() {
  const address = useAddress();
  const server = useServer();
  const router = useRouter();
  const query = useSearchParams();
  const asked = query.get('view');
  const view: ViewName = asked && asked in VIEWS ? (asked as ViewName) : 'table';
  const card = query.get('card');
  const [fields, setFields] = useState(remembered);
  const [narrowed, narrow] = useState<Narrowed>({ words: '', behind: [], by: 'none', sorting: null });
  const [chosen, choose] = useState<Chosen>(() =>
    query.has('chosen') ? { ids: new Set(handedOn()), last: null } : NOTHING,
  );
  const done = useUndoable(server.undoSaid, null);
  const all = useQuery({
    queryKey: ['facts', 'all'],
    queryFn: () => server.factLines({ words: '', only: [], by: 'none' }),
  });
  // Asked after the table, which the person waits for.
  const suspicions = useSuspicions(all.isSuccess).data?.length ?? 0;
  const unread = useUnread(all.isSuccess).data?.length ?? 0;
  const show = useCallback((next: ShownFields) => {
    setFields(next);
    keep('facts', JSON.stringify(next));
  }, []);
  const go = (to: ViewName) =>
    router.push(
      address(
        to === 'table' ? `/facts${card ? `?card=${encodeURIComponent(card)}` : ''}` : `/facts?view=${to}`,
      ),
    );
  const openBehind = (behind: Behind[]) => {
    narrow({ ...narrowed, words: '', behind });
    go('table');
  };
  if (all.error)
    return (
      <div className={styles.body}>
        <ErrorNotice error={all.error} again={() => void all.refetch()} />
      </div>
    );
  if (!all.data) return null;
  if (all.data.of === 0)
    return (
      <Empty whole title="No clips yet">
        <p className="soft">Bring in footage: what it says of itself stands here a moment later.</p>
        <Button variant="contained" onClick={() => router.push(address('/intake'))}>
          Bring in footage
        </Button>
      </Empty>
    );
  return (
    <div className={styles.screen}>
      <h1 className="visuallyHidden">Facts: {VIEWS[view]}</h1>
      <div className={styles.tabs} role="tablist" aria-label="Facts">
        {(Object.keys(VIEWS) as ViewName[]).map((v) => (
          <button key={v} type="button" role="tab" aria-selected={v === view} onClick={() => go(v)}>
            {VIEWS[v]}
            {v === 'clocks' && suspicions > 0 && <b> ? {suspicions}</b>}
            {v === 'unread' && unread > 0 && <b> {formatCount(unread)}</b>}
            {v === 'side' && chosen.ids.size > 1 && ` (${formatCount(chosen.ids.size)})`}
          </button>
        ))}
      </div>
      {view === 'table' && (
        <TableView
          card={card}
          shown={fields}
          show={show}
          narrowed={narrowed}
          narrow={narrow}
          chosen={chosen}
          choose={choose}
          sideBySide={() => go('side')}
          did={done.did}
        />
      )}
      {view === 'side' && <SideBySideView clips={[...chosen.ids]} />}
      {view === 'stated' && <StatedView />}
      {view === 'charts' && <ChartsView show={openBehind} />}
      {view === 'clocks' && <ClocksView />}
      {view === 'unread' && <UnreadView />}
      {view === 'trust' && <TrustView />}
      {done.error ? <ErrorNotice error={done.error} close={done.forgetError} /> : null}
      <JustDone done={done} />
    </div>
  );
}
