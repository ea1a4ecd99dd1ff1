'use client';
import Button from '@mui/material/Button';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useRouter, useSearchParams } from 'next/navigation';
import { useCallback, useDeferredValue, useMemo, useState } from 'react';
import { FieldId } from '../../core/facts/catalogue';
import { FIRST_FIELDS } from '../../core/facts/fieldSets';
import { library } from '../platform/client';
import { useSuspicions } from '../platform/queries';
import { useAddress, useServer } from '../platform/job';
import { formatCount, plural } from '../platform/format';
import { Empty, ErrorNotice } from '../platform/Notice';
import { ChartsView } from './ChartsView';
import { ClocksView } from './ClocksView';
import {
  filterRows,
  type Grouping,
  GROUPINGS,
  haystacks,
  linesOf,
  type Only,
  rowsOf,
  type Sorting,
  sortRows,
} from './columns';
import { CorrectDialog } from './CorrectDialog';
import { ExtractDialog } from './ExtractDialog';
import styles from './facts.module.css';
import { FactGrid } from './FactGrid';
import { FieldChooser } from './FieldChooser';
import { SideBySideView } from './SideBySideView';
import { StatedView } from './StatedView';
import { TrustView } from './TrustView';

const VIEWS = {
  table: 'Table',
  side: 'Side by side',
  stated: 'Who states what',
  charts: 'Charts',
  clocks: 'Clocks',
  trust: 'Trust',
} as const;
type ViewName = keyof typeof VIEWS;

/** Fields that charts and groups need, whatever the person looks at. */
const ALWAYS: readonly FieldId[] = ['codec', 'rate', 'length', 'size', 'recordedAt'];

/** What was chosen last on this browser; the fields may have changed since, so they are checked. */
function remembered(): { fields: FieldId[]; set: string | null } {
  try {
    const kept = JSON.parse(localStorage.getItem('facts') ?? '{}') as { fields?: unknown[]; set?: unknown };
    const fields = (kept.fields ?? []).flatMap((f) => {
      const id = FieldId.safeParse(f);
      return id.success ? [id.data] : [];
    });
    if (fields.length > 0) return { fields, set: typeof kept.set === 'string' ? kept.set : null };
  } catch {
    /* nothing was kept */
  }
  return { fields: [...FIRST_FIELDS], set: 'shipped At a glance' };
}

/** Everything the clips say of themselves, and who said it. */
export function FactsScreen() {
  const address = useAddress();
  const server = useServer();
  const router = useRouter();
  const query = useSearchParams();
  const asked = query.get('view');
  const view: ViewName = asked && asked in VIEWS ? (asked as ViewName) : 'table';
  const [{ fields, set }, setShown] = useState(() =>
    typeof window === 'undefined' ? { fields: [...FIRST_FIELDS], set: null as string | null } : remembered(),
  );
  const [words, setWords] = useState('');
  const typed = useDeferredValue(words);
  const card = query.get('card');
  const [only, setOnly] = useState<Only[]>([]);
  const [grouping, setGrouping] = useState<Grouping>('none');
  const [sorting, setSorting] = useState<Sorting | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [dialog, setDialog] = useState<'fields' | 'extract' | 'correct' | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const wanted = useMemo(() => [...new Set([...fields, ...ALWAYS])], [fields]);
  const table = useQuery({
    queryKey: ['facts', wanted],
    queryFn: () => server.factTable(wanted),
    placeholderData: (old) => old,
  });
  const sets = useQuery({ queryKey: ['fieldSets'], queryFn: library.fieldSets });
  // Asked after the table, which the person waits for.
  const suspicions = useSuspicions(table.isSuccess).data?.length ?? 0;
  const scan = useMutation({
    mutationFn: () => server.scan(null),
    onSuccess: ({ again, same, missing }) =>
      setSaid(
        again + missing.length === 0
          ? `${plural(same, 'clip')} as they were read`
          : `${plural(again, 'clip')} being read again${missing.length > 0 ? `, ${plural(missing.length, 'file')} missing` : ''}`,
      ),
  });

  const rows = useMemo(() => (table.data ? rowsOf(table.data) : []), [table.data]);
  const hay = useMemo(() => (table.data ? haystacks(table.data) : []), [table.data]);
  const filtered = useMemo(
    () =>
      table.data
        ? filterRows(card ? rows.filter((r) => r.card === card) : rows, hay, typed, only, table.data)
        : [],
    [table.data, rows, hay, typed, only, card],
  );
  const sorted = useMemo(
    () => (table.data ? sortRows(filtered, sorting, table.data) : []),
    [filtered, sorting, table.data],
  );
  const lines = useMemo(
    () => (table.data ? linesOf(sorted, grouping, table.data) : []),
    [sorted, grouping, table.data],
  );

  const picked = useMemo(() => rows.filter((r) => chosen.has(r.id)), [rows, chosen]);
  const choose = useCallback((ids: ReadonlySet<string>) => {
    setChosen(ids);
    setSaid(null);
  }, []);

  const show = useCallback((next: FieldId[], name: string | null) => {
    setShown({ fields: next, set: name });
    localStorage.setItem('facts', JSON.stringify({ fields: next, set: name }));
  }, []);
  const go = useCallback(
    (to: ViewName) =>
      router.push(
        address(
          to === 'table' ? `/facts${card ? `?card=${encodeURIComponent(card)}` : ''}` : `/facts?view=${to}`,
        ),
      ),
    [router, address, card],
  );
  const openBehind = useCallback(
    (behind: Only[]) => {
      setOnly(behind);
      setWords('');
      go('table');
    },
    [go],
  );

  if (table.error)
    return (
      <div className={styles.body}>
        <ErrorNotice error={table.error} again={() => void table.refetch()} />
      </div>
    );
  if (!table.data) return null;
  if (rows.length === 0)
    return (
      <Empty title="No clips yet">
        <p className="soft">Bring in footage: what it says of itself stands here a moment later.</p>
        <Button variant="contained" onClick={() => router.push(address('/intake'))}>
          Bring in footage
        </Button>
      </Empty>
    );
  const first = picked[0];
  return (
    <div className={styles.screen}>
      <div className={styles.tabs} role="tablist" aria-label="Facts">
        {(Object.keys(VIEWS) as ViewName[]).map((v) => (
          <button key={v} type="button" role="tab" aria-selected={v === view} onClick={() => go(v)}>
            {VIEWS[v]}
            {v === 'clocks' && suspicions > 0 && <b> ? {suspicions}</b>}
            {v === 'side' && picked.length > 1 && ` (${picked.length})`}
          </button>
        ))}
      </div>
      {view === 'table' && (
        <>
          <div className={styles.tools}>
            <input
              type="search"
              aria-label="Find in the table"
              placeholder="Words in the table"
              value={words}
              onChange={(e) => setWords(e.target.value)}
            />
            <label>
              Fields{' '}
              <select
                aria-label="Field set"
                value={set ?? ''}
                onChange={(e) => {
                  const s = sets.data?.find((x) => x.id === e.target.value);
                  if (s) show([...s.fields], s.id);
                }}
              >
                {set === null && <option value="">own choice</option>}
                {sets.data?.map((s) => (
                  <option key={s.id} value={s.id}>
                    {s.name}
                  </option>
                ))}
              </select>
            </label>
            <Button size="small" onClick={() => setDialog('fields')}>
              Choose fields …
            </Button>
            <label>
              Grouped by{' '}
              <select
                aria-label="Grouped by"
                value={grouping}
                onChange={(e) => setGrouping(e.target.value as Grouping)}
              >
                {Object.entries(GROUPINGS).map(([k, w]) => (
                  <option key={k} value={k}>
                    {w}
                  </option>
                ))}
              </select>
            </label>
            {card && (
              <button type="button" className={styles.only} onClick={() => router.push(address('/facts'))}>
                card {card} ×
              </button>
            )}
            {only.map((o) => (
              <button
                key={o.field + o.value}
                type="button"
                className={styles.only}
                onClick={() => setOnly(only.filter((x) => x !== o))}
              >
                {o.words} ×
              </button>
            ))}
            <span style={{ flex: 1 }} />
            <Button size="small" disabled={scan.isPending} onClick={() => scan.mutate()}>
              Look for changes
            </Button>
          </div>
          {lines.length === 0 ? (
            <Empty title="No clip has all these words">
              <Button
                onClick={() => {
                  setWords('');
                  setOnly([]);
                }}
              >
                Show all clips
              </Button>
            </Empty>
          ) : (
            <FactGrid
              table={table.data}
              fields={fields}
              lines={lines}
              sorting={sorting}
              sort={setSorting}
              chosen={chosen}
              choose={choose}
            />
          )}
          <footer className={styles.foot}>
            <strong aria-live="polite">
              {picked.length > 0
                ? `${formatCount(picked.length)} of ${formatCount(filtered.length)} chosen`
                : plural(filtered.length, 'clip')}
            </strong>
            <Button size="small" disabled={picked.length < 2} onClick={() => go('side')}>
              Side by side
            </Button>
            <Button size="small" disabled={picked.length === 0} onClick={() => setDialog('correct')}>
              Correct …
            </Button>
            <Button
              size="small"
              disabled={!first || picked.length !== 1}
              onClick={() => router.push(address(`/clip/${first!.id}`))}
            >
              Open clip
            </Button>
            <span className="soft" role="status">
              {said ?? (picked.length === 0 ? 'Click a clip; Shift or Ctrl chooses more.' : '')}
            </span>
            <span style={{ flex: 1 }} />
            <Button variant="contained" size="small" onClick={() => setDialog('extract')}>
              Extract …
            </Button>
          </footer>
          {scan.error && (
            <div style={{ padding: '0 20px 10px' }}>
              <ErrorNotice error={scan.error} close={() => scan.reset()} />
            </div>
          )}
        </>
      )}
      {view === 'side' && <SideBySideView clips={picked.map((p) => p.id)} />}
      {view === 'stated' && <StatedView />}
      {view === 'charts' && <ChartsView table={table.data} show={openBehind} />}
      {view === 'clocks' && <ClocksView />}
      {view === 'trust' && <TrustView />}
      {dialog === 'fields' && (
        <FieldChooser
          fields={fields}
          sets={sets.data ?? []}
          set={set}
          done={(next, id) => {
            setDialog(null);
            if (next) show(next, id ?? null);
          }}
        />
      )}
      {dialog === 'extract' && (
        <ExtractDialog
          fields={fields}
          close={() => setDialog(null)}
          choices={[
            ...(picked.length > 0
              ? [
                  {
                    from: { kind: 'clips' as const, clips: picked.map((p) => p.id) },
                    words: picked.length === 1 ? first!.name : `the ${picked.length} chosen clips`,
                  },
                ]
              : []),
            ...(filtered.length < rows.length && filtered.length > 0
              ? [
                  {
                    from: { kind: 'clips' as const, clips: filtered.map((p) => p.id) },
                    words: `the ${plural(filtered.length, 'clip')} in the table`,
                  },
                ]
              : []),
            ...(first
              ? [{ from: { kind: 'card' as const, card: first.card }, words: `card ${first.card}` }]
              : card
                ? [{ from: { kind: 'card' as const, card }, words: `card ${card}` }]
                : []),
            { from: { kind: 'all' as const }, words: `all ${plural(rows.length, 'clip')}` },
          ]}
        />
      )}
      {dialog === 'correct' && (
        <CorrectDialog
          clips={picked.map((p) => p.id)}
          card={first ? { id: first.card, camera: first.camera, day: first.day } : null}
          close={(s) => {
            setDialog(null);
            if (s) setSaid(s);
          }}
        />
      )}
    </div>
  );
}
