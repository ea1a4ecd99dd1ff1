import { type Block, type BlockKind, newBlock } from '../../core/naming/blocks';

/** A block of a kind with an id that no other block of the row has, separated as the others are. */
export function another(kind: BlockKind, row: readonly Block[]): Block {
  let n = row.length;
  while (row.some((b) => b.id === `${kind}-${n}`)) n++;
  const before = row.at(-1)?.before;
  return newBlock(kind, `${kind}-${n}`, {}, before === undefined ? {} : { before });
}

/** Levels with a block more: in the level of that number, or in one of its own behind the others. */
export const withBlock = (levels: readonly Block[][], level: number | null, block: Block): Block[][] =>
  level === null ? [...levels, [block]] : levels.map((l, i) => (i === level ? [...l, block] : l));

/** Levels without a block; one that held no other goes with it. */
export const withoutBlock = (levels: readonly Block[][], level: number, id: string): Block[][] =>
  levels.map((l, i) => (i === level ? l.filter((b) => b.id !== id) : l)).filter((l) => l.length > 0);

/** Levels in which a block is as it was set. */
export const withSet = (levels: readonly Block[][], level: number, block: Block): Block[][] =>
  levels.map((l, i) => (i === level ? l.map((b) => (b.id === block.id ? block : b)) : l));
