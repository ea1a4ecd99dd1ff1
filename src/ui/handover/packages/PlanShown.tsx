import type { ReactNode } from 'react';
import { LIST_WORDS, MEDIA_WORDS, type PackagePlan, type RemarkView } from '../../../core/handover';
import { formatBytes, formatCount, formatLeft, plural } from '../../platform/format';
import { Tag } from '../../platform/Tag';
import styles from './packages.module.css';

/** What would be done: how much, of what, what is missing, and why it cannot begin where it cannot. */
export function PlanShown({
  plan: p,
  stale,
  children,
}: {
  plan: PackagePlan;
  stale: boolean;
  children?: ReactNode;
}) {
  const { fresh, changed, same, left } = p.counts;
  const again = changed + same + left > 0;
  return (
    <div className={styles.planned} aria-label="What would be done" role="region" aria-busy={stale}>
      <h2>
        {p.files === 0
          ? 'Nothing to copy but the lists'
          : `${plural(p.files, 'file')}, ${formatBytes(p.bytes)}`}
      </h2>
      <p className="soft">
        of {plural(p.clips, 'clip')}
        {p.seconds !== null && p.files > 0 && `, in about ${formatLeft(p.seconds)}`}
        {p.free !== null && `; ${formatBytes(p.free)} free there`}
      </p>
      <p className={`figures ${styles.place}`}>{p.place}</p>
      {p.fault !== null && (
        <p role="alert" className={styles.fault}>
          <Tag tone="stop">cannot begin</Tag> {p.fault}
        </p>
      )}
      {again && (
        <p className={styles.again}>
          A package stands there. {formatCount(fresh)} new, {formatCount(changed)} changed;{' '}
          {formatCount(same)} as before {same === 1 ? 'is' : 'are'} not sent again
          {left > 0 && `; ${formatCount(left)} no longer part of it ${left === 1 ? 'stays' : 'stay'} there`}.
        </p>
      )}
      {children}
      <table aria-label="What the package holds">
        <tbody>
          {p.media.map((m) => (
            <tr key={m.what}>
              <th scope="row">{MEDIA_WORDS[m.what]}</th>
              <td className="figures">{plural(m.files, 'file')}</td>
              <td className="figures">{formatBytes(m.bytes)}</td>
            </tr>
          ))}
          {p.lists.map((l) => (
            <tr key={l}>
              <th scope="row">{LIST_WORDS[l]}</th>
              <td colSpan={2} />
            </tr>
          ))}
          <tr>
            <th scope="row">A list of what it contains, and the hash of every file</th>
            <td colSpan={2} />
          </tr>
        </tbody>
      </table>
      <Remarks remarks={p.remarks} more={p.moreRemarks} />
    </div>
  );
}

/** What does not go, or goes in place of something else, and why: clips of one reason together. */
export function Remarks({ remarks, more }: { remarks: readonly RemarkView[]; more: number }) {
  if (remarks.length === 0) return null;
  const by = new Map<string, RemarkView[]>();
  for (const r of remarks) by.set(r.why, [...(by.get(r.why) ?? []), r]);
  return (
    <section aria-label="To know">
      <h2>To know</h2>
      <ul className={styles.remarks}>
        {[...by].map(([why, of]) => (
          <li key={why}>
            <span>
              <b>{plural(of.length, 'clip')}</b>: {why}
            </span>
            <small className="soft">
              {of
                .slice(0, 12)
                .map((r) => `${r.name} (${r.card})`)
                .join(', ')}
              {of.length > 12 && ` and ${of.length - 12} more`}
            </small>
          </li>
        ))}
        {more > 0 && <li>… and {plural(more, 'more remark')}</li>}
      </ul>
    </section>
  );
}
