'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import type { FieldId } from '../../core/facts/catalogue';
import type { Extracted, Extraction } from '../../core/facts/shapes';
import { useServer } from '../platform/job';
import { plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { useFieldSets } from '../platform/queries';
import { Tag } from '../platform/Tag';
import styles from './facts.module.css';

interface Choice {
  from: Extraction['from'];
  words: string;
}
/** What is asked for. */
interface Extract {
  /** Which of the choices. */
  from: number;
  /** 'all', 'shown', or the id of a field set. */
  fields: string;
  formats: ('csv' | 'json')[];
  looks: boolean;
}
interface Props {
  choices: readonly Choice[];
  fields?: readonly FieldId[];
  close: () => void;
}

/** Facts of a selection, a card, the job or any folder, as CSV and JSON in the handover folder. */
export function ExtractDialog({ choices, fields, close }: Props) {
  const server = useServer();
  const sets = useFieldSets();
  const [wanted, setWanted] = useState<Extract>({
    from: 0,
    fields: fields ? 'shown' : 'all',
    formats: ['csv', 'json'],
    looks: true,
  });
  const act = useMutation({
    mutationFn: () =>
      server.extract({
        ...wanted,
        from: choices[wanted.from]!.from,
        fields:
          wanted.fields === 'all'
            ? null
            : wanted.fields === 'shown'
              ? [...fields!]
              : (sets.data?.find((s) => s.id === wanted.fields)?.fields ?? null),
      }),
  });
  const result = act.data;
  return (
    <Dialog open onClose={close} maxWidth="sm" fullWidth>
      <DialogTitle sx={{ pb: 0 }}>Extract facts</DialogTitle>
      <DialogContent>
        {result ? (
          <Done result={result} />
        ) : (
          <div className={styles.form}>
            <Wanted choices={choices} shown={fields?.length ?? null} wanted={wanted} set={setWanted} />
            <ErrorNotice error={act.error} close={() => act.reset()} />
          </div>
        )}
      </DialogContent>
      <DialogActions>
        {!result && (
          <Button color="inherit" onClick={close}>
            Cancel
          </Button>
        )}
        {result ? (
          <Button variant="contained" onClick={close}>
            Close
          </Button>
        ) : (
          <Button
            variant="contained"
            disabled={wanted.formats.length === 0 || act.isPending}
            onClick={() => act.mutate()}
          >
            {act.isPending ? 'Reading …' : 'Extract'}
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}

/** `shown` is how many fields the table has; null where there is none. */
function Wanted({
  choices,
  shown,
  wanted,
  set,
}: {
  choices: readonly Choice[];
  shown: number | null;
  wanted: Extract;
  set: (wanted: Extract) => void;
}) {
  const sets = useFieldSets();
  const put = (changed: Partial<Extract>) => set({ ...wanted, ...changed });
  return (
    <>
      <fieldset>
        <legend>Of</legend>
        {choices.map((c, i) => (
          <label key={c.words}>
            <input type="radio" name="of" checked={wanted.from === i} onChange={() => put({ from: i })} />
            {c.words}
          </label>
        ))}
      </fieldset>
      <fieldset>
        <legend>Fields</legend>
        <select aria-label="Fields" value={wanted.fields} onChange={(e) => put({ fields: e.target.value })}>
          {shown !== null && <option value="shown">the {shown} in the table</option>}
          <option value="all">all stated fields</option>
          {sets.data?.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name} ({s.fields.length})
            </option>
          ))}
        </select>
      </fieldset>
      <fieldset>
        <legend>As</legend>
        {(['csv', 'json'] as const).map((f) => (
          <label key={f}>
            <input
              type="checkbox"
              checked={wanted.formats.includes(f)}
              onChange={(e) =>
                put({
                  formats: e.target.checked ? [...wanted.formats, f] : wanted.formats.filter((x) => x !== f),
                })
              }
            />
            {f === 'csv' ? 'CSV, for a spreadsheet' : 'JSON, with every source'}
          </label>
        ))}
      </fieldset>
      <label>
        <input type="checkbox" checked={wanted.looks} onChange={(e) => put({ looks: e.target.checked })} />
        Look files beside it, named after their clips
      </label>
    </>
  );
}

function Done({ result }: { result: Extracted }) {
  return (
    <div className={styles.form}>
      <div>
        <Tag tone="proven">done</Tag> {plural(result.clips, 'clip')} written to
      </div>
      <div className="figures" style={{ overflowWrap: 'anywhere', fontSize: 13 }}>
        {result.place}
      </div>
      <div className="soft">
        {result.files.slice(0, 8).join(', ')}
        {result.files.length > 8 && ` and ${plural(result.files.length - 8, 'more file')}`}
      </div>
      {result.faults.length > 0 && (
        <div>
          <Tag tone="look">{plural(result.faults.length, 'file')} not read</Tag>
          <ul style={{ margin: '6px 0 0', paddingLeft: 18, fontSize: 13 }}>
            {result.faults.slice(0, 12).map((f, i) => (
              <li key={i}>
                <strong>{f.name}</strong>: {f.why}
              </li>
            ))}
          </ul>
        </div>
      )}
      {result.one && (
        <table className={styles.sheet} aria-label="Result">
          <tbody>
            {result.one.map((r) => (
              <tr key={r.term}>
                <th>{r.term}</th>
                <td className="figures">{r.value}</td>
                <td className="soft">{r.source}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
