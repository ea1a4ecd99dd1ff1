'use client';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import {
  FOLDER_WORDS,
  folderFault,
  Form,
  FormFile,
  type FormsView,
  imagesIn,
  List,
  LIST_WORDS,
  Media,
  MEDIA_WORDS,
  NAME_PATTERN_WORDS,
  NAME_WORDS,
  namesFault,
  USED_AS_WORDS,
} from '../../../core/handover';
import { PATTERN_WORDS } from '../../../core/offload';
import { library } from '../../platform/client';
import { plural } from '../../platform/format';
import { ImportButton, savedAs, readShaped } from '../../platform/JsonFile';
import { ErrorNotice } from '../../platform/Notice';
import styles from './packages.module.css';

/** The forms of the library: looked at, changed, kept, removed, and exchanged as JSON files. `close` is told which is open. */
export function FormsDialog({ start, close }: { start: Form; close: (name: string) => void }) {
  const list = useQuery({ queryKey: ['forms'], queryFn: library.forms }).data ?? [];
  const [form, setForm] = useState(start);
  const [justKept, setJustKept] = useState<string | null>(null);
  const { act, said, setSaid } = useActing();
  const kept = list.find((k) => k.form.name.toLowerCase() === form.name.trim().toLowerCase());
  const now = JSON.stringify(form);
  // The list may be drawn anew a moment after it was said to be kept.
  const changed = now !== justKept && (!kept || JSON.stringify(kept.form) !== now);
  const parsed = Form.safeParse(form);
  const faults = [
    ...(parsed.success
      ? []
      : parsed.error.issues.map((i) => `${i.message[0]!.toUpperCase()}${i.message.slice(1)}.`)),
    ...(kept?.ready === true && changed ? ['Give it a name of its own: this one is always there.'] : []),
  ];
  return (
    <Dialog open onClose={() => close(kept?.form.name ?? start.name)} maxWidth="md" fullWidth>
      <DialogTitle sx={{ pb: 0 }}>Forms</DialogTitle>
      <DialogContent className={styles.forms}>
        <Kept
          list={list}
          chosen={kept?.id ?? null}
          choose={(next) => {
            setForm(next);
            setSaid(null);
            act.reset();
          }}
        />
        <div className={styles.editor}>
          <FormEditor form={form} set={setForm} />
          {changed && <Faults faults={faults} />}
          {said && (
            <p role="status" className="soft">
              {said}
            </p>
          )}
          <ErrorNotice error={act.error} close={() => act.reset()} />
        </div>
      </DialogContent>
      <DialogActions>
        <ImportButton
          label="Form file"
          read={(chosen) =>
            act.mutate(async () => {
              const { added } = await library.importForms(await readShaped(chosen, FormFile, 'forms'));
              return `${plural(added, 'form')} added from ${chosen.name}`;
            })
          }
        />
        <Button color="inherit" href={savedAs('forms', form)} download={`${form.name}.json`}>
          Export
        </Button>
        {kept && !kept.ready && (
          <Button
            color="inherit"
            onClick={() =>
              act.mutate(() => library.dropForm(kept.id).then(() => `“${kept.form.name}” was removed`))
            }
          >
            Remove
          </Button>
        )}
        <span style={{ flex: 1 }} />
        <Button
          disabled={faults.length > 0 || !changed || act.isPending}
          onClick={() =>
            act.mutate(async () => {
              await library.keepForm(parsed.data!);
              setJustKept(now);
              return `“${form.name}” is kept`;
            })
          }
        >
          Keep
        </Button>
        <Button
          variant="contained"
          disabled={act.isPending}
          onClick={() => close(changed ? start.name : form.name.trim())}
        >
          Done
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** What is done to the forms, and what was done last, in words. */
function useActing() {
  const queries = useQueryClient();
  const [said, setSaid] = useState<string | null>(null);
  const act = useMutation({
    mutationFn: (work: () => Promise<string>) => work(),
    onMutate: () => setSaid(null),
    onSuccess: async (text) => {
      // It is in the list before it is said: who is done then has it.
      await queries.invalidateQueries({ queryKey: ['forms'] });
      setSaid(text);
    },
  });
  return { act, said, setSaid };
}

const Faults = ({ faults }: { faults: readonly string[] }) =>
  faults.length === 0 ? null : (
    <div role="alert">
      <ul className={styles.faults}>
        {faults.map((f) => (
          <li key={f}>{f}</li>
        ))}
      </ul>
    </div>
  );

const Kept = ({
  list,
  chosen,
  choose,
}: {
  list: FormsView;
  chosen: string | null;
  choose: (form: Form) => void;
}) => (
  <ul aria-label="Forms">
    {list.map((k) => (
      <li key={k.id}>
        <button type="button" aria-pressed={k.id === chosen} onClick={() => choose(k.form)}>
          {k.form.name}
          {k.ready && <small className="soft">always there</small>}
        </button>
      </li>
    ))}
  </ul>
);

/** A field that takes one of these. */
const OneOf = <T extends string>({
  label,
  words,
  value,
  take,
}: {
  label: string;
  words: Readonly<Record<T, string>>;
  value: T;
  take: (value: T) => void;
}) => (
  <TextField select size="small" label={label} value={value} onChange={(e) => take(e.target.value as T)}>
    {Object.entries<string>(words).map(([k, text]) => (
      <MenuItem key={k} value={k}>
        {text}
      </MenuItem>
    ))}
  </TextField>
);

/** A pattern with words in braces; what is wrong with it is listed below the form. */
const PatternField = ({
  label,
  value,
  take,
  fault,
  words,
}: {
  label: string;
  value: string;
  take: (value: string) => void;
  fault: string | null;
  words: readonly string[];
}) => (
  <TextField
    size="small"
    label={label}
    value={value}
    onChange={(e) => take(e.target.value)}
    error={fault !== null}
    helperText={words.map((w) => `{${w}}`).join(' ')}
    slotProps={{ htmlInput: { maxLength: 200 } }}
  />
);

function FormEditor({ form, set }: { form: Form; set: (form: Form) => void }) {
  /** In the order they are always in. */
  const toggled = <T extends string>(all: readonly T[], has: readonly T[], one: T): T[] =>
    all.filter((x) => (x === one ? !has.includes(x) : has.includes(x)));
  return (
    <>
      <TextField
        size="small"
        label="Name"
        value={form.name}
        onChange={(e) => set({ ...form, name: e.target.value })}
        slotProps={{ htmlInput: { maxLength: 60 } }}
      />
      <fieldset>
        <legend>Files of the clips</legend>
        {Media.options.map((m) => (
          <FormControlLabel
            key={m}
            control={
              <Checkbox
                size="small"
                checked={form.media.includes(m)}
                onChange={() => set({ ...form, media: toggled(Media.options, form.media, m) })}
              />
            }
            label={MEDIA_WORDS[m]}
          />
        ))}
      </fieldset>
      <div className={styles.two}>
        <OneOf
          label="Folders"
          words={FOLDER_WORDS}
          value={form.folders}
          take={(folders) => set({ ...form, folders })}
        />
        <OneOf
          label="File names"
          words={NAME_WORDS}
          value={form.names}
          take={(names) => set({ ...form, names })}
        />
      </div>
      {form.folders === 'own' && (
        <PatternField
          label="Folders below each kind of file"
          value={form.pattern}
          take={(pattern) => set({ ...form, pattern })}
          fault={folderFault(form.pattern)}
          words={Object.keys(PATTERN_WORDS)}
        />
      )}
      {form.names === 'pattern' && (
        <PatternField
          label="Names of proxies, used frames and viewing copies"
          value={form.namePattern}
          take={(namePattern) => set({ ...form, namePattern })}
          fault={namesFault(form.namePattern)}
          words={Object.keys(NAME_PATTERN_WORDS)}
        />
      )}
      <MadeFields form={form} set={set} />
      <fieldset>
        <legend>Lists beside them</legend>
        {List.options.map((l) => (
          <FormControlLabel
            key={l}
            control={
              <Checkbox
                size="small"
                checked={form.lists.includes(l)}
                onChange={() => set({ ...form, lists: toggled(List.options, form.lists, l) })}
              />
            }
            label={LIST_WORDS[l]}
          />
        ))}
      </fieldset>
    </>
  );
}

/** How what is made for the package is made; of a form that asks for nothing of the kind, nothing. */
function MadeFields({ form, set }: { form: Form; set: (form: Form) => void }) {
  const recipes = useQuery({ queryKey: ['recipes'], queryFn: library.recipes }).data ?? [];
  const named = (label: string, value: string, purposes: readonly string[], take: (name: string) => void) => {
    const names = recipes
      .filter((r) => r.recipe.name === value || purposes.includes(r.recipe.purpose))
      .map((r) => r.recipe.name);
    const all = names.includes(value) ? names : [...names, value];
    return (
      <OneOf label={label} words={Object.fromEntries(all.map((n) => [n, n]))} value={value} take={take} />
    );
  };
  return (
    <>
      {form.media.includes('used') && (
        <div className={styles.two}>
          <TextField
            type="number"
            size="small"
            label="Handles, frames on each side"
            value={form.handles}
            onChange={(e) =>
              set({ ...form, handles: Math.min(1000, Math.max(0, Math.round(Number(e.target.value)))) })
            }
            slotProps={{ htmlInput: { min: 0, max: 1000 } }}
          />
          <OneOf
            label="Used frames go as"
            words={USED_AS_WORDS}
            value={form.usedAs}
            take={(usedAs) => set({ ...form, usedAs })}
          />
        </div>
      )}
      {form.media.includes('used') &&
        imagesIn(form) === null &&
        named('Transcoded by, where they cannot be cut', form.usedRecipe, ['transcode'], (usedRecipe) =>
          set({ ...form, usedRecipe }),
        )}
      {form.media.includes('view') &&
        named('Viewing copies are made by', form.viewRecipe, ['transcode', 'proxy'], (viewRecipe) =>
          set({ ...form, viewRecipe }),
        )}
    </>
  );
}
