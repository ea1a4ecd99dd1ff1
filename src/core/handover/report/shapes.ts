import * as z from 'zod';
import type { ClipView } from '../../cards';
import type { FieldId } from '../../facts';
import { ClipSet } from '../package/set';
import type { Verdict } from '../rehearsal';

/** What can be reported of a set of clips, for people. */
export const ReportKind = z.enum(['camera', 'sound', 'sheet', 'proxies', 'names', 'missing', 'wipe']);
export type ReportKind = z.infer<typeof ReportKind>;
export const REPORT_WORDS: Record<ReportKind, { name: string; about: string }> = {
  camera: {
    name: 'Camera report',
    about: 'Day by day and card by card: scene and take, timecode, lens, exposure, notes',
  },
  sound: { name: 'Sound report', about: 'Recordings with scene and take, timecode, tracks, notes' },
  sheet: { name: 'Contact sheet', about: 'A picture of each clip, with its name and timecode' },
  proxies: { name: 'Proxies and their proof', about: 'Which clip has which proxy, and what was compared' },
  names: {
    name: 'Names before and after',
    about: 'What each clip was called on its card, and is called now',
  },
  missing: {
    name: 'What is missing',
    about: 'Copies, proxies, timecode, files: all that is not as it should be',
  },
  wipe: {
    name: 'May these cards be wiped?',
    about: 'For each card whether it may be wiped, and which copies prove it',
  },
};

/** A report of a set, as it is asked for. */
export const ReportRequest = z.object({ kind: ReportKind, set: ClipSet });
export type ReportRequest = z.infer<typeof ReportRequest>;

/** A piece of a line: words; with a mark where they say that something is good, to be looked at, or wrong. */
export type Cell = string | { text: string; mark: 'good' | 'look' | 'stop' } | { picture: string };

export interface Column {
  head: string;
  /** Its part of the width. */
  width: number;
  /** Whether it holds timecodes or names, of which each letter counts. */
  exact?: boolean;
}

/** A clip's picture with what stands below it. `picture` is the clip's id. */
export interface Tile {
  picture: string;
  name: string;
  lines: string[];
}

/** A heading with a table or pictures below it; one without either is that of a day, and begins a new page where it is not the first. */
export interface Section {
  heading: string;
  /** A line below the heading; empty where there is none. */
  about: string;
  table?: { columns: Column[]; rows: Cell[][] };
  tiles?: Tile[];
  /** What is to be known beside, in sentences. */
  more: string[];
}

/** A report before it becomes a page or a PDF. */
export interface Report {
  kind: ReportKind;
  title: string;
  /** Of which job, and which of its clips. */
  job: string;
  of: string;
  /** When, by the clock of the world. */
  made: string;
  /** What all of it comes to. */
  summary: Cell[];
  sections: Section[];
  /** What is said in place of sections where there are none. */
  none: string;
}

/** The fields that reports show beside what lists do. */
export const REPORT_FIELDS = [
  ...['scene', 'take', 'circled', 'description', 'comment', 'lensModel', 'focalLength'],
  ...['aperture', 'tStop', 'iso', 'shutter', 'shutterAngle', 'whiteBalance', 'ndFilter'],
  ...['sampleRate', 'audioBits', 'trackNames', 'model', 'maker'],
] as FieldId[];

/** A clip as reports are written of it. */
export interface ReportClip extends ClipView {
  /** yyyy-mm-dd of its day; null where nobody said. */
  date: string | null;
  /** What is chosen of `REPORT_FIELDS`, as a person reads it. */
  facts: Readonly<Record<string, string>>;
  keywords: readonly string[];
  /** Names and notes of its ranges, each with its timecode. */
  notes: readonly string[];
  /** Its original, as it was taken in and as it is; `null` where nobody took it from elsewhere. */
  before: string | null;
  now: { root: string; folder: string; file: string };
  /** What belongs to it beside the original. */
  beside: number;
  proxy: { file: string; recipe: string | null; checkedAt: string | null } | null;
  /** How an edit made with it meets its original; null where nothing is known. */
  verdict: Verdict | null;
  /** Why files of it cannot be had now. */
  away: readonly string[];
}

/** A card of those clips: whether it was copied here, and which numbers are missing on it. */
export interface ReportCard {
  id: string;
  copied: boolean;
  gaps: readonly string[];
}
