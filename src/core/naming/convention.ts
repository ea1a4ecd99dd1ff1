import * as z from 'zod';
import { wordsFault } from '../offload';
import { ClipKind, FileRole } from '../intake';
import { Block, BlockKind, newBlock } from './blocks';
import { Change } from './changes';
import { System } from './check';

/** A naming rule: an ordered row of blocks, and what is changed in the name they make. */
const Shape = z.object({
  name: z.string().min(1).max(80),
  blocks: z.array(Block).min(1).max(24),
  changes: z.array(Change).max(10).default([]),
});
export const Convention = z.preprocess(upgraded, Shape);
export type Convention = z.infer<typeof Shape>;

/** Where the files of a role go: into a folder beside the original or at the top of the tree, in a root of their own or their own root. */
export const RolePlace = z.object({
  /** A path of words; "" for the folder of the original itself. */
  folder: z.string().max(120),
  at: z.enum(['clip', 'top']),
  /** Root they go to; null for the one that clips go to. */
  root: z.string().max(80).nullable(),
});
export type RolePlace = z.infer<typeof RolePlace>;

/** Roles that may be placed apart from the original and its recording. */
export const PLACED_ROLES = [
  'sidecar',
  'look',
  'thumbnail',
  'cameraProxy',
  'proxy',
  'transcode',
  'rewrap',
  'sound',
] as const;

/** How files come to their place: they are moved, or verified copies or hard links of them are made there and they stay. */
export const Manner = z.enum(['move', 'copy', 'link']);
export type Manner = z.infer<typeof Manner>;

const PlanShape = z.object({
  /** Levels of folders, outermost first; each is named by a row of blocks. */
  levels: z.array(z.array(Block).min(1).max(8)).max(8),
  roles: z.partialRecord(FileRole, RolePlace),
  /** Root that clips go to; null for the shelf, or the one they are in where that may be changed. */
  root: z.string().max(80).nullable().default(null),
  manner: Manner.default('move'),
  /** Further folders, with words in braces, which are laid out when it is asked for (`skeletonFolders`). */
  skeleton: z
    .array(
      z
        .string()
        .min(1)
        .max(400)
        .refine((line) => wordsFault(line) === null, { error: (i) => wordsFault(String(i.input)) ?? '' }),
    )
    .max(200)
    .default([]),
});
/** Where clips are on the shelf. */
export const FolderPlan = z.preprocess(upgradedPlan, PlanShape);
export type FolderPlan = z.infer<typeof PlanShape>;

/** Which clips a rule is for; an empty list is any. */
export const RuleScope = z.object({
  kinds: z.array(ClipKind).max(4),
  cameras: z.array(z.string().max(40)).max(100),
  cards: z.array(z.string().max(80)).max(2000),
  /** Rates as they are written, "25", "29.97". */
  rates: z.array(z.string().max(20)).max(40),
});
export type RuleScope = z.infer<typeof RuleScope>;

/** A rule of the job: clips of a scope take a convention and folder plan of their own. The first that fits counts. */
export const NamingRule = z.object({
  id: z.string().min(1).max(40),
  scope: RuleScope,
  convention: Convention,
  folderPlan: FolderPlan,
});
export type NamingRule = z.infer<typeof NamingRule>;

/** What a job has beside its own convention and folder plan: rules for some clips, and the file systems names have to fit (empty for all). */
export const NamingMore = z.object({
  rules: z.array(NamingRule).max(40).default([]),
  systems: z.array(System).max(10).default([]),
});
export type NamingMore = z.infer<typeof NamingMore>;

export const DEFAULT_CONVENTION: Convention = {
  name: 'Picture',
  blocks: (['job', 'day', 'card', 'counter', 'rate'] as const).map((kind) => newBlock(kind)),
  changes: [],
};

/** A day's folder by its number and date. */
const dayLevel = (): [Block, Block] => [
  newBlock('day', 'day', {}, { missing: 'word', word: 'no-day' }),
  newBlock('date', 'date', { format: 'YYYY-MM-DD' }),
];

export const DEFAULT_FOLDER_PLAN: FolderPlan = {
  levels: [[newBlock('job')], dayLevel(), [newBlock('camera')], [newBlock('card')]],
  roles: { cameraProxy: { folder: 'Proxy', at: 'clip', root: null } },
  root: null,
  manner: 'move',
  skeleton: [],
};

// Conventions and folder plans of before blocks had their separators and levels their blocks; they are in databases and records.

const oldSetting = z.union([z.string(), z.number()]);
const OldConvention = z.object({
  name: z.string(),
  separator: z.string(),
  blocks: z.array(z.object({ id: z.string(), kind: BlockKind }).catchall(oldSetting)),
});
const OldFolderPlan = z.object({
  levels: z.array(z.object({ kind: z.enum(['job', 'day', 'camera', 'card']), style: z.string().optional() })),
  proxyFolder: z.string(),
});
const OLD_SCOPES: Record<string, string[]> = {
  job: [],
  day: ['day'],
  camera: ['camera'],
  dayAndCamera: ['day', 'camera'],
  card: ['card'],
};
const OLD_DATES: Record<string, string> = {
  yyyymmdd: 'YYYYMMDD',
  yymmdd: 'YYMMDD',
  'yyyy-mm-dd': 'YYYY-MM-DD',
};

function upgraded(raw: unknown): unknown {
  const old = OldConvention.safeParse(raw);
  if (!old.success) return raw;
  const { name, separator, blocks } = old.data;
  return {
    name,
    blocks: blocks.map(({ id, kind, scope, style, ...own }) =>
      newBlock(
        kind,
        id,
        {
          ...own,
          ...(scope === undefined ? {} : { per: OLD_SCOPES[scope] ?? [] }),
          ...(style === undefined ? {} : { format: OLD_DATES[style] ?? 'YYYYMMDD' }),
        },
        { before: separator, spaces: null },
      ),
    ),
  };
}

function upgradedPlan(raw: unknown): unknown {
  const old = OldFolderPlan.safeParse(raw);
  if (!old.success) return raw;
  return {
    levels: old.data.levels.map(({ kind, style }) => {
      if (kind !== 'day') return [newBlock(kind)];
      const [number, date] = dayLevel();
      return style === 'number' ? [number] : style === 'date' ? [date] : [number, date];
    }),
    roles: { cameraProxy: { folder: old.data.proxyFolder, at: 'clip', root: null } },
  };
}
