import type { Events } from './platform/events';
import type { DatabaseKeeper } from './platform/db/keeper';
import { messageOf } from './platform/errors';
import type { HomeWatch } from './platform/home';
import type { RecordsWriter } from './records';

/** Milliseconds between two flushes of a database that was written to, and between two snapshots of it. */
const FLUSHES = 3000;
const SNAPSHOTS = 10 * 60_000;

interface Kept {
  events: Pick<Events, 'revision'>;
  watch: HomeWatch;
  /** Null for a database that nobody has to flush from outside. */
  keeper: DatabaseKeeper | null;
}

/** Keeps what the database knows, while it changes: flushed, in snapshots, and in the records beside the footage. */
export class Keeping {
  /** What writes the records, once it may. */
  records: RecordsWriter | null = null;
  readonly #timer: NodeJS.Timeout;
  #flushed = -1;
  #recorded = { revision: -1, at: 0 };
  #now: Promise<unknown> = Promise.resolve();

  constructor(private readonly kept: Kept) {
    this.#timer = setInterval(
      () =>
        void kept.watch.check().then(
          () => this.#keep(),
          () => undefined,
        ),
      FLUSHES,
    );
    this.#timer.unref();
  }

  /** Keeps everything, and resolves once it is kept. Throws DataFolderGone where that cannot be. */
  async now(): Promise<void> {
    await this.kept.watch.check();
    await Promise.all([this.kept.keeper?.flush(), this.records?.write()]);
  }

  /** Ends by itself what it began, and begins nothing any more. */
  async end(): Promise<void> {
    clearInterval(this.#timer);
    await this.#now;
  }

  #keep(): void {
    const { events, keeper } = this.kept;
    const { records } = this;
    // The more there is to look through, the more seldom it is.
    if (
      records &&
      this.#recorded.revision !== events.revision &&
      performance.now() - this.#recorded.at > FLUSHES / 2 + records.took * 20
    ) {
      this.#recorded = { revision: events.revision, at: performance.now() };
      this.#after(records.write(), 'records');
    }
    if (!keeper || this.#flushed === events.revision) return;
    this.#flushed = events.revision;
    this.#after(
      keeper.flush().then(() => (keeper.age > SNAPSHOTS ? keeper.snapshot() : null)),
      'database',
    );
  }

  #after(work: Promise<unknown>, what: string): void {
    this.#now = Promise.all([this.#now, work.catch((e: unknown) => console.error(`${what}:`, messageOf(e)))]);
  }
}
