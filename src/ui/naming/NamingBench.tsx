'use client';
import Button from '@mui/material/Button';
import { Suspense, useState } from 'react';
import type { JobView } from '../../core/jobs';
import type { Coming } from '../../core/naming';
import type { NamingRule } from '../../core/naming/convention';
import type { NamingRow } from '../../core/naming/shapes';
import { useAddress } from '../platform/job';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useCards, useJob } from '../platform/queries';
import { JustDone } from '../shell';
import { ApplyBar } from './ApplyBar';
import { BenchHead, type SetPart } from './BenchHead';
import { type Board, Boards } from './Boards';
import { Clips } from './Clips';
import styles from './naming.module.css';
import { type BenchState, useBench } from './useBench';
import { useComposition } from './useComposition';

type Saving = ReturnType<typeof useComposition>['saving'];

/**
 * The convention as a row of blocks, and what it makes of every name; apply, and take back. Of clips that are coming from a card it shows
 * what they will be called; they are named when they are copied.
 */
export function NamingBench({ coming = null }: { coming?: Coming | null }) {
  const job = useJob().data;
  return job ? (
    <Suspense>
      <Bench job={job} coming={coming} />
    </Suspense>
  ) : null;
}

function Bench({ job, coming }: { job: JobView; coming: Coming | null }) {
  const address = useAddress();
  const { data: cards = [], isPending: loadingCards } = useCards();
  const { composition, setComposition, saving } = useComposition(job);
  const [editing, setEditing] = useState('');
  const [board, setBoard] = useState<Board>('name');
  const [block, setBlock] = useState<string | null>(null);
  const bench = useBench(job, composition, coming);
  const { preview, composer } = bench.plan;

  if (loadingCards) return null;
  if (cards.length === 0 && !coming)
    return (
      <Empty whole title="There are no clips to name yet">
        <Button href={address('/intake')} variant="contained">
          Bring in footage
        </Button>
      </Empty>
    );
  const rule = composition.naming.rules.find((r) => r.id === editing);
  const { convention, folderPlan } = rule ?? composition;
  const setRules = (rules: NamingRule[]) =>
    setComposition((old) => ({ ...old, naming: { ...old.naming, rules } }));
  /** Changes what is on the bench: the job's own convention and folders, or a rule's. */
  const set: SetPart = (part) =>
    rule
      ? setRules(composition.naming.rules.map((r) => (r.id === rule.id ? { ...r, ...part } : r)))
      : setComposition((old) => ({ ...old, ...part }));
  const examples = (preview?.examples ?? []).filter((r) => r.rule === (rule?.id ?? ''));
  return (
    <div className={styles.bench}>
      <BenchHead
        {...{ convention, folderPlan, set, setRules }}
        rules={composition.naming.rules}
        editing={rule ? editing : ''}
        edit={(id) => {
          setEditing(id);
          setBlock(null);
        }}
        known={{
          cameras: job.cameras.map((c) => c.label),
          rates: preview?.summary.rates ?? [],
          cards: cards.map((c) => c.id),
        }}
        suggest={composer.suggest}
      />
      <Boards
        {...{ board, convention, folderPlan, set, block }}
        show={setBoard}
        chooseBlock={setBlock}
        example={examples[0] ?? null}
        systems={composition.naming.systems}
        setSystems={(systems) => setComposition((old) => ({ ...old, naming: { ...old.naming, systems } }))}
        roots={job.roots}
      />
      <Examples rows={examples} block={board === 'name' ? block : null} places={board === 'folders'} />
      <Clips
        bench={bench}
        job={job}
        cards={cards.map((c) => c.id)}
        coming={coming}
        convention={convention}
        block={block}
      />
      <Foot bench={bench} saving={saving} still={coming !== null} />
      <JustDone done={bench.said} />
    </div>
  );
}

/** How many names change, apply, and take back. */
function Foot({ bench, saving, still }: { bench: BenchState; saving: Saving; still: boolean }) {
  const { plan, said, typed, filter, setFilter } = bench;
  const { apply, undo, done, setDone } = bench.renaming;
  const { preview } = plan;
  const error =
    apply.error ?? undo.error ?? typed.say.error ?? typed.fill.error ?? said.error ?? saving.error;
  return (
    <footer className={styles.foot}>
      {error ? (
        <ErrorNotice
          error={error}
          close={() => {
            [apply, undo, typed.say, typed.fill, saving].forEach((m) => m.reset());
            said.forgetError();
          }}
        />
      ) : null}
      <ApplyBar
        summary={preview?.summary ?? null}
        counts={preview?.counts ?? null}
        // After a rename the list is of before it until it was made anew.
        pending={plan.pending || (done !== null && plan.fetching)}
        filter={filter}
        setFilter={setFilter}
        applying={apply.isPending}
        apply={() => apply.mutate()}
        done={done}
        undo={() => done && undo.mutate(done.planId)}
        undoing={undo.isPending}
        close={() => setDone(null)}
        still={still}
      />
    </footer>
  );
}

/** A few clips that differ, worked out: the result of a change is seen at once. */
function Examples({
  rows,
  block,
  places,
}: {
  rows: readonly NamingRow[];
  block: string | null;
  /** Whether their folders are shown as well. */
  places: boolean;
}) {
  return (
    <div className={styles.examples} aria-label="Examples" role="group">
      {rows.slice(0, places ? 2 : 4).map((r, i) => (
        <span key={r.clipId} className="figures" title={`${r.current}${r.extension}`}>
          {places && r.folder !== '' && <span className="soft">{r.folder}/</span>}
          <strong data-testid={i === 0 ? 'example' : undefined}>
            {r.parts.length === 0
              ? r.stem
              : r.parts.map((p) => (
                  <span key={p.blockId}>
                    {p.before}
                    {p.blockId === block ? <mark>{p.text}</mark> : p.text}
                  </span>
                ))}
            {r.extension}
          </strong>
        </span>
      ))}
    </div>
  );
}
