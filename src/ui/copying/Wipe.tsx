'use client';
import Button from '@mui/material/Button';
import { useMutation } from '@tanstack/react-query';
import Link from 'next/link';
import type { CheckReport, SafeCopyView } from '../../core/copying/shapes';
import { VERIFICATION_WORDS } from '../../core/copying/verification';
import { HASH_WORDS } from '../../core/exchange/hashes';
import { receiptUrl, server } from '../client';
import { formatBytes, formatMoment, plural } from '../shared/format';
import { ErrorNotice } from '../shared/Notice';
import { useWipe } from '../shared/queries';
import { Tag } from '../shared/Tag';
import styles from './copying.module.css';

/** May this card be wiped? The answer, its reasons, and every copy with what proves it. */
export function Wipe({ card }: { card: string }) {
  const wipe = useWipe(card);
  if (wipe.error) return <div style={{ padding: 20 }}><ErrorNotice error={wipe.error} again={() => void wipe.refetch()} /></div>;
  if (!wipe.data) return null;
  const w = wipe.data;
  return (
    <div className={styles.screen}>
      <header className={styles.head}>
        <div>
          <h1>May <span className="figures">{w.card}</span> be wiped?</h1>
          <p className="soft">camera {w.camera || '–'} · day {w.day} · {plural(w.files, 'file')}, {formatBytes(w.bytes)} when it was offered</p>
        </div>
        <span style={{ flex: 1 }} />
        <Button component={Link} href={`/card/${encodeURIComponent(card)}`} variant="outlined">Open the card</Button>
        <Button component="a" href={receiptUrl(card, 'html')} target="_blank" rel="noreferrer" variant="outlined">Receipt to print</Button>
        <Button component="a" href={receiptUrl(card, 'json')} variant="outlined">Receipt as JSON</Button>
      </header>
      <section className={styles.answer} data-may={w.may ? '' : undefined} aria-label="Answer">
        <strong>{w.may ? 'Yes' : 'No'}</strong>
        <div>
          <b>{w.because}</b>
          {w.missing.filter((m) => m !== w.because).map((m) => <p key={m}>{m}</p>)}
          {w.notes.map((n) => <p key={n} className="soft">{n}</p>)}
        </div>
      </section>
      <h2>Safe copies</h2>
      {w.copies.length === 0 && <p className="soft">There is none. Copies on the shelf are working copies: they are renamed, and do not count.</p>}
      <div className={styles.copies}>{w.copies.map((c) => <Copy key={c.id} copy={c} />)}</div>
      {w.shelf && w.copies.length > 0 && <p className="soft">The clips on the shelf are working copies: they are renamed, and do not count.</p>}
    </div>
  );
}

function Copy({ copy }: { copy: SafeCopyView }) {
  const check = useMutation({ mutationFn: () => server.checkAgain(copy.id) });
  const report = copy.check;
  const bad = report !== null && report.changed.length + report.missing.length + report.unreadable.length > 0;
  return (
    <article className={styles.copy} aria-label={`Copy on ${copy.rootName}`}>
      <div className={styles.copyHead}>
        <strong>{copy.rootName}</strong>
        {!copy.present ? <Tag tone="stop">not there now</Tag> : bad ? <Tag tone="stop">spoilt</Tag> : copy.verification === 'sizes' ? <Tag tone="look">by sizes only</Tag> : <Tag tone="proven">verified by contents</Tag>}
        <span style={{ flex: 1 }} />
        <Button size="small" variant="outlined" disabled={!copy.present || copy.checking !== null || check.isPending} onClick={() => check.mutate()}>
          {copy.checking !== null || check.isPending ? `Checking … ${Math.floor(100 * (copy.checking ?? 0))} %` : 'Check again'}
        </Button>
      </div>
      <div className="figures" style={{ fontSize: 12, overflowWrap: 'anywhere' }}>{copy.place}</div>
      <div>on <b>{copy.volumeName}</b>{copy.standIn ? ' (stand-in)' : ''} · {plural(copy.files, 'file')}, {formatBytes(copy.bytes)}</div>
      <div className="soft">{VERIFICATION_WORDS[copy.verification].name}, {HASH_WORDS[copy.hash]}, {formatMoment(copy.verifiedAt)}</div>
      <ErrorNotice error={check.error} close={check.reset} />
      {report && <Report report={report} />}
    </article>
  );
}

/** What a check found, each sort on its own. */
export function Report({ report }: { report: CheckReport }) {
  const sorts = [
    ['changed', report.changed, 'stop'], ['missing', report.missing, 'stop'], ['unreadable', report.unreadable.map((u) => `${u.path}: ${u.why}`), 'stop'],
    ['new', report.added, 'look'], ['without a hash known here', report.unchecked, 'look'],
  ] as const;
  return (
    <div className={styles.report}>
      <span>Checked {formatMoment(report.at)} against {report.list}{report.generation !== null ? `, generation ${report.generation} written` : ''}: </span>
      <Tag tone="proven">{report.same} the same</Tag> {sorts.filter(([, list]) => list.length > 0).map(([word, list, tone]) => (
        <span key={word}><Tag tone={tone}>{list.length} {word}</Tag><ul>{list.slice(0, 20).map((p) => <li key={p} className="figures">{p}</li>)}{list.length > 20 && <li>and {list.length - 20} more</li>}</ul></span>
      ))}
      {report.lists.map((l) => <p key={l} style={{ color: 'var(--brick)' }}>! {l}</p>)}
    </div>
  );
}
