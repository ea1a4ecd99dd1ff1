import * as z from 'zod';
import { newBlock } from './blocks';
import { Convention, DEFAULT_CONVENTION, DEFAULT_FOLDER_PLAN, FolderPlan } from './convention';

/** A convention with its folder plan, as it is kept in the library and given away. */
export const Kept = z.object({ convention: Convention, folderPlan: FolderPlan });
export type Kept = z.infer<typeof Kept>;

/** Conventions as a file. */
export const ConventionFile = z.object({
  format: z.literal('sort-shelf-conventions'),
  version: z.literal(1),
  conventions: z.array(Kept).min(1).max(200),
});
export type ConventionFile = z.infer<typeof ConventionFile>;

export const KeptView = z.array(Kept.extend({ id: z.string(), ready: z.boolean() }));
export type KeptView = z.infer<typeof KeptView>;

const level = (...kinds: Parameters<typeof newBlock>[0][]) => kinds.map((k) => newBlock(k));

/** Conventions that are always there. */
export const READY: readonly Kept[] = [
  { convention: DEFAULT_CONVENTION, folderPlan: DEFAULT_FOLDER_PLAN },
  {
    convention: {
      name: 'Prefix before the camera’s name',
      blocks: [
        newBlock('job'),
        newBlock('day', 'day', { digits: 2 }),
        newBlock('original', 'original', { part: 'name' }),
      ],
      changes: [],
    },
    folderPlan: DEFAULT_FOLDER_PLAN,
  },
  {
    convention: {
      name: 'Date, time, place, camera',
      blocks: [
        newBlock('date', 'date', { of: 'recording', format: 'YYYY-MM-DD' }),
        newBlock('time', 'time', { format: 'hhmm' }),
        newBlock('place'),
        newBlock('camera'),
        newBlock('counter'),
      ],
      changes: [],
    },
    folderPlan: { ...DEFAULT_FOLDER_PLAN, levels: [level('date'), level('camera')] },
  },
  {
    convention: {
      name: 'Scene and take',
      blocks: [
        newBlock('scene', 'scene', {}, { width: 3, missing: 'word', word: '000' }),
        newBlock('take', 'take', {}, { width: 2, missing: 'word', word: '00' }),
        newBlock('camera'),
        newBlock('card'),
        newBlock('original'),
      ],
      changes: [],
    },
    folderPlan: DEFAULT_FOLDER_PLAN,
  },
  {
    convention: {
      name: 'A folder for each rate, clips numbered',
      blocks: [
        newBlock('words', 'words', { text: 'Clip' }),
        newBlock('counter', 'counter', { per: ['folder'], digits: 4 }),
      ],
      changes: [],
    },
    folderPlan: { ...DEFAULT_FOLDER_PLAN, levels: [level('job'), level('rate')] },
  },
  {
    convention: {
      name: 'As the camera named it',
      blocks: [newBlock('original', 'original', { part: 'name' })],
      changes: [],
    },
    folderPlan: DEFAULT_FOLDER_PLAN,
  },
];
