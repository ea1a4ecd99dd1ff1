'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import type { Convention } from '../../core/naming';
import { type FillSource, type Filling, TYPED_FIELDS, type TypedField } from '../../core/naming/fill';
import type { Changed } from '../../core/platform/shapes';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { LIST_FILES, ReadAs, ReadButton, textOf } from '../platform/ReadButton';
import type { Composer } from './composer';
import { Choice, Count } from './SettingInput';
import styles from './naming.module.css';

const FROM: readonly (readonly [FillSource['from'], string])[] = [
  ['list', 'A list: CSV, or copied from a spreadsheet'],
  ['folder', 'The folders clips are in'],
  ['names', 'The names they have, by this convention'],
];

/** Fills what only a person knows from a list, from folders or from names; what will be kept is shown before it is. `close` is told of what was filled. */
export function FillDialog({
  composer,
  convention,
  close,
}: {
  composer: Composer;
  convention: Convention;
  close: (filled: Changed | null) => void;
}) {
  const server = useServer();
  const [from, setFrom] = useState<FillSource['from']>('list');
  const [text, setText] = useState('');
  const [up, setUp] = useState(1);
  const [field, setField] = useState<TypedField>('place');
  const source: FillSource =
    from === 'list' ? { from, text } : from === 'folder' ? { from, up, field } : { from };
  const work = useMutation({ mutationFn: () => composer.fill(source, convention) });
  const keep = useMutation({
    mutationFn: (filling: Filling) => server.say(filling.said),
    onSuccess: close,
  });
  const choose = (next: FillSource['from']) => {
    setFrom(next);
    work.reset();
  };
  const found = work.data;
  return (
    <Dialog open onClose={() => close(null)} maxWidth="sm" fullWidth>
      <DialogTitle sx={{ pb: 0 }}>Fill columns</DialogTitle>
      <DialogContent>
        <div className={styles.fill}>
          {FROM.map(([f, word]) => (
            <label key={f}>
              <input type="radio" name="from" checked={from === f} onChange={() => choose(f)} /> {word}
            </label>
          ))}
          {from === 'list' && (
            <List
              text={text}
              set={(next) => {
                setText(next);
                work.reset();
              }}
            />
          )}
          {from === 'folder' && (
            <div className={styles.settings}>
              <Count label="folders up" value={up} least={1} most={12} set={setUp} />
              <Choice
                label="is the"
                value={field}
                options={TYPED_FIELDS.map((t) => [t.field, t.term] as const)}
                set={setField}
              />
            </div>
          )}
          {found && <Found filling={found} />}
          {(work.error ?? keep.error) ? <ErrorNotice error={work.error ?? keep.error} /> : null}
        </div>
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={() => close(null)}>
          Cancel
        </Button>
        {found && found.said.length > 0 ? (
          <Button variant="contained" disabled={keep.isPending} onClick={() => keep.mutate(found)}>
            Keep {plural(found.said.length, 'value')}
          </Button>
        ) : (
          <Button
            variant="contained"
            disabled={work.isPending || (from === 'list' && text.trim() === '')}
            onClick={() => work.mutate()}
          >
            Look
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}

function List({ text, set }: { text: string; set: (text: string) => void }) {
  const read = useMutation({
    mutationFn: (file: File) => textOf(file, 'give it in parts'),
    onSuccess: (list) => set(list.text),
  });
  return (
    <>
      <textarea
        aria-label="The list"
        rows={7}
        placeholder={`Name, Scene, Place\nT0001.MP4, 12, Weir`}
        value={text}
        onChange={(e) => set(e.target.value)}
      />
      <div className={styles.readList}>
        <ReadButton
          first={false}
          busy={read.isPending}
          label="A file with the list"
          accept={LIST_FILES}
          read={read.mutate}
        />
        {read.data && (
          <span role="status">
            <ReadAs {...read.data} />
          </span>
        )}
      </div>
      <ErrorNotice error={read.error} close={read.reset} />
      <span className="soft">
        The first line names the columns: the clips’ names, then {TYPED_FIELDS.map((t) => t.term).join(', ')}.
      </span>
    </>
  );
}

function Found({ filling: { said, notes } }: { filling: Filling }) {
  const counts = TYPED_FIELDS.map(
    (t) => [t.term, said.filter((s) => s.field === t.field).length] as const,
  ).filter(([, n]) => n > 0);
  return (
    <div role="status">
      <strong>
        {said.length === 0
          ? 'Nothing was found that fits a clip.'
          : `Found for ${plural(new Set(said.map((s) => s.clip)).size, 'clip')}: ${counts.map(([t, n]) => `${t} ${n}`).join(', ')}.`}
      </strong>
      {notes.map((n) => (
        <div key={n} className="soft">
          {n}
        </div>
      ))}
    </div>
  );
}
