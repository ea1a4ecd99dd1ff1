'use client';
import Button from '@mui/material/Button';
import Radio from '@mui/material/Radio';
import TextField from '@mui/material/TextField';
import { useMutation, useQuery } from '@tanstack/react-query';
import { type FormEvent, useEffect, useState } from 'react';
import type { Rebuilt, RecordsView, RescueChoice, RescueView } from '../../core/records';
import { library as server } from '../platform/client';
import { formatBytes, formatMoment, plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { JournalNames } from './JournalNames';
import styles from './rescue.module.css';

/** What is done where the database is lost, or to bring a job back into an empty data folder. `done` leads on, and `back` to beginning a new job. */
export function Rescue({ done, back }: { done: () => void; back?: () => void }) {
  const [also, setAlso] = useState<string[]>([]);
  const [picked, setPicked] = useState<string | null>(null);
  const view = useQuery({
    queryKey: ['rescue', also],
    queryFn: () => server.rescueView(also),
    placeholderData: (before) => before,
  });
  const choose = useMutation({
    mutationFn: (choice: Omit<RescueChoice, 'also'>) => server.rescue({ ...choice, also }),
    onSuccess: ({ rebuilt }) => {
      if (!rebuilt) done();
    },
  });
  // Another window has chosen meanwhile.
  const jobs = useQuery({ queryKey: ['jobs'], queryFn: server.jobs, refetchInterval: 3000 });
  const settled = (jobs.data ?? []).length > 0 && !jobs.error && choose.isIdle;
  useEffect(() => {
    if (settled) done();
  }, [settled, done]);
  if (choose.data?.rebuilt) return <Done rebuilt={choose.data.rebuilt} goOn={done} />;
  if (view.error)
    return (
      <div className={styles.page}>
        <ErrorNotice error={view.error} again={() => void view.refetch()} />
      </div>
    );
  if (!view.data)
    return (
      <div className={styles.page}>
        <p role="status">Looking for records on the drives …</p>
      </div>
    );
  const { lost, records, snapshots, faults } = view.data;
  const proposed = records.find((r) => !r.older)?.library ?? null;
  const library = records.some((r) => r.library === picked) ? picked : proposed;
  return (
    <div className={styles.page}>
      <Head lost={lost} />
      <ErrorNotice error={choose.error} />
      <section className={styles.way}>
        <h2>Rebuild from the records</h2>
        <p className="soft">
          The newest there is, some seconds behind at most. Every file is then looked for, and every clip is
          read again.
        </p>
        {records.length === 0 && (
          <p>
            No records were found beside the database, on the shelf, or on a connected drive. Connect a drive
            with a safe copy, then press Look.
          </p>
        )}
        <Choice records={records} library={library} pick={setPicked} />
        {faults.map((f) => (
          <p key={f} className={styles.fault}>
            {f}
          </p>
        ))}
        <div className={styles.act}>
          <Button
            variant="contained"
            disabled={!library || choose.isPending}
            onClick={() => choose.mutate({ how: 'records', library: library! })}
          >
            {choose.isPending && choose.variables.how === 'records' ? 'Rebuilding …' : 'Rebuild'}
          </Button>
          <LookElsewhere
            isLooking={view.isFetching}
            look={(wanted) => {
              if (wanted !== '')
                setAlso((before) => (before.includes(wanted) ? before : [...before, wanted]));
              void view.refetch();
            }}
          />
        </div>
      </section>
      {lost && (
        <Otherwise snapshots={snapshots} choose={(how) => choose.mutate({ how })} isBusy={choose.isPending} />
      )}
      {!lost && <UndoNames />}
      {back && (
        <div>
          <Button onClick={back}>Begin a new job instead</Button>
        </div>
      )}
    </div>
  );
}

/** `lost` is what is wrong with the database. */
function Head({ lost }: { lost: string | null }) {
  return (
    <header>
      <h1>{lost ? 'The database is lost' : 'Bring a job back from the drives'}</h1>
      <p>
        {lost ??
          'Beside the footage stands a record of cards, copies, names and places. A job is rebuilt from it where its database is gone.'}
      </p>
      {lost && (
        <p>
          <strong>No footage is touched by this.</strong> Choose what is done; a damaged database is kept
          beside the new one.
        </p>
      )}
    </header>
  );
}

/** The records there are, of which one is picked: of those of the same footage the newest, until the older ones are asked for. */
function Choice({
  records,
  library,
  pick,
}: {
  records: readonly RecordsView[];
  library: string | null;
  pick: (library: string | null) => void;
}) {
  const [older, setOlder] = useState(false);
  const newest = records.filter((r) => !r.older);
  const shown = older ? records : newest;
  return (
    <>
      {shown.map((r) => (
        <Records
          key={r.library}
          records={r}
          picked={r.library === library}
          pick={() => pick(r.library)}
          alone={shown.length === 1}
        />
      ))}
      {newest.length < records.length && (
        <div>
          <Button
            size="small"
            onClick={() => {
              setOlder(!older);
              pick(null);
            }}
          >
            {older ? 'Hide older records' : `Show ${plural(records.length - newest.length, 'older record')}`}
          </Button>
        </div>
      )}
    </>
  );
}

function LookElsewhere({ isLooking, look }: { isLooking: boolean; look: (folder: string) => void }) {
  const [folder, setFolder] = useState('');
  const submit = (e: FormEvent) => {
    e.preventDefault();
    look(folder.trim());
  };
  return (
    <form onSubmit={submit} className={styles.look}>
      <TextField
        size="small"
        label="Look in another folder"
        placeholder="the folder of a drive, from the top"
        value={folder}
        onChange={(e) => setFolder(e.target.value)}
        slotProps={{ htmlInput: { className: 'figures' }, inputLabel: { shrink: true } }}
        fullWidth
      />
      <Button type="submit" disabled={isLooking}>
        {isLooking ? 'Looking …' : 'Look'}
      </Button>
    </form>
  );
}

/** What is left where there are no records. */
function UndoNames() {
  return (
    <section className={styles.way}>
      <h2>Undo names</h2>
      <p className="soft">
        Where no records are left, the journal on the shelf still tells what its files were called before they
        were named, and where they were.
      </p>
      <JournalNames />
    </section>
  );
}

/** What else can be done where the database is lost: back to a snapshot, or anew. */
function Otherwise({
  snapshots,
  choose,
  isBusy,
}: {
  snapshots: RescueView['snapshots'];
  choose: (how: 'snapshot' | 'empty') => void;
  isBusy: boolean;
}) {
  return (
    <>
      <section className={styles.way}>
        <h2>Go back to a snapshot</h2>
        {snapshots[0] ? (
          <>
            <p className="soft">
              What was done after it is not in it. Names given since are taken over from the shelf’s journal;
              safe copies have to be checked again before they count.
            </p>
            <div className={styles.act}>
              <Button variant="outlined" disabled={isBusy} onClick={() => choose('snapshot')}>
                Go back to that of {formatMoment(snapshots[0].at)}
              </Button>
              <span className="soft">
                {formatBytes(snapshots[0].bytes)}, {plural(snapshots.length, 'snapshot')} kept
              </span>
            </div>
          </>
        ) : (
          <p>There is none.</p>
        )}
      </section>

      <section className={styles.way}>
        <h2>Begin anew</h2>
        <p className="soft">
          An empty database, without any job. What stands on the shelf can be taken in again, and names that
          were given can be undone, from the shelf’s journal; what was proven of safe copies is lost.
        </p>
        <div className={styles.act}>
          <Button variant="outlined" disabled={isBusy} onClick={() => choose('empty')}>
            Begin with an empty database
          </Button>
        </div>
      </section>
    </>
  );
}

function Records({
  records: r,
  picked,
  pick,
  alone,
}: {
  records: RecordsView;
  picked: boolean;
  pick: () => void;
  alone: boolean;
}) {
  return (
    <label className={styles.records} data-picked={picked}>
      {!alone && <Radio size="small" checked={picked} onChange={pick} sx={{ p: 0.5 }} />}
      <span>
        {r.jobs.map((j) => (
          <span key={j.code} className={styles.job}>
            <strong>{j.name}</strong> <span className="figures">{j.code}</span>
          </span>
        ))}
        <span className="soft">
          {' '}
          as of {formatMoment(r.at)}: {plural(r.cards, 'card')}, {plural(r.clips, 'clip')},{' '}
          {plural(r.copies, 'safe copy', 'safe copies')}
        </span>
        {r.files.map((f) => (
          <span key={f} className={`figures ${styles.file}`} title={f}>
            {f.replace(/(?:\/\.sort-shelf)?\/[^/]*$/, '')}
          </span>
        ))}
        {!alone && r.own && <span className={styles.note}>This data folder’s own.</span>}
        {!r.latest && (
          <span className={styles.note}>
            Others may know more: safe copies count once they are checked again.
          </span>
        )}
      </span>
    </label>
  );
}

function Done({ rebuilt: r, goOn }: { rebuilt: Rebuilt; goOn: () => void }) {
  return (
    <div className={styles.page}>
      <header>
        <h1>Rebuilt</h1>
        <p>
          {plural(r.cards, 'card')}, {plural(r.clips, 'clip')} and{' '}
          {plural(r.copies, 'safe copy', 'safe copies')}, as they were on {formatMoment(r.at)}.
        </p>
      </header>
      <section className={styles.way}>
        <ul className={styles.list}>
          <li>
            {plural(r.standing, 'file stands', 'files stand')} where{' '}
            {r.standing === 1 ? 'it was' : 'they were'} recorded.
          </li>
          {r.missing > 0 && (
            <li>
              <strong>{plural(r.missing, 'file is', 'files are')} not there, or another:</strong>
              {r.missingNames.map((n) => (
                <span key={n} className={`figures ${styles.file}`}>
                  {n}
                </span>
              ))}
              {r.missing > r.missingNames.length ? ' …' : ''}
            </li>
          )}
          {r.away > 0 && (
            <li>{plural(r.away, 'file is', 'files are')} on cards or drives that are not connected.</li>
          )}
          {r.plans > 0 && (
            <li>
              {plural(r.plans, 'naming', 'namings')} that only the shelf’s journal knew{' '}
              {r.plans === 1 ? 'was' : 'were'} taken over.
            </li>
          )}
          <li>
            {r.copiesCount
              ? 'What was proven of the safe copies counts as before.'
              : 'Safe copies count once they are checked again: other records may know more of them.'}
          </li>
          <li>Every clip is being read again.</li>
        </ul>
        <div className={styles.act}>
          <Button variant="contained" onClick={goOn}>
            Go on
          </Button>
        </div>
      </section>
    </div>
  );
}
