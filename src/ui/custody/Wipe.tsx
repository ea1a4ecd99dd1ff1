'use client';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import { useMutation } from '@tanstack/react-query';
import Link from '../platform/Link';
import type { CheckReport, SafeCopyView, WipeView } from '../../core/custody/shapes';
import { VERIFICATION_WORDS } from '../../core/offload';
import { VERDICT_WORDS, type WayOn } from '../../core/custody/wipe';
import { HASH_WORDS } from '../../core/hashLists';
import { diskWords } from '../../core/platform/disks';
import { library } from '../platform/client';
import { useAddress, useServer } from '../platform/job';
import { formatBytes, formatMoment, plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { useTasks, useWipe } from '../platform/queries';
import { Tag } from '../platform/Tag';
import styles from '../offload/offload.module.css';

/** May this card be wiped? The answer, its reasons each with the way on, and every copy with what proves it. `card` is a card's id, or a physical card's. */
export function Wipe({ card }: { card: string }) {
  const server = useServer();
  const wipe = useWipe(card);
  const counting = useMutation({ mutationFn: server.countCopies, onSettled: () => wipe.refetch() });
  if (wipe.error)
    return (
      <div style={{ padding: 20 }}>
        <ErrorNotice error={wipe.error} again={() => void wipe.refetch()} />
      </div>
    );
  if (!wipe.data)
    return (
      <p className="soft" style={{ padding: 20 }} role="status">
        Looking at the copies …
      </p>
    );
  const w = wipe.data;
  return (
    <div className={styles.screen}>
      <Head wipe={w} receipts={card} />
      <Answer wipe={w} again={() => void wipe.refetch()} isLooking={wipe.isFetching} />
      {w.reasons.length > 0 && <Missing wipe={w} />}
      <div className={styles.subhead}>
        <h2>Safe copies</h2>
        <WhatCounts wipe={w} set={counting.mutate} isBusy={counting.isPending} />
      </div>
      <ErrorNotice error={counting.error} close={counting.reset} />
      {w.copies.length === 0 && (
        <p className="soft">
          There is none. Copies on the shelf are working copies: they are renamed, and do not count.
        </p>
      )}
      <div className={styles.copies}>
        {w.copies.map((c) => (
          <Copy key={c.id} copy={c} />
        ))}
      </div>
      {w.shelf && w.copies.length > 0 && (
        <p className="soft">The clips on the shelf are working copies: they are renamed, and do not count.</p>
      )}
    </div>
  );
}

/** Which card is asked about, and its receipts: `receipts` is what they are asked for by. */
function Head({ wipe: w, receipts }: { wipe: WipeView; receipts: string }) {
  const address = useAddress();
  const server = useServer();
  return (
    <header className={styles.head}>
      <div>
        <h1>
          May <span className="figures">{w.card}</span> be wiped?
        </h1>
        <p className="soft">
          {w.labelled ? `camera ${w.camera || '–'} · day ${w.day} · ` : 'no longer in the job · '}
          {plural(w.files, 'file')}, {formatBytes(w.bytes)}{' '}
          {w.scope === 'folder' ? 'in the folder that was offered' : 'on the card'}
        </p>
      </div>
      <span style={{ flex: 1 }} />
      {w.labelled && (
        <Button component={Link} href={address(`/card/${encodeURIComponent(w.card)}`)} variant="outlined">
          Open the card
        </Button>
      )}
      <Button
        component="a"
        href={server.receiptUrl(receipts, 'html')}
        target="_blank"
        rel="noreferrer"
        variant="outlined"
      >
        Receipt to print
      </Button>
      <Button component="a" href={server.receiptUrl(receipts, 'json')} variant="outlined">
        Receipt as JSON
      </Button>
    </header>
  );
}

function Answer({ wipe: w, again, isLooking }: { wipe: WipeView; again: () => void; isLooking: boolean }) {
  return (
    <section className={styles.answer} data-verdict={w.verdict} aria-label="Answer">
      <strong
        data-long={
          w.verdict === 'notNow' || w.verdict === 'asOf' || (w.may && w.scope === 'folder') ? '' : undefined
        }
      >
        {w.may && w.scope === 'folder'
          ? `${VERDICT_WORDS[w.verdict]}, this folder`
          : VERDICT_WORDS[w.verdict]}
      </strong>
      <div>
        <b>{w.because}</b>
        <p className="soft figures">
          looked at {formatMoment(w.at)}{' '}
          <Button size="small" sx={{ py: 0 }} disabled={isLooking} onClick={again}>
            {isLooking ? 'Looking …' : 'Look again'}
          </Button>
        </p>
        {w.notes.map((n) => (
          <p key={n} className="soft">
            {n}
          </p>
        ))}
      </div>
    </section>
  );
}

/** What is missing for a yes, each reason with its files and the way on. */
function Missing({ wipe: w }: { wipe: WipeView }) {
  return (
    <section aria-label="What is missing for a yes">
      <h2>What is missing for a yes</h2>
      <ul className={styles.reasons}>
        {w.reasons.map((r) => (
          <li key={r.text}>
            <div>
              <b>{r.text}</b>
              {r.files.length > 0 && (
                <p className="figures">
                  {r.files.join(' · ')}
                  {r.count > r.files.length ? ` · and ${r.count - r.files.length} more` : ''}
                </p>
              )}
            </div>
            {r.way && <Way way={r.way} wipe={w} />}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What counts in this job, where the answer may depend on it. */
function WhatCounts({
  wipe: w,
  set,
  isBusy,
}: {
  wipe: WipeView;
  set: (counts: { offlineCounts: boolean } | { serversApart: boolean }) => void;
  isBusy: boolean;
}) {
  const isAway = w.copies.some((c) => !c.present);
  const servers = new Set(w.copies.flatMap((c) => (c.disk.kind === 'network' ? c.disk.disks : [])));
  return (
    <>
      {(isAway || w.offlineCounts) && (
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              checked={w.offlineCounts}
              disabled={isBusy}
              onChange={(e) => set({ offlineCounts: e.target.checked })}
            />
          }
          label="In this job, copies on drives that are offline count as they were last seen"
        />
      )}
      {(servers.size > 1 || w.serversApart) && (
        <FormControlLabel
          control={
            <Checkbox
              size="small"
              checked={w.serversApart}
              disabled={isBusy}
              onChange={(e) => set({ serversApart: e.target.checked })}
            />
          }
          label="In this job, servers of different addresses are different servers"
        />
      )}
    </>
  );
}

/** The way on from a reason: a button where it can be done here. */
function Way({ way, wipe }: { way: WayOn; wipe: WipeView }) {
  const address = useAddress();
  const server = useServer();
  const check = useMutation({ mutationFn: server.checkAgain });
  const retry = useMutation({ mutationFn: (id: string) => server.changeOffload(id, { action: 'retry' }) });
  if (way.do === 'check') {
    const copy = wipe.copies.find((c) => c.id === way.copy);
    if (!copy) return null;
    return (
      <Button
        size="small"
        variant="outlined"
        disabled={!copy.present || copy.checking !== null || check.isPending}
        onClick={() => check.mutate(way.copy)}
      >
        Check {copy.rootName} again
      </Button>
    );
  }
  if (way.do === 'connect') return <span className="soft">connect the drive, then Look again</span>;
  if (way.do === 'retry' && wipe.retry)
    return (
      <Button
        size="small"
        variant="outlined"
        disabled={retry.isPending}
        onClick={() => retry.mutate(wipe.retry!)}
      >
        Try again
      </Button>
    );
  if (way.do === 'servers') return <span className="soft">say so below, or copy to a drive</span>;
  if (way.do === 'wait')
    return (
      <Button size="small" component={Link} href={address('/intake')} variant="outlined">
        See the copies
      </Button>
    );
  return (
    <Button size="small" component={Link} href={address('/intake')} variant="outlined">
      Copy the card
    </Button>
  );
}

function Copy({ copy }: { copy: SafeCopyView }) {
  const server = useServer();
  const check = useMutation({ mutationFn: () => server.checkAgain(copy.id) });
  const task = (useTasks().data ?? []).find((t) => t.subject === copy.id);
  const report = copy.check;
  // The task tells how far it is; the copy itself is looked at anew when it has ended.
  const share = task && task.total > 0 ? task.done / task.total : (copy.checking ?? 0);
  const busy = copy.checking !== null || check.isPending;
  const state = !copy.present
    ? (['look', 'offline'] as const)
    : copy.wrong > 0
      ? (['stop', plural(copy.wrong, 'file') + ' not as copied'] as const)
      : copy.withCard
        ? (['look', 'on the card’s own disk'] as const)
        : !copy.sameDisk
          ? (['look', 'now on another disk'] as const)
          : copy.sizeOnly > 0
            ? (['look', 'by size only'] as const)
            : (['proven', 'verified by contents'] as const);
  return (
    <article className={styles.copy} aria-label={`Copy on ${copy.rootName}`}>
      <div className={styles.copyHead}>
        <strong>{copy.rootName}</strong>
        <Tag tone={state[0]}>{state[1]}</Tag>
        <span style={{ flex: 1 }} />
        {busy && task && (
          <Button size="small" onClick={() => void library.stopTask(task.id)}>
            Stop
          </Button>
        )}
        <Button
          size="small"
          variant="outlined"
          disabled={!copy.present || busy}
          onClick={() => check.mutate()}
        >
          {busy ? `Checking … ${Math.floor(100 * share)} %` : 'Check again'}
        </Button>
      </div>
      <div className="figures" style={{ fontSize: 12, overflowWrap: 'anywhere' }}>
        {copy.place}
      </div>
      <div>
        on <b>{diskWords(copy.disk)}</b> · <b className="figures">{copy.proven}</b> of{' '}
        {plural(copy.files, 'file')} proven, {formatBytes(copy.bytes)}
      </div>
      <div className="soft">
        {VERIFICATION_WORDS[copy.verification].name}, {HASH_WORDS[copy.hash]}; read last{' '}
        {formatMoment(copy.verifiedAt)}
      </div>
      <div className="soft">
        {copy.present
          ? 'looked at just now'
          : copy.seenAt
            ? `last seen ${formatMoment(copy.seenAt)}`
            : 'not seen since it was made'}
      </div>
      <ErrorNotice error={check.error} close={check.reset} />
      {report && <Report report={report} />}
    </article>
  );
}

const WITNESS_WORDS = {
  agrees: ['proven', 'the hash list agrees'],
  altered: ['stop', 'the hash list was altered or is not whole'],
  missing: ['look', 'the hash list is missing'],
} as const;

/** What a check found, each sort on its own. */
export function Report({ report }: { report: CheckReport }) {
  const sorts = [
    ['changed', report.changed, 'stop'],
    ['missing', report.missing, 'stop'],
    ['unreadable', report.unreadable.map((u) => `${u.path}: ${u.why}`), 'stop'],
    ['new', report.added, 'look'],
    ['without a hash known here', report.unchecked, 'look'],
    ['listed otherwise', report.disagree, 'stop'],
  ] as const;
  return (
    <div className={styles.report}>
      <span>
        Checked {formatMoment(report.at)} against{' '}
        {report.against === 'record' ? 'what was recorded while copying' : report.list}
        {report.generation !== null ? `, generation ${report.generation} written` : ''}:{' '}
      </span>
      <Tag tone="proven">{report.same} the same</Tag>{' '}
      {report.witness && (
        <Tag tone={WITNESS_WORDS[report.witness][0]}>{WITNESS_WORDS[report.witness][1]}</Tag>
      )}{' '}
      {sorts
        .filter(([, list]) => list.length > 0)
        .map(([word, list, tone]) => (
          <span key={word}>
            <Tag tone={tone}>
              {list.length} {word}
            </Tag>
            <ul>
              {list.slice(0, 20).map((p) => (
                <li key={p} className="figures">
                  {p}
                </li>
              ))}
              {list.length > 20 && <li>and {list.length - 20} more</li>}
            </ul>
          </span>
        ))}
      {report.lists.map((l) => (
        <p key={l} style={{ color: 'var(--brick)' }}>
          ! {l}
        </p>
      ))}
    </div>
  );
}
