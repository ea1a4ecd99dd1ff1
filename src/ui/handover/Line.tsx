import Button from '@mui/material/Button';
import Link from '../platform/Link';
import { useState } from 'react';
import {
  HELD_WORDS,
  type Mend,
  type RehearsalView,
  type Tried,
  VERDICT_WORDS,
  WAY_WORDS,
} from '../../core/handover';
import { formatRate } from '../../core/platform/timecode/rate';
import { formatTimecode } from '../../core/platform/timecode/timecode';
import { useAddress } from '../platform/job';
import { VerdictMark } from './VerdictMark';
import styles from './handover.module.css';

type OfLine = RehearsalView['lines'][number];

const MEND_WORDS: Record<Mend, string> = {
  look: 'Look at it',
  rewrap: 'Rewrap',
  again: 'Make again',
  name: 'Name it',
};

/** One clip: how it goes in a sentence, and opened each way with its reason. */
export function Line({
  line,
  pending,
  mend,
}: {
  line: OfLine;
  pending: boolean;
  mend: (mend: Mend) => void;
}) {
  const address = useAddress();
  const [open, setOpen] = useState(false);
  const { edit, original } = line;
  return (
    <>
      <tr data-verdict={line.verdict}>
        <th scope="row" className="figures">
          <Link href={address(`/card/${line.card}?clip=${line.clip}`)}>{original.name}</Link>
          <small className="soft">
            {line.card} · {heldWords(original)}
          </small>
        </th>
        {edit.what === 'original' ? (
          <td className="soft">the original itself</td>
        ) : (
          <td className="figures">
            {edit.name}
            <small className="soft">
              {HELD_WORDS[edit.what]} · {heldWords(edit)}
            </small>
          </td>
        )}
        <td>
          <button
            type="button"
            className={styles.how}
            aria-expanded={open}
            aria-label={`${original.name}: ${VERDICT_WORDS[line.verdict]}. Every way`}
            onClick={() => setOpen(!open)}
          >
            <VerdictMark verdict={line.verdict} />
            <span>
              {summaryOf(line)}
              {line.notes.map((note) => (
                <small key={note}>{note}</small>
              ))}
            </span>
          </button>
        </td>
        <td>
          {line.mends[0] && (
            <Button size="small" disabled={pending} onClick={() => mend(line.mends[0]!)}>
              {MEND_WORDS[line.mends[0]]}
            </Button>
          )}
        </td>
      </tr>
      {open && (
        <tr className={styles.opened}>
          <td colSpan={4}>
            <dl>
              {line.ways.map((w) => (
                <div key={w.way}>
                  <dt>{WAY_WORDS[w.way]}</dt>
                  <dd data-result={w.result}>{w.result === 'connects' ? 'connects' : w.why}</dd>
                </div>
              ))}
            </dl>
          </td>
        </tr>
      )}
    </>
  );
}

const heldWords = ({ start, rate, frames, reel }: OfLine['edit']): string =>
  [
    start ? formatTimecode(start) : 'no timecode',
    ...(rate ? [formatRate(rate)] : []),
    ...(frames === null ? [] : [`${frames} fr`]),
    ...(reel === null ? [] : [`reel ${reel}`]),
  ].join(' · ');

/** By which ways it connects, or the reason that says most. */
function summaryOf({ ways, verdict }: OfLine): string {
  const connecting = ways.filter((w) => w.result === 'connects');
  if (connecting.length > 0) return `by ${connecting.map((w) => WAY_WORDS[w.way]).join(', ')}`;
  const order: readonly Tried['result'][] = ['apart', 'other', 'several', 'none'];
  // Of those that find nothing the last, which looks furthest.
  const worst = [...ways].reverse().sort((a, b) => order.indexOf(a.result) - order.indexOf(b.result))[0]!;
  return `${VERDICT_WORDS[verdict]}: ${worst.why}`;
}
