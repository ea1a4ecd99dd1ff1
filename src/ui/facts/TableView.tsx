'use client';
import Button from '@mui/material/Button';
import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import type { FactFilter, FactLines, Grouping, Sorting } from '../../core/facts/shapes';
import { formatCount, plural } from '../platform/format';
import { useAddress, useServer } from '../platform/job';
import { useFieldSets } from '../platform/queries';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useSettled } from '../platform/useSettled';
import type { Undoable } from '../shell';
import { handOn } from '../platform/handedOn';
import type { Behind } from './columns';
import { CorrectDialog } from './CorrectDialog';
import { ExtractDialog } from './ExtractDialog';
import { type Chosen, FactGrid, NOTHING } from './FactGrid';
import type { ShownFields } from './FactsScreen';
import styles from './facts.module.css';
import { FieldChooser } from './FieldChooser';
import { GROUPINGS, layoutOf } from './lines';

/** Milliseconds after the last letter until it is looked for. */
const TYPING = 60;

/** What of the job the table has, and in which order. */
export interface Narrowed {
  words: string;
  behind: readonly Behind[];
  by: Grouping;
  sorting: Sorting | null;
}

interface Props {
  card: string | null;
  shown: ShownFields;
  show: (next: ShownFields) => void;
  narrowed: Narrowed;
  narrow: (next: Narrowed) => void;
  chosen: Chosen;
  choose: (chosen: Chosen) => void;
  sideBySide: () => void;
  /** Told of what is said of clips. */
  did: Undoable['did'];
}

/** The table of clips by fields, with what narrows it above and what is done with the chosen below. */
export function TableView(props: Props) {
  const { card, shown, narrowed, narrow, chosen } = props;
  const { by, behind, sorting } = narrowed;
  const server = useServer();
  const words = useSettled(narrowed.words, TYPING);
  const [dialog, setDialog] = useState<Dialog>(null);
  const [said, say] = useState<string | null>(null);
  const filter = useMemo(
    (): FactFilter => ({
      words: words.trim(),
      only: [...(card ? [{ field: 'card' as const, value: card }] : []), ...behind.map((b) => b.only)],
    }),
    [words, card, behind],
  );
  const lines = useQuery({
    queryKey: ['facts', 'lines', filter, by],
    queryFn: () => server.factLines({ ...filter, by }),
    placeholderData: keepPreviousData,
  });
  const layout = useMemo(() => (lines.data ? layoutOf(lines.data, by) : null), [lines.data, by]);
  const asked = useMemo(() => ({ fields: shown.fields, filter, sorting }), [shown.fields, filter, sorting]);
  const choose = (next: Chosen) => {
    props.choose(next);
    say(null);
  };
  if (lines.error)
    return (
      <div className={styles.body}>
        <ErrorNotice error={lines.error} again={() => void lines.refetch()} />
      </div>
    );
  return (
    <>
      <Tools {...props} openFields={() => setDialog('fields')} say={say} />
      {layout?.lines === 0 && (
        <Empty title="No clip matches">
          <Button onClick={() => narrow({ ...narrowed, words: '', behind: [] })}>Show all clips</Button>
        </Empty>
      )}
      {layout && layout.lines > 0 && (
        <FactGrid
          asked={asked}
          layout={layout}
          sort={(s) => narrow({ ...narrowed, sorting: s })}
          chosen={chosen}
          choose={choose}
        />
      )}
      {lines.data && (
        <Foot
          chosen={chosen}
          clips={lines.data.clips}
          said={said}
          open={setDialog}
          sideBySide={props.sideBySide}
        />
      )}
      {lines.data && (
        <Dialogs
          {...props}
          dialog={dialog}
          filter={filter}
          lines={lines.data}
          close={() => setDialog(null)}
        />
      )}
    </>
  );
}

type Dialog = 'fields' | 'extract' | 'correct' | null;

/** What narrows the table and puts it in order. */
function Tools({
  card,
  shown,
  show,
  narrowed,
  narrow,
  openFields,
  say,
}: Props & { openFields: () => void; say: (words: string) => void }) {
  const address = useAddress();
  const router = useRouter();
  const sets = useFieldSets();
  return (
    <div className={styles.tools}>
      <input
        type="search"
        aria-label="Find in the table"
        placeholder="Words in any field"
        value={narrowed.words}
        maxLength={200}
        onChange={(e) => narrow({ ...narrowed, words: e.target.value })}
      />
      <label>
        Fields{' '}
        <select
          aria-label="Field set"
          value={shown.set ?? ''}
          onChange={(e) => {
            const s = sets.data?.find((x) => x.id === e.target.value);
            if (s) show({ fields: [...s.fields], set: s.id });
          }}
        >
          {shown.set === null && <option value="">custom</option>}
          {sets.data?.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
      </label>
      <Button size="small" onClick={openFields}>
        Choose fields …
      </Button>
      <label>
        Grouped by{' '}
        <select
          aria-label="Grouped by"
          value={narrowed.by}
          onChange={(e) => narrow({ ...narrowed, by: e.target.value as Grouping })}
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
      {narrowed.behind.map((b) => (
        <button
          key={b.only.field + b.only.value}
          type="button"
          className={styles.only}
          onClick={() => narrow({ ...narrowed, behind: narrowed.behind.filter((x) => x !== b) })}
        >
          {b.words} ×
        </button>
      ))}
      <span style={{ flex: 1 }} />
      <LookForChanges say={say} />
    </div>
  );
}

function LookForChanges({ say }: { say: (words: string) => void }) {
  const server = useServer();
  const scan = useMutation({
    mutationFn: () => server.scan(null),
    onSuccess: ({ again, same, missing, unseen, offline }) =>
      say(
        [
          again + missing.length === 0
            ? `${plural(same, 'clip')} as they were read`
            : `${plural(again, 'clip')} being read again`,
          ...(missing.length > 0 ? [`${plural(missing.length, 'file')} missing`] : []),
          ...(unseen > 0
            ? [`${plural(unseen, 'clip')} could not be looked at on ${offline.join(' and ')}`]
            : []),
        ].join(', '),
      ),
  });
  return (
    <>
      {scan.error && <ErrorNotice error={scan.error} close={() => scan.reset()} />}
      <Button size="small" disabled={scan.isPending} onClick={() => scan.mutate()}>
        Look for changes
      </Button>
    </>
  );
}

/** What is done with the chosen clips. */
function Foot({
  chosen: { ids },
  clips,
  said,
  open,
  sideBySide,
}: {
  chosen: Chosen;
  clips: number;
  said: string | null;
  open: (dialog: Dialog) => void;
  sideBySide: () => void;
}) {
  const address = useAddress();
  const router = useRouter();
  return (
    <footer className={styles.foot}>
      <strong aria-live="polite">
        {ids.size > 0 ? `${formatCount(ids.size)} of ${formatCount(clips)} chosen` : plural(clips, 'clip')}
      </strong>
      <Button size="small" disabled={ids.size < 2} onClick={sideBySide}>
        Side by side
      </Button>
      <Button size="small" disabled={ids.size === 0} onClick={() => open('correct')}>
        Correct …
      </Button>
      <Button
        size="small"
        disabled={ids.size === 0}
        onClick={() => {
          handOn([...ids]);
          router.push(address('/naming?chosen'));
        }}
      >
        Name …
      </Button>
      <Button
        size="small"
        disabled={ids.size !== 1}
        onClick={() => router.push(address(`/clip/${[...ids][0]!}`))}
      >
        Open clip
      </Button>
      <span className="soft" role="status">
        {said}
      </span>
      {said === null && ids.size === 0 && (
        <span className={`soft ${styles.how}`}>Click a clip; Shift or Ctrl chooses more.</span>
      )}
      <span style={{ flex: 1 }} />
      <Button variant="contained" size="small" onClick={() => open('extract')}>
        Extract …
      </Button>
    </footer>
  );
}

function Dialogs({
  dialog,
  card,
  shown,
  show,
  chosen,
  choose,
  filter,
  lines,
  close,
  did,
}: Props & {
  dialog: Dialog;
  filter: FactFilter;
  lines: FactLines;
  close: () => void;
}) {
  const sets = useFieldSets();
  const { ids } = chosen;
  switch (dialog) {
    case null:
      return null;
    case 'fields':
      return (
        <FieldChooser
          fields={shown.fields}
          sets={sets.data ?? []}
          set={shown.set}
          done={(next, id) => {
            close();
            if (next) show({ fields: next, set: id ?? null });
          }}
        />
      );
    case 'extract':
      return (
        <ExtractDialog
          fields={shown.fields}
          close={() => close()}
          choices={extractChoices(chosen, card, filter, lines)}
        />
      );
    case 'correct':
      return (
        <CorrectDialog
          clips={[...ids]}
          close={(done) => {
            close();
            if (!done) return;
            did(done);
            // Its card may have become another.
            choose({ ...NOTHING, ids });
          }}
        />
      );
  }
}

function extractChoices(
  { ids, last }: Chosen,
  card: string | null,
  filter: FactFilter,
  { clips, of }: FactLines,
): Parameters<typeof ExtractDialog>[0]['choices'] {
  const mine = last && ids.has(last.id) ? last : null;
  const ofCard = mine?.card ?? card;
  return [
    ...(ids.size > 0
      ? [
          {
            from: { kind: 'clips' as const, clips: [...ids] },
            words:
              ids.size > 1 ? `the ${formatCount(ids.size)} chosen clips` : (mine?.name ?? 'the chosen clip'),
          },
        ]
      : []),
    ...(clips < of && clips > 0
      ? [{ from: { kind: 'table' as const, filter }, words: `the ${plural(clips, 'clip')} in the table` }]
      : []),
    ...(ofCard ? [{ from: { kind: 'card' as const, card: ofCard }, words: `card ${ofCard}` }] : []),
    { from: { kind: 'all' as const }, words: `all ${plural(of, 'clip')}` },
  ];
}
