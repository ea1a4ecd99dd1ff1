import { eq, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import PQueue from 'p-queue';
import { RECORDS_VERSION } from '../../core/records/replay';
import { distrustCopies, findCopy } from '../custody';
import { library } from './tables';
import { safeCopies } from '../custody/tables';
import { inWords } from '../platform/files/faults';
import { OWN_FOLDER } from '../platform/files/journal';
import { joinPath } from '../platform/files/names';
import type { Ports } from './ports';
import { writeLog } from '../logbook';
import { headerOf, lastMark, markOf } from './read';
import { type Source, TABLES } from './recorded';
import { behindName, homeRecords, OpenFiles, type Place, recordsName, type SizedPlace } from './openFiles';
import { stat } from '../platform/files/onDisk';
import { isAway, listRoots } from '../places';

/** Rows of a line. */
const PAGE = 2000;
/** Newest rows of a table that only grows among which late ones are looked for: a transaction may end after others whose rows are newer. */
const LATE = 10_000;
/** A file is written anew once it is so many times as large as it was then, and so many bytes larger. */
const GROWN = { times: 3, bytes: 32 << 20 };

/** This database among others: its id, this run of the server, and its next transaction when it was opened. */
export interface Library {
  id: string;
  run: string;
  opened: number;
}

/**
 * Opens the library of a database. One that is behind its record, or may be (brought back from an older state), is another database: it
 * gives the same numbers again to other changes, and records made meanwhile know more.
 */
export async function openLibrary(db: Ports['db'], broughtBack: boolean): Promise<Library> {
  const {
    rows: [now],
  } = await db.execute<{ next: string }>(sql`select pg_snapshot_xmax(pg_current_snapshot())::text as next`);
  const [known] = await db.select().from(library);
  const run = randomUUID().slice(0, 8);
  const opened = Number(now!.next);
  const row = {
    id: known && !broughtBack ? known.id : randomUUID(),
    madeAt: known && !broughtBack ? known.madeAt : new Date(),
    runs: [...(known?.runs ?? []), run],
  };
  if (known) await db.update(library).set(row);
  else await db.insert(library).values(row);
  return { id: row.id, run, opened };
}

interface Grown {
  [table: string]: number;
}
/** How far a file is known to be written. */
interface Known {
  upTo: number;
  grown: Grown;
  base: number;
  size: number;
}

/**
 * Writes what the database knows beside the footage: beside the database itself, on the shelf, and on each drive that holds a safe
 * copy. Each file has everything; a drive that was away gets what it missed. Every change is found by the database itself, by the
 * transaction that made it, so that no use case can forget to say it.
 */
export class RecordsWriter {
  readonly #ofAll: Parameters<typeof writeLog>[0];
  readonly #known = new Map<string, Known>();
  readonly #faults = new Map<string, string>();
  readonly #turns = new PQueue({ concurrency: 1 });
  /** Milliseconds the last writing took. */
  took = 0;

  constructor(
    private readonly runtime: Pick<Ports, 'checkHome' | 'db' | 'devices' | 'home' | 'who' | 'events'>,
    private readonly library: Library,
  ) {
    this.#ofAll = { db: runtime.db, who: runtime.who, job: null };
  }

  /** Writes every change that is not written yet, and flushes it. What a place does not take is said in the logbook, once. */
  write(): Promise<void> {
    return this.#turns.add(() => this.#write());
  }

  /** Writes the first record of a database before anything is done with it: one that was not closed has nothing else to be compared with. */
  async begin(): Promise<void> {
    if (
      !(await lastMark(joinPath(homeRecords(this.runtime.home), recordsName(this.library.id))).catch(
        () => null,
      ))
    )
      await this.write();
  }

  /**
   * Looks whether a record beside the footage was written by a later state of this database, which then was brought back from an older
   * copy. It is another database from then on, and what is known of copies has to be found out again. Returns whether it was so.
   */
  heed(): Promise<boolean> {
    return this.#turns.add(() => this.#heed());
  }

  async #heed(): Promise<boolean> {
    const { db, events } = this.runtime;
    const [{ runs, rebuiltFrom }] = (await db.select().from(library)) as [typeof library.$inferSelect];
    for (const { folder, name } of await this.#places()) {
      const marks = (id: string) =>
        Promise.all([recordsName(id), behindName(id)].map((n) => markOf(joinPath(folder, n))));
      const own = await marks(this.library.id);
      const later = own.some(
        (m) =>
          m &&
          m.run !== this.library.run &&
          (m.upTo >= this.library.opened || (m.run !== undefined && !runs.includes(m.run))),
      );
      const further = rebuiltFrom
        ? Math.max(...(await marks(rebuiltFrom.library)).map((m) => m?.upTo ?? 0))
        : 0;
      if (!later && !(rebuiltFrom && further > rebuiltFrom.upTo)) continue;
      const id = randomUUID();
      await db.transaction(async (tx) => {
        await tx.update(library).set({
          id,
          madeAt: new Date(),
          rebuiltFrom: rebuiltFrom && { ...rebuiltFrom, upTo: Math.max(further, rebuiltFrom.upTo) },
        });
        await distrustCopies(tx);
      });
      this.library.id = id;
      this.#known.clear();
      await writeLog(
        this.#ofAll,
        'recovery',
        `The record beside ${name} was written by a later state of this database, which was brought back from an older copy: copies count once they are checked again.`,
      );
      events.changed('copies', 'log');
      return true;
    }
    return false;
  }

  async #write(): Promise<void> {
    const begun = performance.now();
    await this.#heed();
    // By a change of its own the database has written out that these numbers were given: a killed server does not give them again. Of
    // those before the oldest that is still under way every one has ended, and what it changed is seen.
    const {
      rows: [now],
    } = await this.runtime.db.execute<{ oldest: string }>(
      sql`update library set made_at = made_at returning pg_snapshot_xmin(pg_current_snapshot())::text as oldest`,
    );
    const upTo = Number(now!.oldest) - 1;
    const groups = new Map<string, { from: Known | null; places: SizedPlace[] }>();
    for (const place of await this.#places()) {
      const from = await this.#stateOf(place).catch(() => null);
      const group = groups.get(JSON.stringify(from && [from.upTo, from.grown])) ?? { from, places: [] };
      group.places.push({ ...place, size: from?.size ?? 0, base: from?.base ?? 0 });
      groups.set(JSON.stringify(from && [from.upTo, from.grown]), group);
    }
    for (const { from, places } of groups.values())
      if (from === null || from.upTo < upTo) await this.#append(from, upTo, places);
    this.took = performance.now() - begun;
  }

  /** Where records belong now. A folder in place of a drive that is away gets none. */
  async #places(): Promise<Place[]> {
    const { db, home } = this.runtime;
    const out: Place[] = [{ folder: homeRecords(home), root: null, name: 'the data folder' }];
    for (const r of await listRoots(this.runtime)) {
      if ((r.kind !== 'shelf' && r.kind !== 'safe') || (await isAway(this.runtime, r))) continue;
      let belongs = r.kind === 'shelf';
      if (r.kind === 'safe') {
        // Copies of one root mostly are on one volume: it is looked at once.
        const copies = new Map(
          (await db.select().from(safeCopies).where(eq(safeCopies.root, r.id))).map((c) => [
            JSON.stringify([c.volume, c.disk]),
            c,
          ]),
        );
        for (const c of copies.values()) belongs ||= (await findCopy(this.runtime, c, r)) !== null;
      }
      if (belongs) out.push({ folder: joinPath(r.path, OWN_FOLDER), root: r.id, name: r.name });
    }
    return out;
  }

  /** How far a file is written; null where it has to be written anew. */
  async #stateOf({ folder, root }: Place): Promise<Known | null> {
    const file = joinPath(folder, recordsName(this.library.id));
    const { size } = await stat(file);
    const known = this.#known.get(folder);
    if (known)
      return known.size === size && !(size > known.base * GROWN.times && size > known.base + GROWN.bytes)
        ? known
        : null;
    // It was copied here with the folder of another place, and would go on to say that it is that one's.
    if ((await headerOf(file)).root !== root) return null;
    const mark = await lastMark(file);
    // A power cut may have taken more from the database than from the drive: the numbers after it are given again, to other changes.
    return mark.version === RECORDS_VERSION && mark.upTo < this.library.opened
      ? { upTo: mark.upTo, grown: mark.grown, base: mark.base, size }
      : null;
  }

  async #append(from: Known | null, upTo: number, places: readonly SizedPlace[]): Promise<void> {
    const files = new OpenFiles(
      this.library.id,
      (place, e) => this.#failed(place, e),
      () => this.runtime.checkHome(),
    );
    const grown: Grown = { ...from?.grown };
    let begun = from === null;
    if (begun) await files.open(places, true);
    for await (const line of this.#changes(from, grown)) {
      if (!begun) await files.open(places, false);
      begun = true;
      await files.append(line);
    }
    if (!begun) {
      for (const { folder, size, base } of places) this.#known.set(folder, { ...from!, size, base, upTo });
      return;
    }
    await files.end(
      { upTo, at: new Date().toISOString(), grown, run: this.library.run, version: RECORDS_VERSION },
      ({ folder }, { base, size }) => {
        this.#known.set(folder, { upTo, grown, base, size });
        this.#faults.delete(folder);
      },
    );
  }

  /** Says once that a place does not take its file. A drive that went away meanwhile gets what it missed when it is back. */
  async #failed({ folder, root, name }: Place, e: unknown): Promise<void> {
    this.#known.delete(folder);
    const of = root === null ? undefined : (await listRoots(this.runtime)).find((r) => r.id === root);
    if (of && (await isAway(this.runtime, of))) return;
    const fault = inWords(e);
    if (this.#faults.get(folder) === fault) return;
    this.#faults.set(folder, fault);
    await writeLog(
      this.#ofAll,
      'check',
      `The record of cards, copies and names cannot be written beside ${name}: ${fault}`,
    );
    this.runtime.events.changed('log');
  }

  /** Lines of what has changed since: keys that are gone first, then rows. `grown` is brought up to date meanwhile. */
  async *#changes(from: Known | null, grown: Grown): AsyncGenerator<string> {
    const { db } = this.runtime;
    if (from) yield* goneSince(db, from.upTo);
    for (const table of TABLES) {
      const conditions = from
        ? [changedSince(table, from.upTo, grown), table.within?.replace('$from', String(from.upTo))]
        : ['true'];
      yield* linesOf(db, table, conditions.filter(Boolean).join(' and '), grown);
    }
  }
}

/** A text as a value of a statement. */
export const quoted = (text: string): string => `'${text.replaceAll("'", "''")}'`;

/** Lines of the keys that are gone since a transaction. */
export async function* goneSince(db: Pick<Ports['db'], 'execute'>, since: number): AsyncGenerator<string> {
  const gone = await db.execute<{ line: string }>(
    sql`select json_build_object('table', kind, 'gone', json_agg(key))::text as line from removed_rows where xmin::text::bigint > ${since} group by kind`,
  );
  for (const r of gone.rows) yield `${r.line}\n`;
}

/** Which rows of a table are new or have changed since a transaction, an SQL expression of `t`. */
export const changedSince = (table: Source, since: number, grown: Readonly<Grown>): string =>
  `t.xmin::text::bigint > ${since}${table.grows ? ` and t.seq > ${(grown[table.name] ?? 0) - LATE}` : ''}`;

/** Lines of the rows of a table that fulfil a condition, an SQL expression of `t`. `grown` is brought up to date meanwhile. */
export async function* linesOf(
  db: Pick<Ports['db'], 'execute'>,
  table: Source,
  changed: string,
  grown: Grown,
): AsyncGenerator<string> {
  const key = table.key.map((k) => `t.${k}`);
  // What has changed is few and found in one go; all of a table is read a page at a time along its key.
  for (let last: unknown[] | null = null; ;) {
    const after: string =
      last === null
        ? ''
        : ` and (${key.join(', ')}) > (${last.map((v) => (typeof v === 'number' ? v : quoted(String(v)))).join(', ')})`;
    const {
      rows: [page],
    } = await db.execute<{ line: string; last: unknown[] | null; n: number }>(
      sql.raw(`
        select json_build_object('table', '${table.name}', 'rows', json_agg(r.row order by ${table.key.map((_, i) => `r.k${i}`).join(', ')}))::text as line, count(*)::int as n,
          (array_agg(jsonb_build_array(${table.key.map((_, i) => `r.k${i}`).join(', ')}) order by ${table.key.map((_, i) => `r.k${i} desc`).join(', ')}))[1] as last
        from (select ${table.row ?? 'to_jsonb(t)'} as row, ${key.map((k, i) => `${k} as k${i}`).join(', ')} from ${table.name} t where ${changed}${after} order by ${key.join(', ')} limit ${PAGE}) r`),
    );
    if (!page || page.n === 0) return;
    if (table.grows) grown[table.name] = Math.max(grown[table.name] ?? 0, Number(page.last![0]));
    yield `${page.line}\n`;
    if (page.n < PAGE) return;
    last = page.last;
    await new Promise((r) => setImmediate(r));
  }
}
