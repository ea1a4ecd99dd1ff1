'use client';
import Button from '@mui/material/Button';
import { useMutation, useQuery, useQueryClient, keepPreviousData } from '@tanstack/react-query';
import { useSearchParams } from 'next/navigation';
import { Suspense, useEffect, useRef, useState } from 'react';
import type { Convention, FolderPlan } from '../../core/naming/convention';
import type { JobView } from '../../core/jobs';
import type { NamingRequest, PlanResult } from '../../core/naming/shapes';
import { useSettled } from '../platform/useSettled';
import { useAddress, useServer } from '../platform/job';
import { formatBytes, plural } from '../platform/format';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useJob, useWall } from '../platform/queries';
import { Tag } from '../platform/Tag';
import { BlockRow } from './BlockRow';
import { BlockSettings } from './BlockSettings';
import { NameList } from './NameList';
import { ShelfAfter } from './ShelfAfter';
import styles from './naming.module.css';

/** The convention as a row of blocks, and what it makes of every name; apply, and take back. */
export function NamingBench() {
  const job = useJob().data;
  return job ? (
    <Suspense>
      <Bench job={job} />
    </Suspense>
  ) : null;
}

function Bench({ job }: { job: JobView }) {
  const address = useAddress();
  const server = useServer();
  const queries = useQueryClient();
  const asked = useSearchParams().get('card');
  const cards = useWall().data?.cards ?? [];
  const [convention, setConvention] = useState<Convention>(job.convention);
  const [folderPlan, setFolderPlan] = useState<FolderPlan>(job.folderPlan);
  const [chosenCards, setChosenCards] = useState<string[]>(asked ? [asked] : []);
  const [without, setWithout] = useState<string[]>([]);
  const [block, setBlock] = useState<string | null>(null);
  const [problemsOnly, setProblemsOnly] = useState(false);
  const [done, setDone] = useState<PlanResult | null>(null);
  const request: NamingRequest = { convention, folderPlan, cards: chosenCards, without };
  const settled = useSettled(JSON.stringify(request), 150);
  const preview = useQuery({
    queryKey: ['names', settled],
    queryFn: () => server.previewNames(JSON.parse(settled) as NamingRequest),
    placeholderData: keepPreviousData,
    retry: false,
  });
  // What is composed is kept, so that a reload or another tab finds it again.
  const save = useMutation({ mutationFn: server.saveSettings });
  const { mutate: keep } = save;
  const said = JSON.stringify({ convention: job.convention, folderPlan: job.folderPlan });
  const mine = JSON.stringify({ convention, folderPlan });
  const kept = useSettled(mine, 600);
  /** What this tab and the server agreed on last, whichever said it. */
  const agreed = useRef(said);
  useEffect(() => {
    if (kept === agreed.current) return;
    agreed.current = kept;
    keep(JSON.parse(kept) as { convention: Convention; folderPlan: FolderPlan });
  }, [kept, keep]);
  useEffect(() => {
    // What another tab composed is taken over, unless something is being composed here.
    if (said === agreed.current || mine !== agreed.current || save.isPending) return;
    agreed.current = said;
    setConvention(job.convention);
    setFolderPlan(job.folderPlan);
    // When the server tells of it, not when the person changes it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [said]);
  const apply = useMutation({
    mutationFn: () => server.applyNames({ ...request, fingerprint: preview.data!.fingerprint }),
    onSuccess: (r) => {
      setDone(r);
      void queries.invalidateQueries();
    },
    onError: () => void preview.refetch(),
  });
  const undo = useMutation({
    mutationFn: (id: string) => server.undo(id),
    onSuccess: () => {
      setDone(null);
      void queries.invalidateQueries();
    },
  });

  if (cards.length === 0)
    return (
      <Empty whole title="There are no clips to name yet">
        <Button href={address('/intake')} variant="contained">
          Bring in footage
        </Button>
      </Empty>
    );
  const p = preview.data;
  // What is shown may be applied while it is asked for anew: the server refuses a plan that is out of date.
  // After a rename the list is of before it until it has been asked for anew.
  const pending =
    settled !== JSON.stringify(request) || preview.isPlaceholderData || (done !== null && preview.isFetching);
  const toggle = (id: string) =>
    setChosenCards((old) => (old.includes(id) ? old.filter((c) => c !== id) : [...old, id]));
  const selected = convention.blocks.find((b) => b.id === block) ?? null;
  const example = p?.rows.find((r) => !r.out) ?? p?.rows[0];
  const rows = p
    ? problemsOnly
      ? p.rows.filter((r) => r.problems.length > 0 || without.includes(r.clipId))
      : p.rows
    : [];
  return (
    <div className={styles.bench}>
      <header className={styles.head}>
        <h1>Convention</h1>
        <span className="soft">{convention.name}</span>
        <span style={{ flex: 1 }} />
        {example && (
          <>
            <span className="soft">Example</span>
            <strong className="figures" style={{ fontSize: 16 }} data-testid="example">
              {example.stem}
              {example.extension}
            </strong>
          </>
        )}
      </header>
      <BlockRow
        convention={convention}
        change={setConvention}
        chosen={block}
        choose={setBlock}
        example={example ?? null}
      />
      <BlockSettings
        convention={convention}
        block={selected}
        change={setConvention}
        folderPlan={folderPlan}
        changeFolders={setFolderPlan}
      />
      <div className={styles.body}>
        <section className={styles.list} aria-label="Before and after" aria-busy={pending}>
          <div className={styles.cards} role="group" aria-label="Cards to name">
            <span className="soft">Cards</span>
            <button type="button" aria-pressed={chosenCards.length === 0} onClick={() => setChosenCards([])}>
              all
            </button>
            {cards.map((c) => (
              <button
                key={c.id}
                type="button"
                className="figures"
                aria-pressed={chosenCards.includes(c.id)}
                onClick={() => toggle(c.id)}
              >
                {c.id}
              </button>
            ))}
          </div>
          {preview.error ? (
            <div style={{ padding: 12 }}>
              <ErrorNotice error={preview.error} again={() => void preview.refetch()} />
            </div>
          ) : (
            p && (
              <NameList
                rows={rows}
                block={block}
                without={without}
                toggle={(id) =>
                  setWithout((old) => (old.includes(id) ? old.filter((c) => c !== id) : [...old, id]))
                }
              />
            )
          )}
        </section>
        <ShelfAfter shelf={p?.shelf ?? []} />
      </div>
      <footer className={styles.foot}>
        {apply.error || undo.error ? (
          <ErrorNotice
            error={apply.error ?? undo.error}
            close={() => {
              apply.reset();
              undo.reset();
            }}
          />
        ) : null}
        {done && (
          <Done
            result={done}
            undo={() => undo.mutate(done.planId)}
            undoing={undo.isPending}
            close={() => setDone(null)}
          />
        )}
        <div className={styles.apply}>
          {p &&
            (p.steps === 0 ? (
              <span>{p.stops > 0 ? 'Nothing can be renamed yet.' : 'Every clip already has this name.'}</span>
            ) : (
              <span>
                <strong>
                  {plural(p.clips, 'clip')}, {plural(p.steps, 'file')}
                </strong>{' '}
                will get new names
                {p.copies > 0 &&
                  `; ${plural(p.copies, 'file')}, ${formatBytes(p.copyBytes)}, will be copied to the shelf and verified`}
                .
              </span>
            ))}
          {p && p.stops > 0 && <Tag tone="stop">{plural(p.stops, 'clash', 'clashes')}</Tag>}
          {p && p.looks > 0 && <Tag tone="look">{p.looks} to look at</Tag>}
          <span style={{ flex: 1 }} />
          {!done && <span className="soft">nothing has been changed yet</span>}
          <Button
            variant="outlined"
            color="inherit"
            disabled={!p || p.stops + p.looks === 0}
            onClick={() => setProblemsOnly(!problemsOnly)}
          >
            {problemsOnly ? 'Show all' : 'Show problems only'}
          </Button>
          <Button
            variant="contained"
            disabled={!p || pending || p.stops > 0 || p.steps === 0 || apply.isPending}
            onClick={() => apply.mutate()}
          >
            {apply.isPending
              ? 'Renaming …'
              : p && p.stops > 0
                ? 'Resolve the clash first'
                : p && p.steps > 0
                  ? `Rename ${plural(p.steps, 'file')}`
                  : 'Nothing to rename'}
          </Button>
        </div>
      </footer>
    </div>
  );
}

function Done({
  result,
  undo,
  undoing,
  close,
}: {
  result: PlanResult;
  undo: () => void;
  undoing: boolean;
  close: () => void;
}) {
  return (
    <div className={styles.done} role="status" data-partly={result.failed.length > 0 ? '' : undefined}>
      <div>
        <strong>{plural(result.done, 'file')} renamed and placed.</strong>{' '}
        {result.failed.length > 0 &&
          `${plural(result.failed.length, 'file')} could not be, and their families stay where they were:`}
        {result.failed.slice(0, 4).map((f) => (
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
