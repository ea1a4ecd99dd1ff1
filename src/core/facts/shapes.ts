import { z } from 'zod';
import { CameraLabel } from '../platform/cameraLabel';
import { ClipKind } from '../intake';
import { PathBelow } from '../platform/names';
import { FieldId, Source, Statement } from './catalogue';
import { FieldSet } from './fieldSets';
import { Shown } from './table';

// The shapes of the Facts screen that cross between server and interface.

/** Clips with the fields asked for. A column is the different cells it has, and for each clip which of them: `null` where it states none. */
export const FactTable = z.object({
  clips: z.array(
    z.tuple([
      /** Id, card, camera, day, the name it stands under. */
      z.string(),
      z.string(),
      z.string(),
      z.int(),
      z.string(),
      ClipKind,
      z.enum(['waiting', 'read', 'unreadable']),
    ]),
  ),
  columns: z.array(z.object({ field: FieldId, cells: z.array(Shown), rows: z.array(z.int().nullable()) })),
});
export type FactTable = z.infer<typeof FactTable>;

export const FactTableQuery = z.object({ fields: z.array(FieldId).max(120) });

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

export const FieldSetsView = z.array(FieldSet.extend({ id: z.string(), shipped: z.boolean() }));
export type FieldSetsView = z.infer<typeof FieldSetsView>;

/** What is extracted: some clips of the job, a card, all of it, or a folder that need not be in it. */
export const Extraction = z.object({
  from: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('clips'), clips: z.array(z.string()).min(1).max(100_000) }),
    z.object({ kind: z.literal('card'), card: z.string() }),
    z.object({ kind: z.literal('all') }),
    z.object({ kind: z.literal('folder'), root: z.string(), path: PathBelow }),
  ]),
  /** `null` for everything that is stated. */
  fields: z.array(FieldId).min(1).max(120).nullable(),
  formats: z.array(z.enum(['csv', 'json'])).min(1, 'choose a format'),
  looks: z.boolean().default(true),
});
export type Extraction = z.infer<typeof Extraction>;

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
