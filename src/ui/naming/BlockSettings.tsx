'use client';
import type { ReactNode } from 'react';
import {
  type Block,
  BLOCK_WORDS,
  Convention,
  CounterScope,
  type FolderLevel,
  type FolderPlan,
  SCOPE_WORDS,
} from '../../core/naming/convention';
import styles from './naming.module.css';

interface Props {
  convention: Convention;
  block: Block | null;
  change: (c: Convention) => void;
  folderPlan: FolderPlan;
  changeFolders: (f: FolderPlan) => void;
}

/** The chosen block's settings as a sentence; those of the whole name and of the folders where none is chosen. */
export function BlockSettings({ convention, block, change, folderPlan, changeFolders }: Props) {
  const set = (next: Block) =>
    change({ ...convention, blocks: convention.blocks.map((b) => (b.id === next.id ? next : b)) });
  if (block)
    return (
      <div className={styles.settings}>
        <strong>{BLOCK_WORDS[block.kind]}</strong>
        <OfBlock block={block} set={set} />
      </div>
    );
  const has = (kind: FolderLevel['kind']) => folderPlan.levels.some((l) => l.kind === kind);
  const ORDER: FolderLevel['kind'][] = ['job', 'day', 'camera', 'card'];
  const toggle = (kind: FolderLevel['kind']) => {
    const kinds = ORDER.filter((k) => (k === kind ? !has(k) : has(k)));
    changeFolders({
      ...folderPlan,
      levels: kinds.map(
        (k) =>
          folderPlan.levels.find((l) => l.kind === k) ??
          (k === 'day' ? { kind: k, style: 'numberAndDate' } : { kind: k }),
      ),
    });
  };
  const day = folderPlan.levels.find((l) => l.kind === 'day');
  return (
    <div className={styles.settings}>
      <Choice
        label="between blocks"
        value={convention.separator}
        set={(v) => change({ ...convention, separator: Convention.shape.separator.parse(v) })}
        options={[
          ['_', '_ underscore'],
          ['-', '- dash'],
          ['.', '. dot'],
          [' ', 'a space'],
          ['', 'nothing'],
        ]}
      />
      <span className={styles.dot}>·</span>
      <span role="group" aria-label="Folders" className={styles.levels}>
        folders by
        {ORDER.map((k) => (
          <label key={k}>
            <input type="checkbox" checked={has(k)} onChange={() => toggle(k)} />
            {k}
          </label>
        ))}
      </span>
      {day?.kind === 'day' && (
        <Choice
          label="day as"
          value={day.style}
          set={(v) =>
            changeFolders({
              ...folderPlan,
              levels: folderPlan.levels.map((l) =>
                l.kind === 'day' ? { kind: 'day', style: v as 'number' } : l,
              ),
            })
          }
          options={[
            ['numberAndDate', 'D1_2026-05-05'],
            ['number', 'D1'],
            ['date', '2026-05-05'],
          ]}
        />
      )}
      <span className="soft">Choose a block to set it, drag it to move it.</span>
    </div>
  );
}

function OfBlock({ block, set }: { block: Block; set: (b: Block) => void }) {
  switch (block.kind) {
    case 'job':
      return <Said>the job&apos;s code</Said>;
    case 'camera':
      return <Said>the camera&apos;s label</Said>;
    case 'card':
      return <Said>the card&apos;s id</Said>;
    case 'day':
      return (
        <>
          <Field label="begins with" value={block.prefix} max={8} set={(v) => set({ ...block, prefix: v })} />
          <Digits value={block.digits} max={3} set={(n) => set({ ...block, digits: n })} />
        </>
      );
    case 'date':
      return (
        <Choice
          label="written"
          value={block.style}
          set={(v) => set({ ...block, style: v as 'yyyymmdd' })}
          options={[
            ['yyyymmdd', '20260505'],
            ['yymmdd', '260505'],
            ['yyyy-mm-dd', '2026-05-05'],
          ]}
        />
      );
    case 'rate':
      return (
        <>
          <Said>frames per second</Said>
          <Field label="ends with" value={block.suffix} max={8} set={(v) => set({ ...block, suffix: v })} />
        </>
      );
    case 'words':
      return <Field label="text" value={block.text} max={60} wide set={(v) => set({ ...block, text: v })} />;
    case 'original':
      return (
        <Choice
          label="of the camera name"
          value={block.part}
          set={(v) => set({ ...block, part: v as 'number' })}
          options={[
            ['number', 'the number'],
            ['name', 'the whole name'],
          ]}
        />
      );
    case 'counter':
      return (
        <>
          <Choice
            label="restarts"
            value={block.scope}
            set={(v) => set({ ...block, scope: CounterScope.parse(v) })}
            options={CounterScope.options.map((o) => [o, SCOPE_WORDS[o]])}
          />
          <label>
            starts at{' '}
            <input
              type="number"
              min={0}
              max={999999}
              value={block.start}
              onChange={(e) =>
                set({
                  ...block,
                  start: Math.max(0, Math.min(999_999, Math.trunc(Number(e.target.value) || 0))),
                })
              }
            />
          </label>
          <Digits value={block.digits} max={6} set={(n) => set({ ...block, digits: n })} />
          <Choice
            label="ordered by"
            value={block.orderBy}
            set={(v) => set({ ...block, orderBy: v as 'recorded' })}
            options={[
              ['recorded', 'recorded time'],
              ['cameraName', 'camera name'],
            ]}
          />
        </>
      );
  }
}

const Said = ({ children }: { children: ReactNode }) => <span className="soft">{children}</span>;

function Digits({ value, max, set }: { value: number; max: number; set: (n: number) => void }) {
  return (
    <Choice
      label="with"
      value={String(value)}
      set={(v) => set(Number(v))}
      options={Array.from({ length: max }, (_, i) => [
        String(i + 1),
        i === 0 ? '1 digit' : `${i + 1} digits`,
      ])}
    />
  );
}

function Choice({
  label,
  value,
  set,
  options,
}: {
  label: string;
  value: string;
  set: (v: string) => void;
  options: readonly (readonly [string, string])[];
}) {
  return (
    <label>
      {label}{' '}
      <select value={value} onChange={(e) => set(e.target.value)}>
        {options.map(([v, word]) => (
          <option key={v} value={v}>
            {word}
          </option>
        ))}
      </select>
    </label>
  );
}

function Field({
  label,
  value,
  max,
  wide,
  set,
}: {
  label: string;
  value: string;
  max: number;
  wide?: boolean;
  set: (v: string) => void;
}) {
  return (
    <label>
      {label}{' '}
      <input value={value} maxLength={max} size={wide ? 28 : 5} onChange={(e) => set(e.target.value)} />
    </label>
  );
}
