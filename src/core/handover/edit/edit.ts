import * as z from 'zod';
import { Rate } from '../../platform/timecode/rate';

/**
 * A stretch of a clip as an edit names it: frames counted at `rate`, from midnight where the file has timecode, and from its first frame
 * where it has none. `drop` says how the numbers it was written in count; `null` where it was written as a count of frames.
 */
export const Stretch = z.object({
  from: z.int(),
  frames: z.int().nonnegative(),
  rate: Rate,
  drop: z.boolean().nullable(),
});
export type Stretch = z.infer<typeof Stretch>;

/** How an event begins where it is no cut, and how many frames of the edit that takes. */
export const Transition = z.object({
  kind: z.enum(['dissolve', 'wipe', 'key']),
  frames: z.int().nonnegative(),
});
export type Transition = z.infer<typeof Transition>;

export const EditEvent = z.object({
  /** As its list numbers it, "001"; else its place in its track, from 1. */
  label: z.string(),
  /** Where it is in the edit: frames of the edit from its beginning, `to` behind the last. */
  from: z.int(),
  to: z.int(),
  /** What the edit calls its clip, the file it names, its reel; `null` where it does not say. */
  name: z.string().nullable(),
  file: z.string().nullable(),
  reel: z.string().nullable(),
  source: Stretch,
  /** Frames of the clip for each of the edit: 1 as recorded, 2 twice as fast, −1 backwards, 0 a still frame. */
  speed: z.number(),
  transition: Transition.nullable(),
});
export type EditEvent = z.infer<typeof EditEvent>;

export const EditTrack = z.object({
  name: z.string(),
  kind: z.enum(['video', 'audio']),
  events: z.array(EditEvent),
});
export type EditTrack = z.infer<typeof EditTrack>;

/** What a track is called among all: V1 is the lowest of pictures, A1 the first of sound (common practice). */
export function trackWords(tracks: readonly Pick<EditTrack, 'kind'>[], at: number): string {
  const { kind } = tracks[at]!;
  const place = tracks.slice(0, at + 1).filter((t) => t.kind === kind).length;
  return `${kind === 'video' ? 'V' : 'A'}${place}`;
}

/** A timeline. */
export const Edit = z.object({
  name: z.string(),
  rate: Rate,
  /** Frame of its own timecode that it begins at. */
  start: z.int(),
  drop: z.boolean(),
  tracks: z.array(EditTrack),
  /** What of it could not be read, or makes no sense, in sentences. */
  faults: z.array(z.string()),
});
export type Edit = z.infer<typeof Edit>;

/** A timeline that cannot be read at all. */
export class NotAnEdit extends Error {}

/** Faults that are told one by one; more are counted. */
const MOST_FAULTS = 50;

/** Gathers what is wrong with a timeline. */
export class Faults {
  readonly #told: string[] = [];
  #more = 0;

  add(fault: string): void {
    if (this.#told.length < MOST_FAULTS) this.#told.push(fault);
    else this.#more++;
  }

  get all(): string[] {
    return this.#more === 0 ? this.#told : [...this.#told, `And ${this.#more} more of that kind.`];
  }
}

/** How many events an edit has, in all its tracks. */
export const eventsOf = (edit: Pick<Edit, 'tracks'>): number =>
  edit.tracks.reduce((n, t) => n + t.events.length, 0);
