import type { RowFilter } from '../../core/naming/compose';
import type { ChangedClip, Coming, ComingClips, Convention } from '../../core/naming';
import type { Filling, FillSource } from '../../core/naming/fill';
import type { NamingRequest, NamingRow, NamingSummary } from '../../core/naming/shapes';
import type { Suggestion } from '../../core/naming/suggest';
import type { ProblemDetails } from '../../core/platform/shapes';
import { ServerProblem } from '../platform/client';

/** A row as it is shown: with where its present name does not follow the convention. */
export type ShownRow = NamingRow & { strayed: string | null };

/** What the page asks of the worker that makes its plans. */
export type Ask =
  | { kind: 'load'; job: string; fields: readonly string[] }
  | { kind: 'coming'; job: string; coming: Coming; fields: readonly string[] }
  | { kind: 'plan'; job: string; request: NamingRequest; changed: readonly ChangedClip[] }
  | { kind: 'suggest' }
  | { kind: 'rows'; filter: RowFilter; from: number; to: number }
  | { kind: 'fingerprint'; number: number }
  | { kind: 'fill'; source: FillSource; convention: Convention };
export type Answer = { id: number; result: unknown } | { id: number; problem: ProblemDetails };

/** A plan as the page has it: in figures, with a few of its rows; the others are asked for as they come into view. */
export interface Preview {
  /** Its number among the plans of the page. */
  number: number;
  summary: NamingSummary;
  examples: NamingRow[];
  counts: Record<RowFilter, number>;
}

/** How many clips of a card that is not copied yet are read. */
export type ComingRead = Pick<ComingClips, 'read' | 'of'>;

/** Makes plans in a worker, so that the page goes on however many clips there are. */
export class Composer {
  #worker: Worker | null = null;
  readonly #waiting = new Map<number, { done: (v: unknown) => void; failed: (e: unknown) => void }>();
  #next = 0;

  constructor(private readonly job: string) {}

  /** Begun when it is first asked: a page that is made on the server has none. */
  #begin(): Worker {
    const worker = new Worker(new URL('./composer.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<Answer>) => {
      const waiting = this.#waiting.get(data.id);
      this.#waiting.delete(data.id);
      if ('problem' in data) waiting?.failed(new ServerProblem(data.problem));
      else waiting?.done(data.result);
    };
    worker.onerror = (e) => {
      for (const { failed } of this.#waiting.values())
        failed(new Error(`The names could not be worked out: ${e.message || 'the page is out of date'}`));
      this.#waiting.clear();
    };
    return worker;
  }

  /** Loads the clips anew, with some fields of their facts. */
  load = (fields: readonly string[]): Promise<number> =>
    this.#ask({ kind: 'load', job: this.job, fields }) as Promise<number>;

  /** Loads clips of a card that is not copied yet, which the plans are of from then on. Resolves with how many of them are read so far. */
  coming = (coming: Coming, fields: readonly string[]): Promise<ComingRead> =>
    this.#ask({ kind: 'coming', job: this.job, coming, fields }) as Promise<ComingRead>;

  /** Makes the plan; of clips that changed on the disk it says so. */
  plan = (request: NamingRequest, changed: readonly ChangedClip[] = []): Promise<Preview> =>
    this.#ask({ kind: 'plan', job: this.job, request, changed }) as Promise<Preview>;

  /** Rows of the plan that was made last. */
  rows = (filter: RowFilter, from: number, to: number): Promise<ShownRow[]> =>
    this.#ask({ kind: 'rows', filter, from, to }) as Promise<ShownRow[]>;

  /** What tells the server that a plan is the one that was shown. Throws where another was made since. */
  fingerprint = (number: number): Promise<string> =>
    this.#ask({ kind: 'fingerprint', number }) as Promise<string>;

  /** What a source says of the clips. */
  fill = (source: FillSource, convention: Convention): Promise<Filling> =>
    this.#ask({ kind: 'fill', source, convention }) as Promise<Filling>;

  /** The convention that the names in use seem to follow. */
  suggest = (): Promise<Suggestion | null> => this.#ask({ kind: 'suggest' }) as Promise<Suggestion | null>;

  end(): void {
    this.#worker?.terminate();
    this.#worker = null;
    for (const { failed } of this.#waiting.values()) failed(new Error('the page was left'));
    this.#waiting.clear();
  }

  #ask(ask: Ask): Promise<unknown> {
    const id = this.#next++;
    return new Promise((done, failed) => {
      this.#waiting.set(id, { done, failed });
      this.#worker ??= this.#begin();
      this.#worker.postMessage({ id, ask });
    });
  }
}
