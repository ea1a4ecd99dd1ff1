import type { ClipKind } from '../intake';
import type { Rate } from '../platform/timecode/rate';

/** What a clip brings to its name. `null` where nothing states it. */
export interface NamingClip {
  id: string;
  /** The job's code. */
  job: string;
  kind: ClipKind;
  day: number | null;
  /** Date of the shoot day, yyyy-mm-dd. */
  date: string | null;
  camera: string;
  /** The camera's name or model, as the job has it. */
  cameraName: string | null;
  card: string;
  rate: Rate | null;
  /** Columns and rows of the picture. */
  size: readonly [number, number] | null;
  /** The clip's name on the camera's card, without extension. */
  original: string;
  /** Local time of the recording by the corrected clock, "2026-05-06T14:22:05". */
  recordedAt: string | null;
  /** Start timecode in seconds since midnight. */
  startSeconds: number | null;
  /** Chosen facts as a person reads them, by field; only those that conventions and columns use. */
  facts: Readonly<Record<string, string>>;
  /** Its keywords as they are listed, group by group; only where conventions use them. */
  keywords: readonly { name: string; group: string }[];
  /** The name it is under now, without extension. */
  current: string;
}

const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);
const natural = new Intl.Collator('en', { numeric: true });

/** By card and the camera's own name, its numbers counted as numbers. */
export const byCameraName = (a: NamingClip, b: NamingClip): number =>
  natural.compare(a.card, b.card) || natural.compare(a.original, b.original) || compare(a.id, b.id);

/** Shooting order: recorded time, then timecode, then the camera's own name. */
export const byRecording = (a: NamingClip, b: NamingClip): number =>
  compare(a.recordedAt ?? '9', b.recordedAt ?? '9') ||
  (a.startSeconds ?? 0) - (b.startSeconds ?? 0) ||
  byCameraName(a, b);

/** By day and timecode; clips without one come last in their day. */
export const byTimecode = (a: NamingClip, b: NamingClip): number =>
  (a.day ?? Infinity) - (b.day ?? Infinity) ||
  (a.startSeconds ?? Infinity) - (b.startSeconds ?? Infinity) ||
  byRecording(a, b);
