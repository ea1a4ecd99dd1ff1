'use client';
import Button from '@mui/material/Button';
import { useMutation } from '@tanstack/react-query';
import Link from '../platform/Link';
import { isUnderWay, type OffloadAction, type OffloadDetail } from '../../core/offload/shapes';
import { VERIFICATION_WORDS } from '../../core/offload/verification';
import { HASH_WORDS } from '../../core/hashLists';
import { useAddress, useServer } from '../platform/job';
import { formatBytes, formatLeft, plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { useCopying, useOffload } from '../platform/queries';
import { Tag } from '../platform/Tag';
import styles from './offload.module.css';
import { RateChart } from './RateChart';
import { COPY_WORDS } from './words';

const FILE_WORDS = { waiting: 'queued', verified: 'verified', failed: 'not copied' } as const;

/** One copy: how far it is, how fast, and how each file fared. */
export function CopyScreen({ id }: { id: string }) {
  const server = useServer();
  const copy = useOffload(id);
  const now = useCopying().find((c) => c.id === id);
  const act = useMutation({
    mutationFn: (a: OffloadAction) => server.changeOffload(id, a),
    onSettled: () => copy.refetch(),
  });
  if (copy.error)
    return (
      <div style={{ padding: 20 }}>
        <ErrorNotice error={copy.error} again={() => void copy.refetch()} />
      </div>
    );
  if (!copy.data) return null;
  const c = copy.data;
  const { word, tone } = COPY_WORDS[c.state];
  const press = (action: OffloadAction['action'], destination?: number) =>
    act.mutate({ action, ...(destination === undefined ? {} : { destination }) });
  return (
    <div className={styles.screen}>
      <header className={styles.head}>
        <div>
          <h1>
            <span className="figures">{c.card}</span> <Tag tone={tone}>{word}</Tag>
          </h1>
          <p className="soft">
            from {c.from} · {VERIFICATION_WORDS[c.verification].name}
            {c.verification === 'sizes' ? '' : `, ${HASH_WORDS[c.hash]}`}
          </p>
        </div>
        <span style={{ flex: 1 }} />
        <Acts copy={c} press={press} isBusy={act.isPending} />
      </header>
      <ErrorNotice error={act.error} close={act.reset} />
      {c.fault && (
        <p className={styles.notice} role="alert" data-tone={c.state === 'done' ? 'look' : 'stop'}>
          {c.fault}
        </p>
      )}
      <Progress copy={c} now={c.state === 'running' ? now : undefined} />
      <div className={styles.columns}>
        <Destinations copy={c} drop={(i) => press('drop', i)} />
        <Files copy={c} />
      </div>
    </div>
  );
}

/** What can be done with a copy now. */
function Acts({
  copy: c,
  press,
  isBusy,
}: {
  copy: OffloadDetail;
  press: (action: OffloadAction['action']) => void;
  isBusy: boolean;
}) {
  const address = useAddress();
  return (
    <>
      {(c.state === 'running' || c.state === 'queued' || c.state === 'waiting') && (
        <Button variant="outlined" disabled={isBusy} onClick={() => press('pause')}>
          Pause
        </Button>
      )}
      {(c.state === 'paused' || c.state === 'waiting') && (
        <Button variant="contained" disabled={isBusy} onClick={() => press('resume')}>
          Resume
        </Button>
      )}
      {c.state === 'partly' && (
        <Button variant="contained" disabled={isBusy} onClick={() => press('retry')}>
          Retry {plural(c.failed, 'file')}
        </Button>
      )}
      {isUnderWay(c.state) && c.state !== 'naming' && (
        <Button color="error" disabled={isBusy} onClick={() => press('cancel')}>
          Cancel the copy
        </Button>
      )}
      {!isUnderWay(c.state) && c.state !== 'cancelled' && (
        <>
          <Button component={Link} href={address(`/card/${encodeURIComponent(c.card)}`)} variant="outlined">
            Open the card
          </Button>
          <Button
            component={Link}
            href={address(`/card/${encodeURIComponent(c.physical)}/wipe`)}
            variant={c.state === 'done' ? 'contained' : 'outlined'}
          >
            May this card be wiped?
          </Button>
        </>
      )}
      {c.state === 'cancelled' && (
        <Button component={Link} href={address('/intake')} variant="contained">
          Back to Intake
        </Button>
      )}
    </>
  );
}

/** How far a copy is; `now` is what is heard of one that is running. */
function Progress({
  copy: c,
  now,
}: {
  copy: OffloadDetail;
  now: ReturnType<typeof useCopying>[number] | undefined;
}) {
  const done = now?.bytes ?? c.verifiedBytes;
  const files = now?.files ?? c.verified;
  return (
    <section className={styles.progress} aria-label="Progress">
      <div
        className={styles.bar}
        role="progressbar"
        aria-label="Copied"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={c.bytes > 0 ? Math.floor((100 * done) / c.bytes) : 100}
      >
        <i
          style={{ width: `${c.bytes > 0 ? (100 * done) / c.bytes : 100}%` }}
          data-tone={COPY_WORDS[c.state].tone}
        />
      </div>
      <div className={styles.figures}>
        <span>
          <b className="figures">{formatBytes(done)}</b> of {formatBytes(c.bytes)}
        </span>
        <span>
          <b className="figures">{files}</b> of {plural(c.files, 'file')} verified
        </span>
        {c.failed > 0 && (
          <span style={{ color: 'var(--brick)' }}>
            <b className="figures">{c.failed}</b> not copied
          </span>
        )}
        {now && now.rate !== null && (
          <span>
            <b className="figures">{formatBytes(now.rate)}</b>/s
          </span>
        )}
        {now && now.left !== null && (
          <span>
            <b className="figures">{formatLeft(now.left)}</b> left
          </span>
        )}
        {c.state !== 'running' && c.speed !== null && (
          <span>
            at <b className="figures">{formatBytes(c.speed)}</b>/s
          </span>
        )}
        {now?.current && <span className={styles.current}>{now.current}</span>}
      </div>
      {c.rates.length > 2 && <RateChart rates={c.rates} />}
    </section>
  );
}

function Destinations({ copy: c, drop }: { copy: OffloadDetail; drop: (destination: number) => void }) {
  const several = c.destinations.filter((d) => !d.dropped).length > 1;
  return (
    <section aria-label="Destinations">
      <h2>To</h2>
      <ul className={styles.places}>
        {c.destinations.map((d, i) => (
          <li key={i} data-out={d.dropped ? '' : undefined}>
            <b>{d.kind === 'safe' ? `Safe copy on ${d.rootName}` : 'The shelf'}</b>
            {d.dropped && ' · left out'}
            <span className="figures">{d.place}</span>
            {several && !d.dropped && (c.state === 'paused' || d.away) && (
              <Button size="small" color="error" onClick={() => drop(i)}>
                Continue without {d.rootName}
              </Button>
            )}
          </li>
        ))}
      </ul>
      {c.cannot.length > 0 && (
        <>
          <h2>Cannot be copied</h2>
          <ul className={styles.places}>
            {c.cannot.map((x) => (
              <li key={x.path}>
                <span className="figures">{x.path}</span>
                {x.reason}
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

function Files({ copy: c }: { copy: OffloadDetail }) {
  return (
    <section aria-label="Files">
      <h2>Files</h2>
      <table className={styles.files}>
        <thead>
          <tr>
            <th>File</th>
            <th>State</th>
            <th>Size</th>
            <th>{c.verification === 'sizes' ? 'Hash while reading' : HASH_WORDS[c.hash]}</th>
          </tr>
        </thead>
        <tbody>
          {c.list.map((f) => (
            <tr key={f.path}>
              <td className="figures">
                {f.path}
                {(f.fault ?? f.note) && (
                  <div className={f.fault ? styles.wrong : styles.noted}>{f.fault ?? f.note}</div>
                )}
              </td>
              <td>
                <Tag tone={f.state === 'failed' ? 'stop' : f.state === 'verified' ? 'proven' : 'plain'}>
                  {FILE_WORDS[f.state]}
                </Tag>
              </td>
              <td className="figures">{formatBytes(f.size)}</td>
              <td className={`figures ${styles.hash}`} title={f.hash ?? undefined}>
                {f.hash}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {c.list.length < c.files && (
        <p className="soft">{plural(c.files - c.list.length, 'more file')}, not listed.</p>
      )}
    </section>
  );
}
