import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import Radio from '@mui/material/Radio';
import RadioGroup from '@mui/material/RadioGroup';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { LookedCard } from '../../core/intake/shapes';
import { cardFolder, PATTERN_WORDS, patternFault } from '../../core/offload';
import type { RootView } from '../../core/places';
import { formatBytes, plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { useJob } from '../platform/queries';
import type { CopyForm } from './copyForm';
import styles from './intake.module.css';

/** Where a card is copied to. `ticked` is how many clips are. */
export function CopyWhere({
  form,
  card,
  ticked,
  addDrive,
  showNames,
}: {
  form: CopyForm;
  card: LookedCard;
  ticked: number;
  addDrive: () => void;
  showNames: () => void;
}) {
  const { asked, put, safes, shelfRoot, chosen, isWhole, wanted, fresh, fault, full, shared } = form;
  return (
    <fieldset>
      <legend>Where it goes</legend>
      {safes.length === 0 && (
        <p className="soft">
          No place for safe copies yet. A card may be wiped only once it is verified on two of them, on
          different disks.
        </p>
      )}
      {safes.map((r) => (
        <Where
          key={r.id}
          root={r}
          what="Safe copy"
          checked={asked.safe.includes(r.id)}
          set={(on) => put({ safe: on ? [...asked.safe, r.id] : asked.safe.filter((id) => id !== r.id) })}
        />
      ))}
      {fault('safe') && (
        <p role="alert" className={styles.wrong}>
          {fault('safe')}
        </p>
      )}
      <Button size="small" sx={{ py: 0 }} onClick={addDrive}>
        Add a drive …
      </Button>
      <Where
        root={shelfRoot}
        what="Shelf"
        note={`${plural(ticked, 'ticked clip')}, named and placed`}
        checked={asked.shelf}
        set={(shelf) => put({ shelf })}
      />
      {asked.shelf && (
        <Button
          size="small"
          sx={{ ml: 2.6, py: 0 }}
          disabled={!wanted.success || fresh.length === 0}
          onClick={showNames}
        >
          Their names and places …
        </Button>
      )}
      {chosen.length > 0 && <SafeCopies form={form} />}
      {asked.shelf && <ProxiesToo />}
      {shared && <p className={styles.warn}>? {shared}</p>}
      {isWhole && <WholeCard card={card} />}
      {full && (
        <p role="alert" className={styles.wrong}>
          ! {full}
        </p>
      )}
    </fieldset>
  );
}

/** What the safe copies hold, and the folder they are in. */
function SafeCopies({ form: { asked, put, words } }: { form: CopyForm }) {
  return (
    <>
      <RadioGroup
        row
        value={asked.wholeCard ? 'all' : 'ticked'}
        onChange={(e) => put({ wholeCard: e.target.value === 'all' })}
        aria-label="What the safe copies hold"
      >
        <FormControlLabel value="all" control={<Radio size="small" sx={{ py: 0.25 }} />} label="whole card" />
        <FormControlLabel
          value="ticked"
          control={<Radio size="small" sx={{ py: 0.25 }} />}
          label="ticked clips only"
        />
      </RadioGroup>
      <TextField
        label="Folder of the safe copy"
        value={asked.pattern}
        onChange={(e) => put({ pattern: e.target.value })}
        fullWidth
        error={patternFault(asked.pattern) !== null}
        slotProps={{ htmlInput: { className: 'figures', style: { fontSize: 12 } } }}
        helperText={
          patternFault(asked.pattern) ?? (
            <span
              title={Object.entries(PATTERN_WORDS)
                .map(([w, m]) => `{${w}}: ${m}`)
                .join('\n')}
            >
              {cardFolder(asked.pattern, words)}
            </span>
          )
        }
        sx={{ mt: 0.75 }}
      />
    </>
  );
}

/** What “whole card” is here. */
function WholeCard({ card }: { card: LookedCard }) {
  return (
    <p className="soft" style={{ fontSize: 12.5 }}>
      Whole card: {plural(card.all.files, 'file')}, everything{' '}
      {card.all.wholeVolume ? 'on the volume' : 'in the folder'}{' '}
      <span className="figures">{card.all.folder || '/'}</span>
      {card.known ? ', but for what is in verified copies there already' : ''}.
      {card.all.outside.length > 0 &&
        ` Not with it, on the same volume: ${card.all.outside.slice(0, 4).join(', ')}${card.all.outside.length > 4 ? ' …' : ''}.`}
    </p>
  );
}

function Where({
  root,
  what,
  note,
  checked,
  set,
}: {
  root: RootView;
  what: string;
  note?: string;
  checked: boolean;
  set: (on: boolean) => void;
}) {
  return (
    <FormControlLabel
      sx={{ display: 'flex', mr: 0 }}
      disabled={!root.present}
      control={
        <Checkbox
          size="small"
          sx={{ py: 0.25 }}
          checked={checked && root.present}
          onChange={(e) => set(e.target.checked)}
        />
      }
      label={
        <span>
          {what === 'Shelf' ? (
            <b>Shelf</b>
          ) : (
            <>
              <b>{root.name}</b> <span className="soft">{what.toLowerCase()}</span>
            </>
          )}{' '}
          <span className="soft">· {root.present ? `${formatBytes(root.free ?? 0)} free` : 'offline'}</span>
          {note && (
            <span className="soft" style={{ display: 'block', fontSize: 12.5 }}>
              {note}
            </span>
          )}
        </span>
      }
    />
  );
}

/** Whether proxies follow the copy by themselves; a rule of the job. */
function ProxiesToo() {
  const server = useServer();
  const job = useJob();
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: server.saveSettings,
    onSuccess: () => client.invalidateQueries({ queryKey: ['job'] }),
  });
  const rules = job.data?.proxies;
  return (
    <>
      <FormControlLabel
        sx={{ display: 'flex', mr: 0 }}
        disabled={!rules}
        control={
          <Checkbox
            size="small"
            sx={{ py: 0.25 }}
            checked={rules?.byItself === true}
            onChange={(e) => rules && save.mutate({ proxies: { ...rules, byItself: e.target.checked } })}
          />
        }
        label="Proxies of what needs one, once it is verified"
      />
      <ErrorNotice error={save.error} close={() => save.reset()} />
    </>
  );
}
