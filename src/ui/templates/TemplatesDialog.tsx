'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useId, useState } from 'react';
import { type KeepTemplate, type Template, TemplateFile } from '../../core/templates';
import { library, ServerProblem } from '../platform/client';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ImportButton, readShaped, savedAs } from '../platform/JsonFile';
import { ErrorNotice } from '../platform/Notice';
import { TakePartsDialog } from './TakePartsDialog';
import { useTemplates } from './useTemplates';
import styles from './templates.module.css';

/** What a template holds, in a few words. */
function holds(t: Template): string {
  const { keywords, bins, searches } = t.choice;
  return [
    `convention ${t.convention.name}`,
    t.folderPlan.skeleton.length > 0 ? plural(t.folderPlan.skeleton.length, 'further folder') : '',
    t.cameras.length > 0 ? `cameras ${t.cameras.map((c) => c.label).join(', ')}` : '',
    keywords.length > 0 ? plural(keywords.length, 'keyword') : '',
    bins.length > 0 ? plural(bins.length, 'bin') : '',
    searches.length > 0 ? plural(searches.length, 'search', 'searches') : '',
    t.watches.length > 0 ? plural(t.watches.length, 'watched folder') : '',
    t.fieldSets.length > 0 ? plural(t.fieldSets.length, 'field set') : '',
    t.recipes.length > 0 ? plural(t.recipes.length, 'recipe') : '',
  ]
    .filter((w) => w !== '')
    .join(' · ');
}

/** The templates: this job kept as one, parts of one taken over, files in and out. */
export function TemplatesDialog({ close }: { close: () => void }) {
  const title = useId();
  const queries = useQueryClient();
  const templates = useTemplates();
  const [taking, setTaking] = useState<{ id: string; name: string } | null>(null);
  const refresh = () => queries.invalidateQueries({ queryKey: ['templates'] });
  const remove = useMutation({ mutationFn: (id: string) => library.dropTemplate(id), onSuccess: refresh });
  const read = useMutation({
    mutationFn: async (chosen: File) =>
      library.importTemplates(await readShaped(chosen, TemplateFile, 'templates')),
    onSuccess: refresh,
  });
  return (
    <Dialog open onClose={close} fullWidth maxWidth="md" aria-labelledby={title}>
      <DialogTitle id={title}>Templates</DialogTitle>
      <DialogContent className={styles.dialog}>
        <KeepThis />
        <ul className={styles.list} aria-label="Templates that are kept">
          {(templates.data ?? []).map(({ id, ready, template: t }) => (
            <li key={id}>
              <div>
                <strong>{t.name}</strong> {ready && <span className="soft">always there</span>}
                {t.note !== '' && <div>{t.note}</div>}
                <div className="soft">{holds(t)}</div>
              </div>
              <div className={styles.actions}>
                <Button size="small" onClick={() => setTaking({ id, name: t.name })}>
                  Take over …
                </Button>
                <Button size="small" component="a" href={savedAs('templates', t)} download={`${t.name}.json`}>
                  Save as a file
                </Button>
                {!ready && (
                  <Button
                    size="small"
                    color="error"
                    disabled={remove.isPending}
                    onClick={() => remove.mutate(id)}
                    aria-label={`Remove the template ${t.name}`}
                  >
                    Remove
                  </Button>
                )}
              </div>
            </li>
          ))}
        </ul>
        <ErrorNotice error={templates.error ?? remove.error} close={remove.reset} />
        <ErrorNotice error={read.error} close={read.reset} />
        {read.data && (
          <p role="status">
            {read.data.added.length === 0
              ? 'Nothing was added: those are always there.'
              : `Added: ${read.data.added.join(', ')}`}
          </p>
        )}
      </DialogContent>
      <DialogActions>
        <ImportButton label="A file of templates" read={(chosen) => read.mutate(chosen)} />
        <Button onClick={close}>Close</Button>
      </DialogActions>
      {taking && <TakePartsDialog {...taking} close={() => setTaking(null)} />}
    </Dialog>
  );
}

/** Keeps the open job as a template. */
function KeepThis() {
  const server = useServer();
  const queries = useQueryClient();
  const [name, setName] = useState('');
  const [note, setNote] = useState('');
  const keep = useMutation({
    mutationFn: (wanted: KeepTemplate) => server.keepTemplate(wanted),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['templates'] });
      setName('');
      setNote('');
    },
  });
  const taken =
    keep.error instanceof ServerProblem && keep.error.details.title === 'Clash' && keep.variables?.name;
  return (
    <form
      className={styles.keep}
      aria-label="Keep this job as a template"
      onSubmit={(e) => {
        e.preventDefault();
        if (name.trim() !== '') keep.mutate({ name: name.trim(), note: note.trim() });
      }}
    >
      <p className="soft">
        Kept are its convention, folders, proxy rules, card shapes, cameras, keywords, bins, searches, day
        start, zone, rate, and the field sets and recipes of the library. No footage, and no place of this
        computer.
      </p>
      <div className={styles.row}>
        <TextField
          size="small"
          label="Name of the template"
          value={name}
          onChange={(e) => setName(e.target.value)}
          slotProps={{ htmlInput: { maxLength: 80 } }}
        />
        <TextField
          size="small"
          label="Note"
          value={note}
          onChange={(e) => setNote(e.target.value)}
          slotProps={{ htmlInput: { maxLength: 500 } }}
          sx={{ flex: 1 }}
        />
        <Button type="submit" variant="contained" disabled={name.trim() === '' || keep.isPending}>
          Keep
        </Button>
      </div>
      <ErrorNotice error={keep.error} close={keep.reset} />
      {taken && (
        <Button
          size="small"
          variant="outlined"
          sx={{ justifySelf: 'start' }}
          onClick={() => keep.mutate({ ...keep.variables!, replace: true })}
        >
          Replace “{taken}”
        </Button>
      )}
      {keep.isSuccess && (
        <span role="status" className="soft">
          Kept as {keep.variables.name}.
        </span>
      )}
    </form>
  );
}
