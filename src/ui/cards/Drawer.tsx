'use client';
import type { ReactNode } from 'react';
import type { Tile } from '../../core/choose';
import { FieldGroup, GROUP_WORDS } from '../../core/facts';
import { isMoving, KIND_WORDS, ROLE_WORDS } from '../../core/intake';
import { CHECK_WORDS } from '../../core/proxies';
import type { ClipDetail, ClipView } from '../../core/cards/shapes';
import { formatBytes, formatMoment, plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { PairMark } from '../platform/PairMark';
import { useClip } from '../platform/queries';
import styles from './drawer.module.css';
import type { Film } from './useFilm';
import { Viewer } from './Viewer';

interface DrawerProps {
  clip: ClipView;
  others: number;
  /** The frame that is shown first. */
  at?: number;
  /** What is said of stretches of it, drawn where it is played. */
  ranges?: Tile['ranges'];
  /** What stands below its picture. */
  below?: (film: Film) => ReactNode;
  /** What stands between what is wrong with it and its facts. */
  between?: ReactNode;
}

/** One clip: viewer, what is to look at, facts with their sources, family, where it is and was. */
export function Drawer({ clip, others, at = 0, ranges = [], below, between }: DrawerProps) {
  const detail = useClip(clip.id);
  return (
    <aside className={styles.drawer} aria-label="Clip">
      <Viewer
        key={clip.id}
        clip={clip}
        at={at}
        seen={detail.data?.seen ?? null}
        ranges={ranges}
        below={below}
      />
      <div>
        <div className={styles.title}>
          <strong className="figures">{clip.name}</strong>
          {clip.state === 'read' &&
            (isMoving(clip.kind) ? (
              <PairMark state={clip.pair.state} words />
            ) : (
              <span className="soft">{KIND_WORDS[clip.kind]}</span>
            ))}
        </div>
        <div className="soft">
          {clip.named ? (
            <>
              was <span className="figures">{clip.original}</span>
            </>
          ) : (
            'still under its camera name'
          )}
          {others > 0 && ` · and ${plural(others, 'more clip')} chosen`}
        </div>
      </div>
      {clip.problems.map((p) => (
        <div key={p.text} className={styles.problem} data-level={p.level}>
          <strong>{p.level === 'stop' ? 'Wrong: ' : 'Look: '}</strong>
          {p.text}
        </div>
      ))}
      {between}
      <ErrorNotice error={detail.error} again={() => void detail.refetch()} />
      {clip.pair.checks.length > 0 && clip.pair.state !== 'proven' && (
        <table className={styles.facts} aria-label="Pair checks">
          <tbody>
            {clip.pair.checks.map((c) => (
              <tr key={c.what} data-bad={c.result === 'same' ? undefined : ''}>
                <th>{CHECK_WORDS[c.what]}</th>
                <td className="figures">
                  {c.original} → {c.proxy}
                </td>
                <td>{c.result}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {detail.data && (
        <>
          <Facts facts={detail.data.facts} />
          <Family family={detail.data.family} />
          <Places places={detail.data.places} />
        </>
      )}
    </aside>
  );
}

/** What is known of it, by groups, with what else was stated. */
function Facts({ facts }: Pick<ClipDetail, 'facts'>) {
  return (
    <table className={styles.facts} aria-label="Facts">
      {FieldGroup.options.map((group) => {
        const rows = facts.filter((f) => f.group === group);
        return rows.length === 0 ? null : (
          <tbody key={group}>
            <tr className={styles.group}>
              <th colSpan={3}>{GROUP_WORDS[group]}</th>
            </tr>
            {rows.flatMap((f) => [
              <tr key={f.field}>
                <th>{f.term}</th>
                <td className="figures">{f.value}</td>
                <td>{f.source}</td>
              </tr>,
              ...f.others.map((o, i) => (
                <tr key={`${f.field}${i}`} className={styles.other}>
                  <td />
                  <td className="figures">
                    {o.contradicts ? <s>{o.value}</s> : <span className="soft">{o.value}</span>}
                  </td>
                  <td>{o.source}</td>
                </tr>
              )),
            ])}
          </tbody>
        );
      })}
    </table>
  );
}

function Family({ family }: Pick<ClipDetail, 'family'>) {
  return (
    <section>
      <h2>
        Family{' '}
        <span className="soft" style={{ fontWeight: 400 }}>
          {plural(family.length, 'file')}
        </span>
      </h2>
      <table className={styles.facts}>
        <tbody>
          {family.map((f) => (
            <tr key={f.id}>
              <th>{ROLE_WORDS[f.role]}</th>
              <td className="figures">
                {f.rootName}/{f.place.path}
              </td>
              <td>{formatBytes(f.size)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

const PLACE_WORDS = { card: 'On the card', copy: 'Safe copy on', place: 'On' };

/** Where the original is now, and where it was before. */
function Places({ places }: { places: ClipDetail['places'] }) {
  const now = places.filter((p) => p.until === null);
  const before = places.filter((p) => p.until !== null);
  const row = (p: (typeof places)[number], i: number) => (
    <div key={i} className={styles.standing} data-gone={p.until !== null}>
      <b>
        {PLACE_WORDS[p.what]} {p.name ?? 'a place that was removed'}
      </b>
      <span className="soft">
        {p.until === null ? `since ${formatMoment(p.since)}` : `until ${formatMoment(p.until)}`}
      </span>
      <span className="figures">{p.path}</span>
    </div>
  );
  return (
    <section>
      <h2>Where the original is</h2>
      {now.map(row)}
      {before.length > 0 && (
        <>
          <h2>Where it was</h2>
          {before.map(row)}
        </>
      )}
    </section>
  );
}
