import * as z from 'zod';
import { CameraLabel } from '../platform/cameraLabel';
import { ClipKind } from '../intake';
import { PathBelow, ShownPath } from '../platform/names';
import { FieldId, Source, Statement } from './catalogue';
import { FieldSet } from './fieldSets';
import { Shown } from './table';

// The shapes of the Facts screen that cross between server and interface.

/** Only clips whose field has these very words, or states nothing (`null`); or those of a card, camera or day. */
export const Only = z.union([
  z.object({ field: z.enum(['card', 'camera', 'day']), value: z.string().max(40) }),
  z.object({ field: FieldId, value: z.string().max(2000).nullable() }),
]);
export type Only = z.infer<typeof Only>;

export const FactFilter = z.object({
  /** Each of them has to stand somewhere in the clip's name, card or facts. */
  words: z.string().max(200).default(''),
  only: z.array(Only).max(20).default([]),
});
export type FactFilter = z.infer<typeof FactFilter>;

/** A sort by a field, or by the name. */
export const Sorting = z.object({ by: z.union([FieldId, z.literal('name')]), down: z.boolean() });
export type Sorting = z.infer<typeof Sorting>;

/** Clips of the table from `offset` on. In shooting order where no sort is asked for. */
export const FactIdsQuery = FactFilter.extend({
  sorting: Sorting.nullable().default(null),
  offset: z.int().min(0).max(10_000_000).default(0),
  limit: z.int().min(1).max(100_000).default(100_000),
});
export type FactIdsQuery = z.infer<typeof FactIdsQuery>;
/** The same with the fields that are shown. */
export const FactPageQuery = FactIdsQuery.extend({
  fields: z.array(FieldId).max(120),
  limit: z.int().min(1).max(500).default(200),
});
export type FactPageQuery = z.infer<typeof FactPageQuery>;

export const FactPage = z.object({
  clips: z.array(
    z.object({
      id: z.string(),
      card: z.string(),
      camera: z.string(),
      day: z.int(),
      /** The name it is under. */
      name: z.string(),
      kind: ClipKind,
      state: z.enum(['waiting', 'read', 'unreadable']),
      /** One for each field that is shown; null where it states none. */
      cells: z.array(Shown.nullable()),
    }),
  ),
});
export type FactPage = z.infer<typeof FactPage>;

/** What the clips of the table are put together by. */
export const Grouping = z.enum(['none', 'camera', 'day', 'card', 'codec', 'rate']);
export type Grouping = z.infer<typeof Grouping>;
export const FactLinesQuery = FactFilter.extend({ by: Grouping });
export type FactLinesQuery = z.infer<typeof FactLinesQuery>;

export const FactLines = z.object({
  /** Clips of the table, and of the job. */
  clips: z.int(),
  of: z.int(),
  /** In their order; `null` for clips that do not state it. */
  groups: z.array(z.object({ value: z.string().nullable(), clips: z.int() })).nullable(),
});
export type FactLines = z.infer<typeof FactLines>;

const Tally = z.array(z.object({ words: z.string(), clips: z.int() }));
export const FactSums = z.object({
  days: z.array(z.object({ day: z.int(), camera: z.string(), seconds: z.number(), bytes: z.number() })),
  /** The most frequent twelve. */
  rates: Tally,
  codecs: Tally,
});
export type FactSums = z.infer<typeof FactSums>;

/** Every statement of some clips, to stand side by side. */
export const SideBySide = z.object({
  clips: z.array(z.object({ id: z.string(), name: z.string(), card: z.string() })),
  rows: z.array(
    z.object({
      field: FieldId,
      /** Whether the clips differ here; those that state nothing count as different from those that do. */
      differs: z.boolean(),
      cells: z.array(
        z
          .object({
            shown: Shown,
            others: z.array(z.object({ value: z.string(), source: Source, contradicts: z.boolean() })),
          })
          .nullable(),
      ),
    }),
  ),
});
export type SideBySide = z.infer<typeof SideBySide>;

export const Stated = z.object({
  cameras: z.array(z.object({ label: z.string(), model: z.string().nullable(), clips: z.int() })),
  rows: z.array(
    z.object({
      field: FieldId,
      cells: z.record(z.string(), z.object({ stated: z.int(), of: z.int(), sources: z.array(Source) })),
    }),
  ),
});
export type Stated = z.infer<typeof Stated>;

export const Clock = z
  .object({
    camera: CameraLabel,
    fromDay: z.int().min(1).max(999),
    toDay: z.int().min(1).max(999),
    /** Added to what the camera's clock said; less than a hundred days. */
    seconds: z.int().min(-8_640_000).max(8_640_000),
    note: z.string().max(300).default(''),
  })
  .refine((c) => c.fromDay <= c.toDay, 'the first day comes after the last');
export type Clock = z.infer<typeof Clock>;

export const ClocksView = z.object({
  clocks: z.array(
    z.object({
      id: z.string(),
      camera: z.string(),
      fromDay: z.int(),
      toDay: z.int(),
      seconds: z.int(),
      note: z.string(),
    }),
  ),
  suspicions: z.array(
    z.object({
      camera: z.string(),
      fromDay: z.int(),
      toDay: z.int(),
      seconds: z.int(),
      kind: z.enum(['others', 'timecode', 'fileTime']),
      because: z.string(),
      of: z.int(),
      meetings: z.array(
        z.object({
          clip: z.string(),
          name: z.string(),
          at: z.number(),
          other: z.string(),
          otherName: z.string(),
          otherCamera: z.string(),
          otherAt: z.number(),
        }),
      ),
    }),
  ),
  rolls: z.array(
    z.object({
      clip: z.string(),
      name: z.string(),
      camera: z.string(),
      day: z.int(),
      from: z.number(),
      seconds: z.number(),
      timecode: z.number().nullable(),
      written: z.number().nullable(),
    }),
  ),
});
export type ClocksView = z.infer<typeof ClocksView>;

/** A correction of many clips at once: what the person says of a field (empty takes it back), or the card they belong to. */
export const Correction = z.object({
  clips: z.array(z.string()).min(1).max(100_000),
  set: z
    .array(z.object({ field: FieldId, value: z.string().max(400) }))
    .max(20)
    .default([]),
  card: z
    .object({
      id: z.string().regex(/^[A-Za-z0-9-]{1,16}$/, 'a card id is one to sixteen letters, digits or dashes'),
      camera: CameraLabel,
      day: z.int('a day is a whole number').min(1).max(999),
      date: z
        .string()
        .regex(/^\d{4}-\d\d-\d\d$/)
        .nullable(),
    })
    .optional(),
});
export type Correction = z.infer<typeof Correction>;

/** What a person says of clips one by one; an empty text takes back what was said. */
export const Sayings = z.object({
  said: z
    .array(z.object({ clip: z.string(), field: FieldId, value: z.string().max(400) }))
    .min(1)
    .max(100_000),
});
export type Sayings = z.infer<typeof Sayings>;

export const FieldSetsView = z.array(FieldSet.extend({ id: z.string(), shipped: z.boolean() }));
export type FieldSetsView = z.infer<typeof FieldSetsView>;

/** What is extracted: some clips of the job, those of the table, a card, all of it, or a folder that need not be in it. */
export const Extraction = z.object({
  from: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('clips'), clips: z.array(z.string()).min(1).max(100_000) }),
    z.object({ kind: z.literal('card'), card: z.string() }),
    /** The clips of the table as it is narrowed. */
    z.object({ kind: z.literal('table'), filter: FactFilter }),
    z.object({ kind: z.literal('all') }),
    z.object({ kind: z.literal('folder'), root: z.string(), path: PathBelow }),
  ]),
  /** `null` for all stated fields. */
  fields: z.array(FieldId).min(1).max(120).nullable(),
  formats: z.array(z.enum(['csv', 'json'])).min(1, 'choose a format'),
  looks: z.boolean().default(true),
});
export type Extraction = z.infer<typeof Extraction>;

/** A clip whose reading failed. */
export const UnreadClip = z.object({ clip: z.string(), name: ShownPath, card: z.string(), why: z.string() });
export type UnreadClip = z.infer<typeof UnreadClip>;

export const Extracted = z.object({
  /** Folder below the handover root, and where that is on disk. */
  folder: z.string(),
  place: z.string(),
  files: z.array(z.string()),
  clips: z.int(),
  /** Clips of which something could not be read, each with the reason. */
  faults: z.array(z.object({ name: z.string(), why: z.string() })),
  /** Of a single clip, its result at once. */
  one: z.array(z.object({ term: z.string(), value: z.string(), source: z.string() })).nullable(),
});
export type Extracted = z.infer<typeof Extracted>;

/** What a file of extracted facts holds. */
export const FactFile = z.object({
  kind: z.literal('sort-shelf facts'),
  job: z.string(),
  madeAt: z.string(),
  fields: z.array(z.object({ id: FieldId, term: z.string(), unit: z.string(), type: z.string() })),
  clips: z.array(
    z.object({
      name: z.string(),
      card: z.string().nullable(),
      statements: z.array(Statement),
      chosen: z.partialRecord(FieldId, z.object({ value: z.unknown(), source: Source })),
      notes: z.array(z.string()),
    }),
  ),
});
