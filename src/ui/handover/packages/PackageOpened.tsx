'use client';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import {
  type PackageAction,
  type PackageView,
  SENDING_WORDS,
  type SendingView,
} from '../../../core/handover';
import { Report } from '../../custody';
import { library } from '../../platform/client';
import { formatBytes, formatCount, formatMoment, plural } from '../../platform/format';
import { useServer } from '../../platform/job';
import { ErrorNotice } from '../../platform/Notice';
import { useTasks } from '../../platform/queries';
import { Tag } from '../../platform/Tag';
import { Remarks } from './PlanShown';
import { SendingMark } from './SendingMark';
import panels from '../handover.module.css';
import styles from './packages.module.css';

/** The receipt of a package: what stands where, when it was sent, what was missing, and whether it is still as it was sent. */
export function PackageOpened({ id }: { id: string }) {
  const server = useServer();
  const queries = useQueryClient();
  const view = useQuery({ queryKey: ['package', id], queryFn: () => server.package(id) });
  const act = useMutation({
    mutationFn: (action: PackageAction['action']) => server.actOnPackage(id, action),
    onSettled: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ['package', id] }),
        queries.invalidateQueries({ queryKey: ['packages'] }),
        queries.invalidateQueries({ queryKey: ['tasks'] }),
      ]),
  });
  if (view.error)
    return (
      <section className={panels.panel} aria-label="The package">
        <ErrorNotice error={view.error} again={() => void view.refetch()} />
      </section>
    );
  if (!view.data) return <section className={panels.panel} aria-label="The package" aria-busy />;
  const p = view.data;
  return (
    <section className={panels.panel} aria-label={`The package ${p.name}`}>
      <header>
        <div className={styles.head}>
          <h1>{p.name}</h1>
          <SendingMark state={p.state} />
        </div>
        <p className="soft">
          {p.wanted.form.name}
          {p.to ? `, to ${p.to}` : ''} · {plural(p.verified, 'file')} verified by {p.hash},{' '}
          {formatBytes(p.verifiedBytes)}
        </p>
        <p className={`figures ${styles.place}`}>{p.place}</p>
      </header>
      <ErrorNotice error={act.error} close={act.reset} />
      <Now of={p} act={act.mutate} busy={act.isPending} />
      <div className={styles.receipt} tabIndex={0} role="region" aria-label="The receipt">
        {p.check && <Report report={p.check} />}
        <Remarks remarks={p.remarks} more={p.moreRemarks} />
        <Sendings sendings={p.sendings} />
        <Files of={p} />
      </div>
    </section>
  );
}

interface Acting {
  of: PackageView;
  act: (action: PackageAction['action']) => void;
  busy: boolean;
}

/** How it stands, and what can be done about it. */
function Now({ of: p, act, busy }: Acting) {
  const tasks = (useTasks().data ?? []).filter((t) => t.subject === p.id);
  const sending = tasks.find((t) => t.kind === 'handover');
  const check = tasks.find((t) => t.kind === 'checkHandover');
  const button = (action: PackageAction['action'], words: string, strong = false) => (
    <Button
      size="small"
      variant={strong ? 'contained' : 'outlined'}
      disabled={busy}
      onClick={() => act(action)}
    >
      {words}
    </Button>
  );
  const running = p.state === 'running' || p.state === 'queued';
  const halted = p.state === 'paused' || p.state === 'waiting';
  const task = sending ?? check;
  const share = task && task.total > 0 ? task.done / task.total : 0;
  return (
    <div className={styles.now}>
      {(running || check) && (
        <div className={styles.progress}>
          <LinearProgress
            variant={task && task.total > 0 ? 'determinate' : 'indeterminate'}
            value={100 * share}
            aria-label={check ? 'Checking' : 'Copying'}
          />
          <span className="figures">
            {check
              ? `Checking … ${Math.floor(100 * share)} %`
              : sending && sending.total > 0
                ? `${formatBytes(sending.done)} of ${formatBytes(sending.total)}`
                : SENDING_WORDS[p.state]}
          </span>
        </div>
      )}
      {p.fault !== null && (
        <p role="alert" className={styles.fault}>
          {p.fault}
        </p>
      )}
      <div className={styles.actions}>
        {running && button('pause', 'Pause')}
        {halted && button('resume', 'Go on', true)}
        {(running || halted) && button('cancel', 'Cancel')}
        {p.state === 'partly' && button('retry', 'Try those again', true)}
        {!running && !halted && !check && button('check', 'Check it at its place')}
        {!running && !halted && !check && button('again', 'Send what is new')}
        {check && (
          <Button size="small" variant="outlined" onClick={() => void library.stopTask(check.id)}>
            Stop
          </Button>
        )}
      </div>
    </div>
  );
}

const Sendings = ({ sendings }: { sendings: readonly SendingView[] }) => (
  <section aria-label="When it was sent">
    <h2>When it was sent</h2>
    <table>
      <tbody>
        {sendings.map((s) => (
          <tr key={s.number}>
            <th scope="row">{formatMoment(s.queuedAt)}</th>
            <td>{SENDING_WORDS[s.state]}</td>
            <td>
              {[
                [s.counts.fresh, 'new'],
                [s.counts.changed, 'changed'],
                [s.counts.same, 'as before'],
                [s.counts.left, 'no longer part of it'],
              ]
                .filter(([n]) => n !== 0)
                .map(([n, words]) => `${formatCount(Number(n))} ${words}`)
                .join(', ')}
            </td>
            <td className="figures">{formatBytes(s.bytes)}</td>
            <td>{s.who}</td>
          </tr>
        ))}
      </tbody>
    </table>
  </section>
);

const STATE_TONES = {
  waiting: ['plain', 'waits'],
  verified: ['proven', 'verified'],
  failed: ['stop', 'not verified'],
  left: ['plain', 'no longer part of it'],
} as const;

const Files = ({ of: p }: { of: PackageView }) => (
  <section aria-label="What stands there">
    <h2>What stands there</h2>
    <table aria-label="Files of the package">
      <tbody>
        {p.list.map((f) => (
          <tr key={f.place}>
            <th scope="row">
              <span className="figures">{f.place}</span>
              {f.fault !== null && <small className={styles.why}>{f.fault}</small>}
            </th>
            <td className="figures">{formatBytes(f.size)}</td>
            <td>
              <Tag tone={STATE_TONES[f.state][0]} title={f.hash ?? ''}>
                {STATE_TONES[f.state][1]}
              </Tag>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
    {p.files > p.list.length && (
      <p className="soft">
        … and {plural(p.files - p.list.length, 'more file')}; Contents.csv there has all.
      </p>
    )}
  </section>
);
