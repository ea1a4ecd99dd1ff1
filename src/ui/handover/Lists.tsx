'use client';
import Button from '@mui/material/Button';
import { useMutation, useQuery } from '@tanstack/react-query';
import { type ReactNode, useState } from 'react';
import { LIST_FIELD_WORDS, ListField, type ListIn, type ListTaken, type ListView } from '../../core/handover';
import { formatCount, plural } from '../platform/format';
import { useServer } from '../platform/job';
import { Empty, ErrorNotice } from '../platform/Notice';
import { LIST_FILES, ReadAs, ReadButton, type TextFile, textOf } from '../platform/ReadButton';
import { DropScreen } from './DropScreen';
import styles from './handover.module.css';

interface Chosen extends TextFile {
  /** As the head says, until somebody says otherwise. */
  columns: ListIn['columns'];
}

/** Lists of others: what they say of clips is matched, shown, and taken in when that is asked for. */
export function Lists() {
  const server = useServer();
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const view = useQuery({
    queryKey: ['list', chosen?.text, chosen?.columns],
    queryFn: () => server.listView({ text: chosen!.text, columns: chosen!.columns }),
    enabled: chosen !== null,
    placeholderData: (last) => last,
  });
  const read = useMutation({
    mutationFn: async (file: File) => ({ ...(await textOf(file, 'give it in parts')), columns: null }),
    onSuccess: (next) => {
      take.reset();
      setChosen(next);
    },
  });
  const take = useMutation({
    mutationFn: () => server.takeList({ text: chosen!.text, columns: chosen!.columns }),
  });
  return (
    <DropScreen read={read.mutate}>
      <section className={styles.panel} aria-label="A list">
        <header className={styles.bar}>
          <h1>A list</h1>
          <ReadButton
            first={chosen === null}
            busy={read.isPending}
            label="A list as CSV"
            accept={LIST_FILES}
            read={read.mutate}
          />
        </header>
        <ErrorNotice error={read.error ?? view.error} close={read.error ? read.reset : undefined} />
        {chosen === null ? (
          <p className={styles.none}>
            Keywords, notes, scenes and takes from a spreadsheet, saved as CSV. The first line names the
            columns; each line after it names its clip, or a timecode in it. Nothing is taken in before you
            have seen which clips are meant.
          </p>
        ) : (
          <p className={styles.none}>
            <ReadAs {...chosen} />
          </p>
        )}
        {chosen && view.data && !view.error && (
          <Columns
            view={view.data}
            set={(columns) => {
              take.reset();
              setChosen({ ...chosen, columns });
            }}
          />
        )}
      </section>
      {chosen === null || !view.data || view.error ? (
        <section className={styles.panel} aria-label="No list is open">
          <Empty title="No list is open">Read one at the left, or drop it here.</Empty>
        </section>
      ) : (
        <Found view={view.data} ready={!view.isPlaceholderData}>
          {take.isSuccess ? (
            <Taken key={take.submittedAt} taken={take.data} />
          ) : (
            <Button
              variant="contained"
              disabled={view.isPlaceholderData || view.data.found === 0 || take.isPending}
              onClick={() => take.mutate()}
            >
              {take.isPending ? 'Taking it in …' : `Take in ${plural(view.data.found, 'line')}`}
            </Button>
          )}
          <ErrorNotice error={take.error} close={take.reset} />
        </Found>
      )}
    </DropScreen>
  );
}

/** What of a list means a clip, and what does not. */
function Found({ view, ready, children }: { view: ListView; ready: boolean; children: ReactNode }) {
  return (
    <section className={styles.panel} aria-label="What the list says" aria-busy={!ready}>
      <header className={styles.bar}>
        <h2>
          {plural(view.found, 'line')} for {plural(view.clips, 'clip')}
          {view.lost > 0 && `; ${formatCount(view.lost)} ${view.lost === 1 ? 'means' : 'mean'} no clip`}
        </h2>
        {children}
      </header>
      {!view.columns.includes('name') && !view.columns.includes('from') && (
        <p className={styles.none}>
          No column is known to name the clips: say at the left which one does, or which has their timecode.
        </p>
      )}
      <Lines view={view} />
    </section>
  );
}

/** What was taken, with the way back of what has one. */
function Taken({ taken: { text, undo, said, undoSaid } }: { taken: ListTaken }) {
  const server = useServer();
  const back = useMutation({
    mutationFn: async () => [
      ...(undo === null ? [] : [(await server.undoChoice(undo)).text]),
      ...(undoSaid === null ? [] : [(await server.undoSaid(undoSaid)).text]),
    ],
  });
  return (
    <span role="status" className={styles.taken}>
      {(back.data ?? [text, said > 0 ? `Scenes, takes or notes of ${plural(said, 'clip')} said` : ''])
        .filter(Boolean)
        .join('. ')}
      {(undo ?? undoSaid) !== null && !back.isSuccess && (
        <Button size="small" disabled={back.isPending} onClick={() => back.mutate()}>
          Undo
        </Button>
      )}
      <ErrorNotice error={back.error} close={back.reset} />
    </span>
  );
}

/** What each column holds, which may be said by hand. */
const Columns = ({ view, set }: { view: ListView; set: (columns: ListView['columns']) => void }) => (
  <ul className={styles.columns} aria-label="What the columns hold">
    {view.head.map((head, i) => (
      <li key={i}>
        <label htmlFor={`column-${i}`}>{head || `column ${i + 1}`}</label>
        <select
          id={`column-${i}`}
          value={view.columns[i] ?? ''}
          onChange={(e) => {
            const field = e.target.value === '' ? null : ListField.parse(e.target.value);
            // One column each.
            set(view.columns.map((c, k) => (k === i ? field : c === field ? null : c)));
          }}
        >
          <option value="">not used</option>
          {ListField.options.map((f) => (
            <option key={f} value={f}>
              {LIST_FIELD_WORDS[f]}
            </option>
          ))}
        </select>
      </li>
    ))}
  </ul>
);

const Lines = ({ view }: { view: ListView }) => (
  <div className={styles.lines}>
    <table aria-label="Lines of the list">
      <thead>
        <tr>
          <th scope="col">Line</th>
          <th scope="col">Clip</th>
          <th scope="col">What it gives</th>
        </tr>
      </thead>
      <tbody>
        {view.lines.map((l) => (
          <tr key={l.line}>
            <th scope="row">
              <span className="soft figures">{l.line}</span> <span className="figures">{l.said}</span>
            </th>
            <td>
              {l.clip === null ? (
                <span className={styles.lost}>{`✕ ${l.why ?? ''}`}</span>
              ) : (
                <span className="figures">{l.clip}</span>
              )}
            </td>
            <td>
              {wordsOf(l.given)}
              {l.replaces.length > 0 && (
                <small className={styles.replaced}>! in place of {l.replaces.join(', ')}</small>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
    {view.found + view.lost > view.lines.length && (
      <p className="soft">{`and ${formatCount(view.found + view.lost - view.lines.length)} more lines`}</p>
    )}
  </div>
);

const wordsOf = ({
  range,
  keywords,
  note,
  scene,
  take,
  circled,
}: ListView['lines'][number]['given']): string =>
  [
    ...(scene ? [`scene ${scene}`] : []),
    ...(take ? [`take ${take}`] : []),
    ...(circled === null ? [] : [circled ? 'circled' : 'not circled']),
    ...(range
      ? [
          `${range.kind}, ${range.to - range.from === 1 ? `frame ${range.from + 1}` : `frames ${range.from + 1} to ${range.to}`}${range.name || range.note ? `: ${[range.name, range.note].filter(Boolean).join(', ')}` : ''}`,
        ]
      : []),
    ...keywords.map((k) => `“${k}”`),
    ...(note ? [note] : []),
  ].join(' · ') || 'nothing';
