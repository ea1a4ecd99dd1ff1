'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import {
  FieldGroup,
  type FieldId,
  fieldOf,
  FIELDS,
  GROUP_WORDS,
  SOURCE_WORDS,
} from '../../core/facts/catalogue';
import { FieldSetFile } from '../../core/facts/fieldSets';
import type { FieldSetsView } from '../../core/facts/shapes';
import { library } from '../platform/client';
import { plural } from '../platform/format';
import { JsonFile, readShaped } from '../platform/JsonFile';
import { ErrorNotice } from '../platform/Notice';
import styles from './facts.module.css';

interface Props {
  fields: readonly FieldId[];
  sets: FieldSetsView;
  set: string | null;
  done: (fields: FieldId[] | null, set?: string) => void;
}

/** Fields by group or one by one, in the order of their columns; kept under a name, exported and imported. */
export function FieldChooser({ fields, sets, set, done }: Props) {
  const [picked, setPicked] = useState<FieldId[]>([...fields]);
  const own = sets.find((s) => s.id === set && !s.shipped);
  const toggle = (ids: readonly FieldId[], on: boolean) =>
    setPicked((old) => (on ? [...new Set([...old, ...ids])] : old.filter((f) => !ids.includes(f))));
  const move = (at: number, by: number) =>
    setPicked((old) => {
      const next = [...old];
      const [one] = next.splice(at, 1);
      next.splice(Math.max(0, Math.min(old.length, at + by)), 0, one!);
      return next;
    });
  return (
    <Dialog open onClose={() => done(null)} maxWidth="lg" fullWidth>
      <DialogTitle sx={{ pb: 1 }}>Choose fields</DialogTitle>
      <DialogContent>
        <div className={styles.chooser}>
          <Groups picked={picked} toggle={toggle} />
          <div className={styles.order}>
            <strong>{plural(picked.length, 'column')}, in this order</strong>
            <Columns picked={picked} move={move} leaveOut={(f) => toggle([f], false)} />
            <SetOf {...{ picked, setPicked, own, done }} />
          </div>
        </div>
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={() => done(null)}>
          Cancel
        </Button>
        <Button variant="contained" disabled={picked.length === 0} onClick={() => done(picked)}>
          Show these fields
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function Groups({
  picked,
  toggle,
}: {
  picked: readonly FieldId[];
  toggle: (ids: readonly FieldId[], on: boolean) => void;
}) {
  return (
    <div className={styles.groups}>
      {FieldGroup.options.map((group) => {
        const mine = FIELDS.filter((f) => f.group === group).map((f) => f.id);
        const n = mine.filter((f) => picked.includes(f)).length;
        return (
          <section key={group}>
            <h3>
              <label>
                <input
                  type="checkbox"
                  checked={n === mine.length}
                  ref={(el) => {
                    if (el) el.indeterminate = n > 0 && n < mine.length;
                  }}
                  onChange={(e) => toggle(mine, e.target.checked)}
                />
                {GROUP_WORDS[group]}
              </label>
            </h3>
            {mine.map((f) => (
              <label
                key={f}
                title={`${fieldOf(f).meaning} Stated by: ${fieldOf(f)
                  .trust.map((s) => SOURCE_WORDS[s])
                  .join(', ')}.`}
              >
                <input
                  type="checkbox"
                  checked={picked.includes(f)}
                  onChange={(e) => toggle([f], e.target.checked)}
                />
                {fieldOf(f).term}
                {fieldOf(f).unit && <span className="soft">{fieldOf(f).unit}</span>}
              </label>
            ))}
          </section>
        );
      })}
    </div>
  );
}

function Columns({
  picked,
  move,
  leaveOut,
}: {
  picked: readonly FieldId[];
  move: (at: number, by: number) => void;
  leaveOut: (field: FieldId) => void;
}) {
  return (
    <ol>
      {picked.map((f, i) => (
        <li key={f}>
          <span>{fieldOf(f).term}</span>
          <button
            type="button"
            aria-label={`${fieldOf(f).term} earlier`}
            disabled={i === 0}
            onClick={() => move(i, -1)}
          >
            ↑
          </button>
          <button
            type="button"
            aria-label={`${fieldOf(f).term} later`}
            disabled={i === picked.length - 1}
            onClick={() => move(i, 1)}
          >
            ↓
          </button>
          <button type="button" aria-label={`leave out ${fieldOf(f).term}`} onClick={() => leaveOut(f)}>
            ×
          </button>
        </li>
      ))}
    </ol>
  );
}

/** What is picked as a set: kept under a name, exported, imported, and forgotten where it is one's own. */
function SetOf({
  picked,
  setPicked,
  own,
  done,
}: {
  picked: FieldId[];
  setPicked: (fields: FieldId[]) => void;
  own: FieldSetsView[number] | undefined;
  done: Props['done'];
}) {
  const queries = useQueryClient();
  const [name, setName] = useState(own?.name ?? '');
  const [said, setSaid] = useState<string | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const act = useMutation({
    mutationFn: async (work: () => Promise<void>) => {
      await work();
      await queries.invalidateQueries({ queryKey: ['fieldSets'] });
    },
  });
  const save = () =>
    act.mutate(async () => {
      const { id } = await library.saveFieldSet({ name, fields: picked });
      done(picked, id);
    });
  const download = () => {
    const body = { kind: 'sort-shelf field sets', sets: [{ name: name.trim() || 'Fields', fields: picked }] };
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([JSON.stringify(body, null, 1)], { type: 'application/json' }));
    link.download = `${name.trim() || 'Fields'}.json`;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  const upload = (chosen: File) =>
    act.mutate(async () => {
      const file = await readShaped(chosen, FieldSetFile, 'field sets');
      const { added } = await library.importFieldSets(file);
      setPicked([...file.sets[0]!.fields]);
      setName(file.sets[0]!.name);
      setSaid(`${plural(added, 'field set')} imported`);
    });
  return (
    <>
      <div style={{ display: 'flex', gap: 6, alignItems: 'center', marginTop: 10 }}>
        <TextField label="Name of the set" value={name} onChange={(e) => setName(e.target.value)} fullWidth />
        <Button disabled={name.trim() === '' || picked.length === 0 || act.isPending} onClick={save}>
          Save
        </Button>
      </div>
      <div style={{ marginTop: 6 }}>
        <Button size="small" disabled={picked.length === 0} onClick={download}>
          Export …
        </Button>
        <Button size="small" onClick={() => file.current?.click()}>
          Import …
        </Button>
        {own && (
          <Button
            size="small"
            color="inherit"
            onClick={() =>
              act.mutate(async () => {
                await library.dropFieldSet(own.id);
                done(picked);
              })
            }
          >
            Forget “{own.name}”
          </Button>
        )}
        <JsonFile ref={file} label="Field sets" read={upload} />
      </div>
      <div className="soft" role="status">
        {said}
      </div>
      <ErrorNotice error={act.error} close={() => act.reset()} />
    </>
  );
}
