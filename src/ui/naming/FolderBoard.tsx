'use client';
import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { arrayMove, horizontalListSortingStrategy, SortableContext, useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { useState } from 'react';
import { type Block, type BlockKind, moduleOf } from '../../core/naming/blocks';
import { type FolderPlan, type Manner, PLACED_ROLES, type RolePlace } from '../../core/naming/convention';
import { isMade, ROLE_WORDS } from '../../core/intake';
import type { RootView } from '../../core/places';
import { BlockSettings } from './BlockSettings';
import { KindMenu } from './KindMenu';
import { another, withBlock, withoutBlock, withSet } from './rows';
import { Choice, Field } from './SettingInput';
import { SkeletonDialog } from './SkeletonDialog';
import styles from './naming.module.css';

/** Folders as levels of blocks, and where the roles of a family go. */
export function FolderBoard({
  plan,
  change,
  example,
  roots,
}: {
  plan: FolderPlan;
  change: (plan: FolderPlan) => void;
  /** The folders of an example, outermost first. */
  example: readonly string[];
  roots: readonly RootView[];
}) {
  const [chosen, setChosen] = useState<{ level: number; block: string } | null>(null);
  const [menu, setMenu] = useState<{ at: HTMLElement; level: number | null } | null>(null);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const { levels } = plan;
  const ids = levels.map((_, i) => `level-${i}`);
  const setLevels = (next: Block[][]) => change({ ...plan, levels: next });
  const drop = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    setChosen(null);
    setLevels(arrayMove([...levels], ids.indexOf(String(active.id)), ids.indexOf(String(over.id))));
  };
  const add = (kind: BlockKind) => {
    const level = menu?.level ?? null;
    setMenu(null);
    const block = another(kind, level === null ? [] : levels[level]!);
    setLevels(withBlock(levels, level, block));
    setChosen({ level: level ?? levels.length, block: block.id });
  };
  const remove = (level: number, id: string) => {
    setChosen(null);
    setLevels(withoutBlock(levels, level, id));
  };
  const block = chosen ? levels[chosen.level]?.find((b) => b.id === chosen.block) : undefined;
  const shelves = roots.filter((r) => r.kind === 'shelf' || r.kind === 'proxies');
  return (
    <>
      <div className={styles.board} role="group" aria-label="Levels of folders">
        <DndContext id="levels" sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop}>
          <SortableContext items={ids} strategy={horizontalListSortingStrategy}>
            {levels.map((level, i) => (
              <Level
                key={ids[i]}
                id={ids[i]!}
                blocks={level}
                text={example[i] ?? '–'}
                last={i === levels.length - 1}
                chosen={chosen?.level === i ? chosen.block : null}
                choose={(id) =>
                  setChosen(chosen?.level === i && chosen.block === id ? null : { level: i, block: id })
                }
                remove={(id) => remove(i, id)}
                add={(at) => setMenu({ at, level: i })}
              />
            ))}
          </SortableContext>
        </DndContext>
        {levels.length === 0 && <span className="soft">no folders: every clip right on the shelf</span>}
        {levels.length < 8 && (
          <button
            type="button"
            className={styles.add}
            aria-haspopup="menu"
            onClick={(e) => setMenu({ at: e.currentTarget, level: null })}
          >
            + level
          </button>
        )}
        <KindMenu at={menu?.at ?? null} without={['counter']} add={add} close={() => setMenu(null)} />
      </div>
      {block && chosen ? (
        <BlockSettings
          block={block}
          first={levels[chosen.level]![0]!.id === block.id}
          set={(b) => setLevels(withSet(levels, chosen.level, b))}
        />
      ) : (
        <WhereTo plan={plan} change={change} shelves={shelves} />
      )}
    </>
  );
}

/** How files come to their place, and where what is not the recording goes. */
function WhereTo({
  plan,
  change,
  shelves,
}: {
  plan: FolderPlan;
  change: (plan: FolderPlan) => void;
  shelves: readonly RootView[];
}) {
  const [further, setFurther] = useState(false);
  return (
    <div className={styles.settings} role="group" aria-label="Where files go">
      <Choice<Manner>
        label="files are"
        value={plan.manner}
        options={[
          ['move', 'moved'],
          ['copy', 'copied and verified'],
          ['link', 'hard-linked'],
        ]}
        set={(manner) => change({ ...plan, manner })}
      />
      {shelves.length > 2 && (
        <Choice
          label="to"
          value={plan.root ?? ''}
          options={[['', 'the shelf they are on'], ...shelves.map((r) => [r.id, r.name] as const)]}
          set={(root) => change({ ...plan, root: root === '' ? null : root })}
        />
      )}
      <button type="button" className={styles.more} onClick={() => setFurther(true)}>
        Further folders {plan.skeleton.length > 0 ? `(${plan.skeleton.length}) …` : '…'}
      </button>
      {further && <SkeletonDialog plan={plan} change={change} close={() => setFurther(false)} />}
      <Roles plan={plan} change={change} shelves={shelves} />
    </div>
  );
}

function Level({
  id,
  blocks,
  text,
  last,
  chosen,
  choose,
  remove,
  add,
}: {
  id: string;
  blocks: readonly Block[];
  text: string;
  last: boolean;
  chosen: string | null;
  choose: (block: string) => void;
  remove: (block: string) => void;
  add: (at: HTMLElement) => void;
}) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id });
  return (
    <div
      ref={setNodeRef}
      className={styles.slot}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <div className={styles.level} role="group" aria-label={`Level ${text}`} {...listeners}>
        <strong className="figures" {...attributes} role={undefined} tabIndex={-1}>
          {text}
        </strong>
        <span>
          {blocks.map((b) => (
            <span key={b.id} className={styles.levelBlock} data-chosen={chosen === b.id ? '' : undefined}>
              <button type="button" aria-pressed={chosen === b.id} onClick={() => choose(b.id)}>
                {moduleOf(b.kind).term}
              </button>
              {chosen === b.id && (
                <button
                  type="button"
                  aria-label={`Take out ${moduleOf(b.kind).term}`}
                  onClick={() => remove(b.id)}
                >
                  ×
                </button>
              )}
            </span>
          ))}
          <button
            type="button"
            className={styles.small}
            aria-label={`Add a block to ${text}`}
            aria-haspopup="menu"
            onClick={(e) => add(e.currentTarget)}
          >
            +
          </button>
        </span>
      </div>
      {!last && (
        <span className={`figures ${styles.separator}`} aria-hidden="true">
          /
        </span>
      )}
    </div>
  );
}

const BESIDE: RolePlace = { folder: '', at: 'clip', root: null };

/** Where what is not the recording itself goes. */
function Roles({
  plan,
  change,
  shelves,
}: {
  plan: FolderPlan;
  change: (plan: FolderPlan) => void;
  shelves: readonly RootView[];
}) {
  const [role, setRole] = useState<(typeof PLACED_ROLES)[number]>('cameraProxy');
  const rule = plan.roles[role] ?? BESIDE;
  const set = (part: Partial<RolePlace>) =>
    change({ ...plan, roles: { ...plan.roles, [role]: { ...rule, ...part } } });
  return (
    <span className={styles.roles}>
      <Choice
        label="where to put"
        value={role}
        options={PLACED_ROLES.map((r) => [r, `each ${ROLE_WORDS[r]}`])}
        set={setRole}
      />
      <Field label="folder" value={rule.folder} most={120} wide set={(folder) => set({ folder })} />
      {rule.folder === '' ? (
        <span className="soft">beside the clip</span>
      ) : (
        <Choice
          label="which is"
          value={rule.at}
          options={[
            ['clip', 'in the clip’s folder'],
            ['top', 'at the top, with folders like the clips’'],
          ]}
          set={(at) => set({ at })}
        />
      )}
      {shelves.length > 1 && (
        <Choice
          label="on"
          value={rule.root ?? ''}
          options={[
            ['', isMade(role) ? 'their own root' : 'the clip’s root'],
            ...shelves.map((r) => [r.id, r.name] as const),
          ]}
          set={(root) => set({ root: root === '' ? null : root })}
        />
      )}
    </span>
  );
}
