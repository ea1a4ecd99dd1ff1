'use client';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { type Form, type NewPackage, type PackagePlan, READY_FORMS } from '../../../core/handover';
import { library } from '../../platform/client';
import { plural } from '../../platform/format';
import { useServer } from '../../platform/job';
import { ErrorNotice } from '../../platform/Notice';
import { useJob } from '../../platform/queries';
import { useSettled } from '../../platform/useSettled';
import { AddPlace } from '../../places';
import { FormsDialog } from './FormsDialog';
import { PlanShown } from './PlanShown';
import { usePackageAddress } from './usePackageAddress';
import { SetField } from '../SetField';
import { type ChosenSet, optionOf, useSets } from '../useSets';
import panels from '../handover.module.css';
import styles from './packages.module.css';

/** A name that every volume takes. */
const folderName = (words: string): string =>
  words
    .replace(/[\\/:*?"<>|\u0000-\u001f]+/g, '-')
    .slice(0, 120)
    .trim();

interface Chosen extends ChosenSet {
  form: string;
  to: string;
  root: string;
  /** As it was typed; null while it follows from the rest. */
  folder: string | null;
}
const FIRST: Chosen = {
  ...{ kind: 'job', key: 'job', query: '', form: READY_FORMS[0]!.name },
  ...{ to: '', root: 'handover', folder: null },
};

/** A new package: which clips, for whom, where to; beside it what would be done. */
export function Compose() {
  const server = useServer();
  const queries = useQueryClient();
  const router = useRouter();
  const at = usePackageAddress();
  const [chosen, setChosen] = useState(FIRST);
  const job = useJob().data;
  const sets = useSets();
  const forms = (useQuery({ queryKey: ['forms'], queryFn: library.forms }).data ?? []).map((f) => f.form);
  const form = forms.find((f) => f.name === chosen.form) ?? forms[0] ?? READY_FORMS[0]!;
  const option = optionOf(chosen, sets);
  const folder = chosen.folder ?? folderName(`${job?.code ?? ''} ${form.name} ${option?.words ?? ''}`);
  const wanted: NewPackage | null =
    option && folder.trim() !== ''
      ? { set: option.set, form, to: chosen.to, root: chosen.root, folder: folder.trim() }
      : null;
  // For whom it is changes nothing of what goes.
  const written = JSON.stringify(wanted && { ...wanted, to: '' });
  const asked = useSettled(written, 300);
  const plan = useQuery({
    queryKey: ['packagePlan', asked],
    queryFn: () => server.planPackage(JSON.parse(asked) as NewPackage),
    enabled: asked !== 'null',
    placeholderData: keepPreviousData,
  });
  const send = useMutation({
    mutationFn: server.sendPackage,
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries({ queryKey: ['packages'] });
      router.push(at(id));
    },
  });
  const set = (next: Partial<Chosen>) => {
    send.reset();
    // What was typed while a drive was being added stays.
    setChosen((now) => ({ ...now, ...next }));
  };
  const isCurrent = asked === written && !plan.isPlaceholderData;
  return (
    <section className={`${panels.panel} ${styles.compose}`} aria-label="A new package">
      <div className={styles.asked}>
        <h1>New package</h1>
        <SetField chosen={chosen} sets={sets} set={set} />
        <ForWhom forms={forms} form={form} chosen={chosen} set={set} />
        <Where chosen={chosen} folder={folder} set={set} />
      </div>
      <div className={styles.plan}>
        <ErrorNotice error={plan.error ?? send.error} close={send.reset} />
        {wanted === null ? (
          <p className={panels.none}>Choose which clips go: then what would be copied is shown here.</p>
        ) : (
          plan.data && (
            <PlanShown plan={plan.data} stale={!isCurrent}>
              <ToMake plan={plan.data} wanted={wanted} ready={isCurrent} />
            </PlanShown>
          )
        )}
        <footer>
          <Button
            variant="contained"
            disabled={
              !isCurrent || !plan.data || plan.data.fault !== null || send.isPending || wanted === null
            }
            onClick={() => send.mutate(wanted!)}
          >
            {send.isPending ? 'Beginning …' : 'Hand over'}
          </Button>
        </footer>
      </div>
    </section>
  );
}

/** What has to be made before it can go, made from here. */
function ToMake({
  plan: { toMake, making },
  wanted,
  ready,
}: {
  plan: PackagePlan;
  wanted: NewPackage;
  ready: boolean;
}) {
  const server = useServer();
  const queries = useQueryClient();
  const make = useMutation({
    mutationFn: () => server.makeForPackage(wanted),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['packagePlan'] }),
  });
  if (toMake === 0) return null;
  const left = toMake - making;
  return (
    <div className={styles.make}>
      <span role="status">
        {left > 0
          ? `${plural(left, 'file')} ${left === 1 ? 'has' : 'have'} to be made first, or ${left === 1 ? 'does' : 'do'} not go.`
          : `${plural(making, 'file is', 'files are')} being made: hand over when that is done.`}
      </span>
      {left > 0 && (
        <Button
          size="small"
          variant="outlined"
          disabled={!ready || make.isPending}
          onClick={() => make.mutate()}
        >
          Make {left === 1 ? 'it' : 'them'}
        </Button>
      )}
      <ErrorNotice error={make.error} close={make.reset} />
    </div>
  );
}

interface Field {
  chosen: Chosen;
  set: (next: Partial<Chosen>) => void;
}

function ForWhom({ forms, form, chosen, set }: Field & { forms: readonly Form[]; form: Form }) {
  const [changing, setChanging] = useState(false);
  return (
    <fieldset>
      <legend>For whom</legend>
      <div className={styles.row}>
        <TextField
          select
          size="small"
          label="Form"
          value={form.name}
          onChange={(e) => set({ form: e.target.value })}
        >
          {forms.map((f) => (
            <MenuItem key={f.name} value={f.name}>
              {f.name}
            </MenuItem>
          ))}
          {forms.length === 0 && <MenuItem value={form.name}>{form.name}</MenuItem>}
        </TextField>
        <Button size="small" onClick={() => setChanging(true)}>
          Forms …
        </Button>
      </div>
      <TextField
        size="small"
        label="To (a name, or nothing)"
        value={chosen.to}
        onChange={(e) => set({ to: e.target.value })}
        slotProps={{ htmlInput: { maxLength: 120 } }}
      />
      {changing && (
        <FormsDialog
          start={form}
          close={(name) => {
            setChanging(false);
            set({ form: name });
          }}
        />
      )}
    </fieldset>
  );
}

function Where({ chosen, folder, set }: Field & { folder: string }) {
  const roots = (useJob().data?.roots ?? []).filter((r) => r.kind === 'handover');
  const [adding, setAdding] = useState(false);
  return (
    <fieldset>
      <legend>Where to</legend>
      <div className={styles.row}>
        <TextField
          select
          size="small"
          label="Place"
          value={roots.some((r) => r.id === chosen.root) ? chosen.root : ''}
          onChange={(e) => set({ root: e.target.value })}
        >
          {roots.map((r) => (
            <MenuItem key={r.id} value={r.id}>
              {r.name}
              {r.present ? '' : ' (not connected)'}
            </MenuItem>
          ))}
        </TextField>
        <Button size="small" onClick={() => setAdding(true)}>
          Add a drive …
        </Button>
      </div>
      {adding && (
        <AddPlace
          part="handover"
          done={(id) => {
            setAdding(false);
            if (id !== null) set({ root: id });
          }}
        />
      )}
      <TextField
        size="small"
        label="Folder there"
        value={folder}
        onChange={(e) => set({ folder: e.target.value })}
        slotProps={{ htmlInput: { maxLength: 200, className: 'figures' } }}
      />
    </fieldset>
  );
}
