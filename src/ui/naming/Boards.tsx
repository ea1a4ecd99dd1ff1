import type { ComponentProps } from 'react';
import { System } from '../../core/naming/check';
import type { Convention, FolderPlan } from '../../core/naming/convention';
import type { NamingRow } from '../../core/naming/shapes';
import type { SetPart } from './BenchHead';
import { BlockRow } from './BlockRow';
import { BlockSettings } from './BlockSettings';
import { ChangesBoard } from './ChangesBoard';
import { FolderBoard } from './FolderBoard';
import styles from './naming.module.css';
import { Field } from './SettingInput';

export type Board = 'name' | 'folders' | 'changes';
const BOARDS: readonly (readonly [Board, string])[] = [
  ['name', 'Name'],
  ['folders', 'Folders'],
  ['changes', 'Changes'],
];

/** What is set: the blocks of a name, folders, or changes of names that are there. */
export function Boards({
  board,
  show,
  convention,
  folderPlan,
  set,
  block,
  chooseBlock,
  example,
  systems,
  setSystems,
  roots,
}: {
  board: Board;
  show: (board: Board) => void;
  convention: Convention;
  folderPlan: FolderPlan;
  set: SetPart;
  /** The block that is chosen. */
  block: string | null;
  chooseBlock: (block: string | null) => void;
  /** A clip by which it is shown. */
  example: NamingRow | null;
  systems: readonly System[];
  setSystems: (systems: System[]) => void;
  roots: ComponentProps<typeof FolderBoard>['roots'];
}) {
  const chosenBlock = board === 'name' ? convention.blocks.find((b) => b.id === block) : undefined;
  return (
    <div className={styles.boards}>
      <div className={styles.tabs} role="group" aria-label="What is set">
        {BOARDS.map(([b, word]) => (
          <button key={b} type="button" aria-pressed={board === b} onClick={() => show(b)}>
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
              choose={chooseBlock}
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
                systems={systems}
                setSystems={setSystems}
              />
            )}
          </>
        )}
        {board === 'folders' && (
          <FolderBoard
            plan={folderPlan}
            change={(f) => set({ folderPlan: f })}
            example={example ? example.folder.split('/') : []}
            roots={roots}
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
  );
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
