import { z } from 'zod';

const id = z.string().min(1).max(40);

/** How far a counter runs before it starts again. */
export const CounterScope = z.enum(['job', 'day', 'camera', 'dayAndCamera', 'card']);
export type CounterScope = z.infer<typeof CounterScope>;

export const SCOPE_WORDS: Record<CounterScope, string> = {
  job: 'never',
  day: 'each day',
  camera: 'each camera',
  dayAndCamera: 'each day and camera',
  card: 'each card',
};

/** One part of a name. `id` tells two blocks of a kind apart while they are moved about. */
export const Block = z.discriminatedUnion('kind', [
  z.object({ id, kind: z.literal('job') }),
  z.object({ id, kind: z.literal('day'), prefix: z.string().max(8), digits: z.int().min(1).max(3) }),
  z.object({ id, kind: z.literal('date'), style: z.enum(['yyyymmdd', 'yymmdd', 'yyyy-mm-dd']) }),
  z.object({ id, kind: z.literal('camera') }),
  z.object({ id, kind: z.literal('card') }),
  z.object({ id, kind: z.literal('rate'), suffix: z.string().max(8) }),
  z.object({ id, kind: z.literal('words'), text: z.string().max(60) }),
  z.object({ id, kind: z.literal('original'), part: z.enum(['number', 'name']) }),
  z.object({
    id,
    kind: z.literal('counter'),
    scope: CounterScope,
    start: z.int().min(0).max(999_999),
    digits: z.int().min(1).max(6),
    orderBy: z.enum(['recorded', 'cameraName']),
  }),
]);
export type Block = z.infer<typeof Block>;
export type BlockKind = Block['kind'];

/** A naming rule: an ordered row of blocks with one separator between them. */
export const Convention = z.object({
  name: z.string().min(1).max(80),
  separator: z.enum(['_', '-', '.', ' ', '']),
  blocks: z.array(Block).min(1).max(20),
});
export type Convention = z.infer<typeof Convention>;

/** One level of folders on the shelf. */
export const FolderLevel = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('job') }),
  z.object({ kind: z.literal('day'), style: z.enum(['numberAndDate', 'number', 'date']) }),
  z.object({ kind: z.literal('camera') }),
  z.object({ kind: z.literal('card') }),
]);
export type FolderLevel = z.infer<typeof FolderLevel>;

/** Where clips are on the shelf, outermost level first, and the folder that camera-made proxies are in beside them. */
export const FolderPlan = z.object({
  levels: z.array(FolderLevel).max(6),
  proxyFolder: z.string().min(1).max(60),
});
export type FolderPlan = z.infer<typeof FolderPlan>;

export const BLOCK_WORDS: Record<BlockKind, string> = {
  job: 'Job',
  day: 'Day',
  date: 'Date',
  camera: 'Camera',
  card: 'Card',
  rate: 'Rate',
  words: 'Words',
  original: 'Original',
  counter: 'Counter',
};

/** A new block of a kind with the settings most jobs want. */
export function newBlock(kind: BlockKind, blockId: string): Block {
  switch (kind) {
    case 'day':
      return { id: blockId, kind, prefix: 'D', digits: 1 };
    case 'date':
      return { id: blockId, kind, style: 'yyyymmdd' };
    case 'rate':
      return { id: blockId, kind, suffix: 'p' };
    case 'words':
      return { id: blockId, kind, text: 'words' };
    case 'original':
      return { id: blockId, kind, part: 'number' };
    case 'counter':
      return { id: blockId, kind, scope: 'dayAndCamera', start: 1, digits: 3, orderBy: 'recorded' };
    default:
      return { id: blockId, kind };
  }
}

export const DEFAULT_CONVENTION: Convention = {
  name: 'Picture',
  separator: '_',
  blocks: (['job', 'day', 'card', 'counter', 'rate'] as const).map((kind) => newBlock(kind, kind)),
};

export const DEFAULT_FOLDER_PLAN: FolderPlan = {
  levels: [{ kind: 'job' }, { kind: 'day', style: 'numberAndDate' }, { kind: 'camera' }, { kind: 'card' }],
  proxyFolder: 'Proxy',
};
