import { z } from 'zod';
import { ShownPath } from '../platform/names';
import { Finding, Mend, Verdict } from './rehearsal';
import { Tried, Way } from './ways';

const Ids = z.array(z.string().min(1).max(64)).min(1).max(100_000);

/** Which clips of the rehearsal are wanted: those of a verdict, or those with which a way goes like this. */
export const RehearsalQuery = z.object({
  verdict: Verdict.nullable().default(null),
  way: z.object({ way: Way, result: Tried.shape.result }).nullable().default(null),
  /** Part of a name, of the file in the edit or of the original. */
  words: z.string().max(200).default(''),
  offset: z.int().min(0).max(10_000_000).default(0),
  limit: z.int().min(1).max(500).default(100),
});
export type RehearsalQuery = z.infer<typeof RehearsalQuery>;

export const RehearsalView = z.object({
  /** Clips that were tried, and those left out: not read yet, or not readable. */
  clips: z.int(),
  unread: z.int(),
  verdicts: z.record(Verdict, z.int()),
  ways: z.array(z.object({ way: Way, counts: z.record(Tried.shape.result, z.int()) })),
  /** How many clips each mend is offered for. */
  mends: z.record(Mend, z.int()),
  /** How many are as they were asked for, and those from `offset` on. */
  found: z.int(),
  lines: z.array(Finding.extend({ card: z.string(), camera: z.string() })),
});
export type RehearsalView = z.infer<typeof RehearsalView>;

/** What is mended: of these clips, or of all for which it is offered. */
export const MendRequest = z.object({
  mend: z.enum(['rewrap', 'again', 'look']),
  clips: Ids.nullable().default(null),
});
export type MendRequest = z.infer<typeof MendRequest>;
/** How many clips work was begun for, and why not for others. */
export const Mended = z.object({
  begun: z.int(),
  refused: z.array(z.object({ name: ShownPath, why: z.string() })),
});
export type Mended = z.infer<typeof Mended>;
