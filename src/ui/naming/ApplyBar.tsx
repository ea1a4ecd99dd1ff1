'use client';
import Button from '@mui/material/Button';
import type { NamingSummary, PlanResult } from '../../core/naming/shapes';
import { GAP_WORDS } from '../../core/naming/counters';
import { formatBytes, plural } from '../platform/format';
import { Tag } from '../platform/Tag';
import type { RowFilter } from '../../core/naming/compose';
import styles from './naming.module.css';

interface Props {
  summary: NamingSummary | null;
  counts: Record<RowFilter, number> | null;
  /** Whether the list is of an earlier request. */
  pending: boolean;
  filter: RowFilter;
  setFilter: (filter: RowFilter) => void;
  applying: boolean;
  apply: () => void;
  done: PlanResult | null;
  undo: () => void;
  undoing: boolean;
  close: () => void;
  /** Whether the clips are not copied yet: they are named with the copy. */
  still: boolean;
}

/** What the plan would do, what is in its way, and the button that does it. */
export function ApplyBar(props: Props) {
  const { summary: p, counts, pending, filter, setFilter, applying, apply, done, still } = props;
  return (
    <>
      {done && <Done {...props} done={done} />}
      <div className={styles.apply}>
        {p && <Sentence p={p} />}
        {p && p.stops > 0 && <Tag tone="stop">{plural(p.stops, 'clash', 'clashes')}</Tag>}
        {p && p.looks > 0 && <Tag tone="look">{p.looks} to look at</Tag>}
        {p && p.gaps.length > 0 && <Gaps gaps={p.gaps} />}
        <span style={{ flex: 1 }} />
        {!done && (
          <span className="soft">
            {still ? 'named when they are copied' : 'nothing has been changed yet'}
          </span>
        )}
        <label className={styles.filter}>
          show{' '}
          <select value={filter} onChange={(e) => setFilter(e.target.value as RowFilter)}>
            <option value="all">all clips</option>
            <option value="problems" disabled={(counts?.problems ?? 0) === 0}>
              problems only
            </option>
            <option value="changes">changes only</option>
            <option value="strayed" disabled={(counts?.strayed ?? 0) === 0}>
              names that do not follow
            </option>
          </select>
        </label>
        {!still && (
          <Button
            variant="contained"
            disabled={!p || pending || p.stops > 0 || p.steps === 0 || applying}
            onClick={apply}
          >
            {applying
              ? 'Renaming …'
              : p && p.stops > 0
                ? 'Resolve the clash first'
                : p && p.steps > 0
                  ? `Rename ${plural(p.steps, 'file')}`
                  : p
                    ? 'Nothing to rename'
                    : 'Working out names …'}
          </Button>
        )}
      </div>
    </>
  );
}

function Sentence({ p }: { p: NamingSummary }) {
  if (p.steps === 0)
    return <span>{p.stops > 0 ? 'Nothing can be renamed yet.' : 'Every clip already has this name.'}</span>;
  return (
    <span>
      <strong>
        {plural(p.clips, 'clip')}, {plural(p.steps, 'file')}
      </strong>{' '}
      will get new names
      {p.copies > 0 &&
        `; ${plural(p.copies, 'file')}, ${formatBytes(p.copyBytes)}, will be copied and verified`}
      {p.links > 0 && `; ${plural(p.links, 'file')} will keep the old name as well`}.
    </span>
  );
}

/** Numbers that no clip has, with the reason of each. */
function Gaps({ gaps }: { gaps: NamingSummary['gaps'] }) {
  const said = gaps.slice(0, 30).map((g) => `${g.series}: ${g.number}, ${GAP_WORDS[g.reason]}`);
  return (
    <Tag tone="look" title={[...said, ...(gaps.length > 30 ? ['…'] : [])].join('\n')}>
      {plural(gaps.length, 'number is', 'numbers are')} free
    </Tag>
  );
}

function Done({ done, undo, undoing, close }: Props & { done: PlanResult }) {
  return (
    <div className={styles.done} role="status" data-partly={done.failed.length > 0 ? '' : undefined}>
      <div>
        <strong>{plural(done.done, 'file')} renamed and placed.</strong>{' '}
        {done.failed.length > 0 &&
          `${plural(done.failed.length, 'file')} could not be, and their families stay where they were:`}
        {done.failed.slice(0, 4).map((f) => (
          <div key={f.file} style={{ fontSize: 13 }}>
            <span className="figures">{f.file}</span>: {f.fault}
          </div>
        ))}
      </div>
      <Button size="small" variant="outlined" color="inherit" onClick={undo} disabled={undoing}>
        {undoing ? 'Undoing …' : 'Undo'}
      </Button>
      <Button size="small" color="inherit" onClick={close}>
        Close
      </Button>
    </div>
  );
}
