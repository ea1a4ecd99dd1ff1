import type { WorkKind, WorkState } from '../../../core/platform/shapes';
import type { Topic } from '../events';
import { NO_ROOM } from '../errors';
import type { Writer } from '../db/transaction';
import type { TaskContext } from './context';

/** What a piece of work is given: what it is about, how to say how far it is, and when to stop. */
export interface WorkContext extends TaskContext {
  /** Of the piece of work. */
  id: string;
  /** What it is about: a clip, a copying, a copy, a plan; empty where it is about none in particular. */
  subject: string;
  /** What was asked for, as it was given to `begin`. */
  wanted: unknown;
  attempt: number;
  /** Aborted, with a Halted, when it is to end. */
  signal: AbortSignal;
}

/** What came of a piece of work. */
export interface Outcome {
  /** Seconds of footage per second of work. */
  speed?: number;
  /** For who asked for it. */
  result?: unknown;
}

interface AnyKind<Given> {
  /** How many pieces run at once in one server. */
  workers: number;
  /** What becomes of a piece when the server ends in the middle of it: it is done again, up to the third time, or not at all. */
  afterDeath: 'again' | 'thrice' | 'never';
  /** Hears of a piece that it comes to another state, and why, where there is something to say: within the transaction of that, which fails with it. */
  told?(db: Writer, piece: { subject: string; state: WorkState; fault: string | null }): Promise<void>;
  /** What else is shown by the states of its pieces. */
  shownAs?: Topic;
  /** Whether what a waiting piece that is about no clip waits for is there. */
  mayGoOn?(given: Given, subject: string): Promise<boolean>;
  /**
   * Of clips those that nothing can be done for now, as their files are out of reach, with what is to be connected: a piece that fails for
   * such a clip waits until it is. `failed`: they failed just now, and the system may take a moment to say that a volume has gone.
   */
  away?(given: Given, subjects: readonly string[], failed: boolean): Promise<ReadonlyMap<string, string>>;
}

/** Work that is done piece by piece. Throws where it fails; Halted where it cannot go on now. */
export interface SingleKind<Given> extends AnyKind<Given> {
  run(given: Given, context: WorkContext): Promise<Outcome | void>;
}

/** Work of which several pieces of one job are done in one go, where that is cheaper: `most` of them. Returns why those failed that did, by their ids. */
export interface BatchKind<Given> extends AnyKind<Given> {
  most: number;
  runAll(given: Given, contexts: readonly WorkContext[]): Promise<ReadonlyMap<string, Error>>;
}

/** What does one kind of work. `Given` is what it is given to work with, in the job that the work belongs to. */
export type Kind<Given> = SingleKind<Given> | BatchKind<Given>;
export type Kinds<Given> = Record<WorkKind, Kind<Given>>;

/** Thrown by work for a clip that cannot be done now, and why: it waits for something that comes by itself. */
export class NotNow extends Error {}

/** The same where the volume of the data folder has no room for its outcome. */
export class NoRoom extends NotNow {
  constructor() {
    super(NO_ROOM);
  }
}

/**
 * The end of a running piece before its time. Thrown into it by `cancel`, `pause` and `stop`, the last of which puts it back into the
 * queue; thrown by itself where it cannot go on: it waits for something that comes by itself, or is paused until a person has mended it.
 */
export class Halted extends Error {
  constructor(
    readonly to: Extract<WorkState, 'cancelled' | 'paused' | 'queued' | 'waiting'>,
    readonly why: string | null = null,
  ) {
    super(why ?? to);
  }
}
