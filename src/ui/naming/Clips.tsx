import {
  DndContext,
  type DragEndEvent,
  DragOverlay,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { type ReactNode, useState } from 'react';
import type { JobView } from '../../core/jobs';
import type { Coming } from '../../core/naming';
import type { Convention } from '../../core/naming/convention';
import type { NamingRow } from '../../core/naming/shapes';
import { plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { useDropTarget } from '../platform/useDropTarget';
import { FillDialog } from './FillDialog';
import { ListHead } from './ListHead';
import { MoveDialog, type Wanted } from './MoveDialog';
import { NameList } from './NameList';
import styles from './naming.module.css';
import type { Line } from './outline';
import { ShelfTree } from './ShelfTree';
import type { BenchState } from './useBench';

/** The clips with their names before and after, and the shelf as it will be, onto which they are dragged. */
export function Clips({
  bench,
  job,
  cards,
  coming,
  convention,
  block,
}: {
  bench: BenchState;
  job: JobView;
  cards: string[];
  coming: Coming | null;
  convention: Convention;
  block: string | null;
}) {
  const { preview, composer } = bench.plan;
  const { selected, setSelected, anchor } = bench.selection;
  const [dragged, setDragged] = useState<NamingRow | null>(null);
  const [move, setMove] = useState<{ clips: string[]; from: NamingRow; wanted: Wanted } | null>(null);
  const [filling, setFilling] = useState(false);
  const { collisionDetection, target } = useDropTarget();
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 8 } }));
  const moveSelected = async () => {
    // Where the one chosen last belongs is where the others are likely to.
    const [from] = await composer.rows(bench.filter, anchor, anchor + 1);
    if (from) setMove({ clips: [...selected], from, wanted: { day: null, camera: null, card: null } });
  };
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
  return (
    <>
      <DndContext
        id="clips"
        sensors={sensors}
        collisionDetection={collisionDetection}
        onDragStart={({ active }) => setDragged((active.data.current?.row as NamingRow | undefined) ?? null)}
        onDragCancel={() => setDragged(null)}
        onDragEnd={drop}
      >
        <div className={styles.body}>
          <List
            {...{ bench, coming, cards, block }}
            move={() => void moveSelected()}
            fillFrom={() => setFilling(true)}
          />
          <ShelfTree
            shelf={preview?.summary.shelf ?? []}
            dragging={dragged !== null}
            still={coming !== null}
          />
        </div>
        <Dragged clips={dragged && (selected.has(dragged.clipId) ? selected.size : 1)} />
      </DndContext>
      {filling && (
        <FillDialog
          composer={composer}
          convention={convention}
          close={(filled) => {
            setFilling(false);
            if (filled) bench.said.did(filled);
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
    </>
  );
}

/** How many clips are being dragged; null where none is. */
const Dragged = ({ clips }: { clips: number | null }) => (
  <DragOverlay dropAnimation={null}>
    {clips !== null && <div className={styles.dragged}>{plural(clips, 'clip')}</div>}
  </DragOverlay>
);

/** The list with what is done with its selected lines. */
function List({
  bench,
  coming,
  cards,
  block,
  move,
  fillFrom,
}: {
  bench: BenchState;
  coming: Coming | null;
  cards: string[];
  block: string | null;
  move: () => void;
  fillFrom: () => void;
}) {
  const { plan, filter, columns, setColumns, without, setWithout, typed } = bench;
  const { chosenCards, setChosenCards, chosenClips, setChosenClips } = bench;
  const { selected, setSelected, select } = bench.selection;
  const { preview, composer } = plan;
  const toggle = (clip: string) =>
    setWithout((old) => {
      const next = new Set(old);
      if (!next.delete(clip)) next.add(clip);
      return next;
    });
  return (
    <section className={styles.list} aria-label="Before and after" aria-busy={plan.pending}>
      {coming ? (
        <ComingHead card={coming.cardId} looked={plan.coming} />
      ) : (
        <ListHead
          cards={cards}
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
          move={move}
          fillFrom={fillFrom}
        />
      )}
      <PlanState plan={plan}>
        <NameList
          composer={composer}
          made={plan.made}
          filter={filter}
          total={preview?.counts[filter] ?? 0}
          block={block}
          without={without}
          toggle={toggle}
          selected={selected}
          select={(...how) => void select(...how)}
          columns={columns}
          still={coming !== null}
          say={(column, index, text) => typed.say.mutate({ column, index, text })}
        />
      </PlanState>
    </section>
  );
}

/** Of clips that are still on a card: how many of them were read. */
function ComingHead({ card, looked }: { card: string; looked: BenchState['plan']['coming'] }) {
  return (
    <div className={styles.cards}>
      <strong className="figures">{card}</strong>
      {looked && plural(looked.of, 'clip')}
      <span className="soft" role="status">
        not copied yet
        {looked && looked.read < looked.of ? ` · reading, ${looked.read} of ${looked.of}` : ''}
      </span>
    </div>
  );
}

/** What speaks against showing the list yet, in its place. */
function PlanState({ plan, children }: { plan: BenchState['plan']; children: ReactNode }) {
  if (plan.error)
    return (
      <div style={{ padding: 12 }}>
        <ErrorNotice error={plan.error} again={plan.again} />
      </div>
    );
  if (!plan.preview)
    return (
      <p className="soft" role="status" style={{ padding: '10px 14px', margin: 0 }}>
        Reading the clips and working out their names …
      </p>
    );
  return children;
}
