import * as z from 'zod';
import { Analysis } from '../analysis';
import { ShownPath } from '../platform/names';
import { ClipKind, FileRole } from '../intake';
import { Rate } from '../platform/timecode/rate';
import { PairView } from '../proxies';
import { ShownPlace } from '../places';

export const ClipView = z.object({
  id: z.string(),
  card: z.string(),
  camera: z.string(),
  day: z.int(),
  /** The name it is under now, and the camera's. */
  name: ShownPath,
  original: ShownPath,
  named: z.boolean(),
  kind: ClipKind,
  state: z.enum(['waiting', 'read', 'unreadable']),
  fault: z.string().nullable(),
  filmstrip: z.boolean(),
  rate: Rate.nullable(),
  frames: z.int().nullable(),
  seconds: z.number().nullable(),
  start: z.string().nullable(),
  end: z.string().nullable(),
  recordedAt: z.string().nullable(),
  codec: z.string().nullable(),
  picture: z.string().nullable(),
  width: z.int().nullable(),
  height: z.int().nullable(),
  channels: z.int().nullable(),
  bytes: z.number(),
  files: z.int(),
  pair: PairView,
  problems: z.array(z.object({ level: z.enum(['stop', 'look']), text: z.string() })),
  playable: z.boolean(),
});
export type ClipView = z.infer<typeof ClipView>;

export const ClipDetail = ClipView.extend({
  /** What was seen of it when all of it was decoded; null where that was not, or where it is another file by now. */
  seen: Analysis.nullable(),
  facts: z.array(
    z.object({
      field: z.string(),
      group: z.string(),
      term: z.string(),
      value: z.string(),
      source: z.string(),
      others: z.array(z.object({ value: z.string(), source: z.string(), contradicts: z.boolean() })),
    }),
  ),
  family: z.array(
    z.object({ id: z.string(), role: FileRole, place: ShownPlace, rootName: z.string(), size: z.number() }),
  ),
  /** Where the original is, on its card, in safe copies and where it is used from; then where it was, the newest first. */
  places: z.array(
    z.object({
      what: z.enum(['card', 'copy', 'place']),
      /** Of the card, or of the root; null for a root that was removed. */
      name: z.string().nullable(),
      path: ShownPath,
      since: z.string(),
      until: z.string().nullable(),
    }),
  ),
});
export type ClipDetail = z.infer<typeof ClipDetail>;

/** What tells a card from the others of its job. */
export const CardName = z.object({ id: z.string(), camera: z.string(), day: z.int() });
export type CardName = z.infer<typeof CardName>;

export const CardView = CardName.extend({
  shape: z.string(),
  folder: ShownPath,
  takenAt: z.string(),
  clips: z.int(),
  seconds: z.number(),
  bytes: z.number(),
  safe: z.int(),
  done: z.object({ read: z.int(), named: z.int(), proxied: z.int(), paired: z.int() }),
  stop: z.int(),
  look: z.int(),
  aside: z.int(),
  /** What is odd about the card as a whole: a clock that looks wrong, counter numbers missing, restarts, clips out of order. */
  oddities: z.array(z.string()),
});
export type CardView = z.infer<typeof CardView>;
