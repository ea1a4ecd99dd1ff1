'use client';
import {
  DndContext,
  type DragEndEvent,
  DragOverlay,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import Button from '@mui/material/Button';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useSearchParams } from 'next/navigation';
import { Suspense, useState } from 'react';
import type { JobView } from '../../core/jobs';
import { System } from '../../core/naming/check';
import type { Coming } from '../../core/naming';
import type { Convention, FolderPlan, NamingRule } from '../../core/naming/convention';
import type { NamingRequest, NamingRow, PlanResult } from '../../core/naming/shapes';
import { useAddress, useServer } from '../platform/job';
import { plural } from '../platform/format';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useCards, useJob } from '../platform/queries';
import { handedOn } from '../platform/handedOn';
import { useDropTarget } from '../platform/useDropTarget';
import { ApplyBar } from './ApplyBar';
import { BlockRow } from './BlockRow';
import { BlockSettings } from './BlockSettings';
import { ChangesBoard } from './ChangesBoard';
import type { RowFilter } from '../../core/naming/compose';
import { JustDone, useUndoable } from '../shell';
import { FillDialog } from './FillDialog';
import { FolderBoard } from './FolderBoard';
import { LibraryMenu } from './LibraryMenu';
import { ListHead } from './ListHead';
import { MoveDialog, type Wanted } from './MoveDialog';
import { NameList } from './NameList';
import type { Line } from './outline';
import { RuleBar } from './RuleBar';
import { Field } from './SettingInput';
import { ShelfTree } from './ShelfTree';
import { type Column } from './TypedCell';
import { useComposition } from './useComposition';
import { usePlan } from './usePlan';
import { useTyped } from './useTyped';
import styles from './naming.module.css';

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

type Board = 'name' | 'folders' | 'changes';
const BOARDS: readonly (readonly [Board, string])[] = [
  ['name', 'Name'],
  ['folders', 'Folders'],
  ['changes', 'Changes'],
];

function Bench({ job, coming }: { job: JobView; coming: Coming | null }) {
  const address = useAddress();
  const server = useServer();
  const queries = useQueryClient();
  const params = useSearchParams();
  const asked = params.get('card');
  const { data: cards = [], isPending: loadingCards } = useCards();
  const { composition, setComposition, saving } = useComposition(job);
  const [editing, setEditing] = useState('');
  const [board, setBoard] = useState<Board>('name');
  const [chosenCards, setChosenCards] = useState<string[]>(asked ? [asked] : []);
  const [chosenClips, setChosenClips] = useState<string[]>(() => (params.has('chosen') ? handedOn() : []));
  const [without, setWithout] = useState<ReadonlySet<string>>(new Set());
  const [block, setBlock] = useState<string | null>(null);
  const [filter, setFilter] = useState<RowFilter>('all');
  const [columns, setColumns] = useState<readonly Column[]>([]);
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [anchor, setAnchor] = useState(0);
  const [dragged, setDragged] = useState<NamingRow | null>(null);
  const [move, setMove] = useState<{ clips: string[]; from: NamingRow; wanted: Wanted } | null>(null);
  const [filling, setFilling] = useState(false);
  const [done, setDone] = useState<PlanResult | null>(null);
  const request: NamingRequest = {
    convention: composition.convention,
    folderPlan: composition.folderPlan,
    ...composition.naming,
    cards: chosenCards,
    clips: chosenClips,
    without: [...without],
  };
  const plan = usePlan(
    job.code,
    request,
    columns.map((c) => c.field),
    coming,
  );
  const { preview, composer } = plan;
  const said = useUndoable(server.undoSaid, null);
  const typed = useTyped(composer, filter, columns, said);
  const { collisionDetection, target } = useDropTarget();
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 8 } }));
  const apply = useMutation({
    mutationFn: async () =>
      server.applyNames({ ...request, fingerprint: await composer.fingerprint(preview!.number) }),
    onSuccess: (r) => {
      setDone(r);
      void queries.invalidateQueries();
    },
    onError: plan.again,
  });
  const undo = useMutation({
    mutationFn: (id: string) => server.undo(id),
    onSuccess: () => {
      setDone(null);
      void queries.invalidateQueries();
    },
  });

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
  const set = (part: { convention?: Convention; folderPlan?: FolderPlan }) =>
    rule
      ? setRules(composition.naming.rules.map((r) => (r.id === rule.id ? { ...r, ...part } : r)))
      : setComposition((old) => ({ ...old, ...part }));
  const examples = (preview?.examples ?? []).filter((r) => r.rule === (rule?.id ?? ''));
  const example = examples[0] ?? null;
  const chosenBlock = board === 'name' ? convention.blocks.find((b) => b.id === block) : undefined;
  const select = async (clip: string, index: number, how: 'one' | 'more' | 'upTo') => {
    if (how === 'upTo') {
      const rows = await composer.rows(filter, Math.min(anchor, index), Math.max(anchor, index) + 1);
      setSelected(new Set(rows.map((r) => r.clipId)));
      return;
    }
    setAnchor(index);
    setSelected((old) => {
      if (how === 'one') return old.size === 1 && old.has(clip) ? new Set() : new Set([clip]);
      const next = new Set(old);
      if (!next.delete(clip)) next.add(clip);
      return next;
    });
  };
  const moveSelected = async () => {
    // Where the one chosen last belongs is where the others are likely to.
    const [from] = await composer.rows(filter, anchor, anchor + 1);
    if (from) setMove({ clips: [...selected], from, wanted: { day: null, camera: null, card: null } });
  };
  const toggle = (clip: string) =>
    setWithout((old) => {
      const next = new Set(old);
      if (!next.delete(clip)) next.add(clip);
      return next;
    });
  const drop = (dropped: DragEndEvent) => {
    setDragged(null);
    const line = (target(dropped) as { line: Line } | undefined)?.line;
    const row = dropped.active.data.current?.row as NamingRow | undefined;
    if (!line || !row) return;
    setMove({
      clips: selected.has(row.clipId) ? [...selected] : [row.clipId],
      from: row,
      wanted: { day: line.day, camera: line.camera, card: line.card },
    });
  };
  const error =
    apply.error ?? undo.error ?? typed.say.error ?? typed.fill.error ?? said.error ?? saving.error;
  const total = preview?.counts[filter] ?? 0;
  return (
    <div className={styles.bench}>
      <header className={styles.head}>
        <h1>Convention</h1>
        <input
          className={styles.conventionName}
          aria-label="Name of the convention"
          value={convention.name}
          maxLength={80}
          onChange={(e) =>
            e.target.value !== '' && set({ convention: { ...convention, name: e.target.value } })
          }
        />
        <LibraryMenu kept={{ convention, folderPlan }} take={set} suggest={composer.suggest} />
        <RuleBar
          rules={composition.naming.rules}
          set={setRules}
          editing={rule ? editing : ''}
          edit={(id) => {
            setEditing(id);
            setBlock(null);
          }}
          begin={(scope) => ({ id: newId(composition.naming.rules), scope, convention, folderPlan })}
          known={{
            cameras: job.cameras.map((c) => c.label),
            rates: preview?.summary.rates ?? [],
            cards: cards.map((c) => c.id),
          }}
        />
      </header>
      <div className={styles.boards}>
        <div className={styles.tabs} role="group" aria-label="What is set">
          {BOARDS.map(([b, word]) => (
            <button key={b} type="button" aria-pressed={board === b} onClick={() => setBoard(b)}>
              {word}
              {b === 'changes' && convention.changes.length > 0 ? ` ${convention.changes.length}` : ''}
            </button>
          ))}
        </div>
        <div className={styles.boardOf}>
          {board === 'name' && (
            <>
              <BlockRow
                label="Blocks of the name"
                blocks={convention.blocks}
                change={(blocks) => set({ convention: { ...convention, blocks } })}
                chosen={block}
                choose={setBlock}
                example={example?.parts ?? null}
              />
              {chosenBlock ? (
                <BlockSettings
                  key={chosenBlock.id}
                  block={chosenBlock}
                  first={convention.blocks[0]!.id === chosenBlock.id}
                  set={(b) =>
                    set({
                      convention: {
                        ...convention,
                        blocks: convention.blocks.map((x) => (x.id === b.id ? b : x)),
                      },
                    })
                  }
                />
              ) : (
                <WholeName
                  convention={convention}
                  set={(c) => set({ convention: c })}
                  systems={composition.naming.systems}
                  setSystems={(systems) =>
                    setComposition((old) => ({ ...old, naming: { ...old.naming, systems } }))
                  }
                />
              )}
            </>
          )}
          {board === 'folders' && (
            <FolderBoard
              plan={folderPlan}
              change={(f) => set({ folderPlan: f })}
              example={example ? example.folder.split('/') : []}
              roots={job.roots}
            />
          )}
          {board === 'changes' && (
            <ChangesBoard
              changes={convention.changes}
              set={(changes) => set({ convention: { ...convention, changes } })}
            />
          )}
        </div>
      </div>
      <Examples rows={examples} block={board === 'name' ? block : null} places={board === 'folders'} />
      <DndContext
        id="clips"
        sensors={sensors}
        collisionDetection={collisionDetection}
        onDragStart={({ active }) => setDragged((active.data.current?.row as NamingRow | undefined) ?? null)}
        onDragCancel={() => setDragged(null)}
        onDragEnd={drop}
      >
        <div className={styles.body}>
          <section className={styles.list} aria-label="Before and after" aria-busy={plan.pending}>
            {coming ? (
              <div className={styles.cards}>
                <strong className="figures">{coming.cardId}</strong>
                {plan.coming && plural(plan.coming.of, 'clip')}
                <span className="soft" role="status">
                  not copied yet
                  {plan.coming && plan.coming.read < plan.coming.of
                    ? ` · reading, ${plan.coming.read} of ${plan.coming.of}`
                    : ''}
                </span>
              </div>
            ) : (
              <ListHead
                cards={cards.map((c) => c.id)}
                chosenCards={chosenCards}
                chooseCards={setChosenCards}
                chosenClips={chosenClips.length}
                allClips={() => setChosenClips([])}
                columns={columns}
                setColumns={setColumns}
                selected={selected.size}
                unselect={() => setSelected(new Set())}
                fill={(column, value) => typed.fill.mutate({ column, clips: [...selected], value })}
                only={() => {
                  setChosenClips([...selected]);
                  setChosenCards([]);
                  setSelected(new Set());
                }}
                leaveOut={() => setWithout((old) => new Set([...old, ...selected]))}
                move={() => void moveSelected()}
                fillFrom={() => setFilling(true)}
              />
            )}
            {plan.error ? (
              <div style={{ padding: 12 }}>
                <ErrorNotice error={plan.error} again={plan.again} />
              </div>
            ) : !preview ? (
              <p className="soft" role="status" style={{ padding: '10px 14px', margin: 0 }}>
                Reading the clips and working out their names …
              </p>
            ) : (
              <NameList
                composer={composer}
                made={plan.made}
                filter={filter}
                total={total}
                block={block}
                without={without}
                toggle={toggle}
                selected={selected}
                select={(...how) => void select(...how)}
                columns={columns}
                still={coming !== null}
                say={(column, index, text) => typed.say.mutate({ column, index, text })}
              />
            )}
          </section>
          <ShelfTree
            shelf={preview?.summary.shelf ?? []}
            dragging={dragged !== null}
            still={coming !== null}
          />
        </div>
        <DragOverlay dropAnimation={null}>
          {dragged && (
            <div className={styles.dragged}>
              {plural(selected.has(dragged.clipId) ? selected.size : 1, 'clip')}
            </div>
          )}
        </DragOverlay>
      </DndContext>
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
          still={coming !== null}
        />
      </footer>
      <JustDone done={said} />
      {filling && (
        <FillDialog
          composer={composer}
          convention={convention}
          close={(filled) => {
            setFilling(false);
            if (filled) said.did(filled);
          }}
        />
      )}
      {move && (
        <MoveDialog
          clips={move.clips}
          from={move.from}
          wanted={move.wanted}
          job={job}
          close={(moved) => {
            setMove(null);
            if (moved) setSelected(new Set());
          }}
        />
      )}
    </div>
  );
}

function newId(rules: readonly NamingRule[]): string {
  let n = rules.length + 1;
  while (rules.some((r) => r.id === `rule-${n}`)) n++;
  return `rule-${n}`;
}

/** What holds for the whole name while no block is chosen. */
function WholeName({
  convention,
  set,
  systems,
  setSystems,
}: {
  convention: Convention;
  set: (convention: Convention) => void;
  systems: readonly System[];
  setSystems: (systems: System[]) => void;
}) {
  const between = new Set(convention.blocks.slice(1).map((b) => b.before));
  return (
    <div className={styles.settings} role="group" aria-label="Settings of the name">
      <Field
        label="between all blocks"
        value={between.size === 1 ? [...between][0]! : ''}
        most={8}
        set={(before) => set({ ...convention, blocks: convention.blocks.map((b) => ({ ...b, before })) })}
      />
      <span className={styles.dot}>·</span>
      <span role="group" aria-label="File systems" data-several="">
        names that fit
        {System.options.map((s) => (
          <label key={s}>
            <input
              type="checkbox"
              checked={systems.length === 0 || systems.includes(s)}
              onChange={() => {
                const on = systems.length === 0 ? System.options : systems;
                const next = System.options.filter((o) => (o === s ? !on.includes(o) : on.includes(o)));
                setSystems(next.length === System.options.length ? [] : next);
              }}
            />
            {s}
          </label>
        ))}
      </span>
      <span className="soft">Choose a block to set it, drag it to move it.</span>
    </div>
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
