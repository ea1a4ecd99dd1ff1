import { and, eq, sql } from 'drizzle-orm';
import PQueue from 'p-queue';
import { keepCardReadings, keepCopied } from '../custody';
import { standInCopies } from '../cards';
import { offloadFiles, type offloads } from './tables';
import type { Ports } from './ports';
import type { FileOutcome } from '../transfer';
import type { OffloadFile } from './fileList';

/** How often what was found is tried to be kept, and the milliseconds between. */
const KEEPING = { tries: 4, pause: 250 };

type Verified = Extract<FileOutcome, { state: 'verified' }>;

/** Keeps what was found of each file, many at a time: a row for each would cost more than the copying of small files. */
export class FoundStore {
  #verified: { row: OffloadFile; found: Verified; note: string | null }[] = [];
  #last = performance.now();
  readonly #writing = new PQueue({ concurrency: 1 });

  /** `home` is the destination that clips' files are turned to; `copies` the safe copies by destination. */
  constructor(
    private readonly runtime: Pick<Ports, 'db' | 'events'>,
    private readonly offload: typeof offloads.$inferSelect,
    private readonly home: number,
    private readonly copies: ReadonlyMap<number, string>,
  ) {}

  async verified(row: OffloadFile, found: Verified, note: string | null): Promise<void> {
    this.#verified.push({ row, found, note });
    if (this.#verified.length >= 250 || performance.now() - this.#last > 400) await this.flush();
  }

  async failed(row: OffloadFile, fault: string): Promise<void> {
    await this.runtime.db
      .update(offloadFiles)
      .set({ state: 'failed', fault })
      .where(and(eq(offloadFiles.offload, this.offload.id), eq(offloadFiles.number, row.number)));
    this.runtime.events.changed('copies');
  }

  /** Keeps what has been found. What the database does not take is tried again; what it never takes is found at the next run. */
  flush(): Promise<void> {
    return this.#writing.add(() => this.#write());
  }

  async #write(): Promise<void> {
    const some = this.#verified;
    this.#verified = [];
    this.#last = performance.now();
    if (some.length === 0) return;
    for (let tried = 1; ; tried++) {
      try {
        await this.#keep(some);
        return;
      } catch (e) {
        if (tried < KEEPING.tries) {
          await new Promise((r) => setTimeout(r, KEEPING.pause * tried));
          continue;
        }
        this.#verified.unshift(...some);
        throw e;
      }
    }
  }

  /** Marks files as verified, records what the card gave and what each copy holds, and turns the clips' files to their copies. */
  async #keep(some: readonly { row: OffloadFile; found: Verified; note: string | null }[]): Promise<void> {
    const { destinations, id, physical, hash: kind } = this.offload;
    const placeIn = (row: OffloadFile, i: number) => {
      const { root, folder } = destinations[i]!;
      return { root, path: folder === '' ? row.path : `${folder}/${row.path}` };
    };
    const copies = some.flatMap(({ row }) =>
      row.to.flatMap((i) => {
        const copy = destinations[i]!.dropped ? undefined : this.copies.get(i);
        return copy === undefined ? [] : [{ onCard: row.path, copy, ...placeIn(row, i) }];
      }),
    );
    const moved = some.flatMap(({ row }) => {
      if (row.file === null) return [];
      const to = row.to.includes(this.home) ? this.home : row.to.find((i) => !destinations[i]!.dropped);
      if (to === undefined) return [];
      return [{ id: row.file, ...placeIn(row, to) }];
    });
    const told = some.map(({ row, found, note }) => ({
      number: row.number,
      file: row.cardFile,
      hash: found.hash,
      note,
    }));
    const stood = some.flatMap(({ row, found }) =>
      found.stood.flatMap(({ destination, size, modified, read }) => {
        const copy = this.copies.get(destination);
        return copy
          ? [
              {
                copy,
                number: row.cardFile,
                result: read ? ('read' as const) : ('sizeOnly' as const),
                value: read ? found.hash : null,
                size,
                modified,
              },
            ]
          : [];
      }),
    );
    // One value a statement, however many rows: a statement takes no more than 65 535.
    await this.runtime.db.transaction(async (tx) => {
      await tx.execute(sql`update ${offloadFiles} set state = 'verified', fault = null, hash = v.hash, note = v.note
        from jsonb_to_recordset(${JSON.stringify(told)}::jsonb) as v(number int, hash text, note text) where ${offloadFiles.offload} = ${id} and ${offloadFiles.number} = v.number`);
      await keepCardReadings(tx, physical, kind, told);
      await keepCopied(tx, kind, stood);
      await standInCopies(tx, physical, moved, copies);
    });
    this.runtime.events.changed('copies', ...(moved.length > 0 ? ['clips' as const] : []));
  }
}
