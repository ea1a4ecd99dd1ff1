'use client';
import Button from '@mui/material/Button';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, useState } from 'react';
import type { PlanDetail, WayBack } from '../../core/naming';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import styles from './logbook.module.css';

const WAYS: Record<WayBack, string> = {
  open: '',
  renamed: 'renamed again since',
  gone: 'no longer in the job',
  undone: 'taken back',
};
const KINDS: Partial<Record<PlanDetail['steps'][number]['kind'], string>> = {
  copy: 'copied',
  uncopy: 'copy removed',
  carry: 'to another volume',
  link: 'hard link',
  unlink: 'hard link removed',
};

/** What a plan did, clip by clip; chosen clips can be taken back by themselves. */
export function PlanSteps({
  plan,
  undo,
  undoing,
}: {
  plan: PlanDetail;
  /** Null where nothing of it can be taken back here. */
  undo: ((clips: readonly string[]) => void) | null;
  undoing: boolean;
}) {
  const server = useServer();
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const holder = useRef<HTMLDivElement>(null);
  const stepsOf = new Map<string, PlanDetail['steps']>();
  for (const s of plan.steps) {
    const list = stepsOf.get(s.clipId);
    if (list) list.push(s);
    else stepsOf.set(s.clipId, [s]);
  }
  const lines = plan.clips.flatMap((clip) => [
    { clip, step: null },
    ...(stepsOf.get(clip.id) ?? []).map((step) => ({ clip, step })),
  ]);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => holder.current,
    estimateSize: () => 24,
    overscan: 20,
  });
  const open = plan.clips.filter((c) => c.back === 'open');
  const toggle = (id: string) =>
    setChosen((old) => {
      const next = new Set(old);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  return (
    <div>
      <div className={styles.stepsHead}>
        <a href={server.renameListUrl(plan.id, 'csv')}>List as CSV</a>
        <a href={server.renameListUrl(plan.id, 'text')}>Report as text</a>
        {undo && open.length > 0 && open.length < plan.clips.length && (
          <span className="soft">
            {plural(open.length, 'clip')} of {plan.clips.length} can still be undone
          </span>
        )}
        {undo && chosen.size > 0 && (
          <Button
            size="small"
            variant="outlined"
            disabled={undoing}
            onClick={() => {
              undo([...chosen]);
              setChosen(new Set());
            }}
          >
            Undo {plural(chosen.size, 'chosen clip')}
          </Button>
        )}
      </div>
      <div ref={holder} className={`${styles.steps} figures`} role="list" aria-label="Files of this change">
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((v) => {
            const { clip, step } = lines[v.index]!;
            return (
              <div
                key={v.index}
                role="listitem"
                className={styles.step}
                data-clip={step ? undefined : ''}
                style={{ transform: `translateY(${v.start}px)` }}
              >
                {step ? (
                  <StepCells step={step} />
                ) : (
                  <ClipChoice
                    clip={clip}
                    chosen={chosen.has(clip.id)}
                    toggle={undo ? () => toggle(clip.id) : null}
                  />
                )}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

const StepCells = ({ step }: { step: PlanDetail['steps'][number] }) => (
  <>
    <span title={step.from.path}>{step.from.path}</span>
    <span title={step.to.path}>→ {step.to.path}</span>
    <span>
      {step.state}
      {KINDS[step.kind] && `, ${KINDS[step.kind]}`}
      {step.fault && `: ${step.fault}`}
    </span>
  </>
);

/** A clip of the plan, to be chosen for the way back where there is one. */
const ClipChoice = ({
  clip,
  chosen,
  toggle,
}: {
  clip: PlanDetail['clips'][number];
  chosen: boolean;
  toggle: (() => void) | null;
}) => (
  <label>
    {toggle && (
      <input
        type="checkbox"
        checked={chosen}
        disabled={clip.back !== 'open'}
        onChange={toggle}
        aria-label={`Choose ${clip.original}`}
      />
    )}
    <strong>{clip.original}</strong> <span className="soft">{toggle ? WAYS[clip.back] : ''}</span>
  </label>
);
