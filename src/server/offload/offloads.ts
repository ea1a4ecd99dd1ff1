import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import path from 'node:path';
import { shownPath } from '../../core/platform/names';
import type { OffloadProgress, OffloadState } from '../../core/offload/shapes';
import { cardInReader } from '../custody';
import { cardReadings, copyReadings, files, offloadFiles, offloads, safeCopies } from '../platform/db/schema';
import { messageOf } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import { resolveIn } from '../platform/files/paths';
import type { Runtime } from '../runtime';
import { rootById } from '../places';
import { finishOffload, type NameCopied } from './finish';
import { filesOf, type OffloadFile, tallies } from './fileList';
import { copyFiles, THREADS, CHANGED, DIFFERS, type FileOutcome, STOPPED, type TaskFile } from '../transfer';
import { mkdir } from '../platform/files/onDisk';

type OffloadRow = typeof offloads.$inferSelect;

/** Small files are handed out together, up to so many, or so many bytes. */
const BATCH = { files: 128, bytes: 16 << 20 };
/** How often a file is tried before it is given up. */
const TRIES = 3;
/** Words of the file system for a source that is gone, and for a destination that takes no more. */
const SOURCE_GONE = new Set([
  'ENOENT',
  'ENODEV',
  'EIO',
  'ENXIO',
  'ENOTCONN',
  'ESTALE',
  'ENOTDIR',
  'EHOSTDOWN',
]);
const DESTINATION_DOWN: Record<string, string> = {
  ENOSPC: 'is full',
  EDQUOT: 'is full (quota)',
  EROFS: 'is read only',
  EACCES: 'may not be written by this user',
  EPERM: 'may not be written by this user',
  ENOENT: 'is not there any more',
  ENODEV: 'is not there any more',
  EIO: 'does not take what is written (I/O error)',
  ENXIO: 'is not there any more',
  ENOTCONN: 'is not connected',
  ESTALE: 'is not connected',
};

class Halt extends Error {
  constructor(
    readonly state: OffloadState,
    readonly words: string | null,
  ) {
    super(words ?? state);
  }
}

/** One copying while it runs. */
class Run {
  readonly gate = new SharedArrayBuffer(8);
  readonly counter = new SharedArrayBuffer(8);
  /** Bytes and files that were verified before this run began. */
  before = { bytes: 0, files: 0 };
  files = 0;
  current: string | null = null;
  halt: Halt | null = null;
  readonly samples: { at: number; bytes: number }[] = [];

  constructor(readonly row: OffloadRow) {}

  get read(): number {
    return Number(Atomics.load(new BigInt64Array(this.counter), 0));
  }

  stop(halt: Halt): void {
    this.halt ??= halt;
    const words = new Int32Array(this.gate);
    Atomics.store(words, 1, 1);
    Atomics.notify(words, 0);
  }
}

/** How many copyings run at once, each from a reader of its own. */
const AT_ONCE = 3;
const SECONDS_KEPT = 600;

/**
 * The copyings of cards. One reader reads one card at a time; cards of different readers are copied beside one another. The
 * database says which files are verified; a file under its final name is whole and proven, whatever happened.
 */
export class Offloads {
  readonly #running = new Map<string, { run: Run; done: Promise<void> }>();
  readonly #rates = new Map<string, number[]>();
  #timer: NodeJS.Timeout | null = null;
  #stopped = false;
  #watch: NodeJS.Timeout | null = null;

  constructor(
    private readonly runtime: Runtime,
    private readonly nameCopied: NameCopied,
  ) {}

  /** Goes on with what a dead server left, and watches for cards that come back. */
  async start(): Promise<void> {
    await this.runtime.db
      .update(offloads)
      .set({ state: 'queued' })
      .where(inArray(offloads.state, ['running', 'naming']));
    this.#watch = setInterval(
      () => void this.#lookForCards().catch((e: unknown) => console.error('cards:', messageOf(e))),
      1500,
    );
    this.#watch.unref();
    await this.next();
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    if (this.#watch) clearInterval(this.#watch);
    for (const { run } of this.#running.values()) run.stop(new Halt('queued', null));
    await Promise.all([...this.#running.values()].map((r) => r.done));
    if (this.#timer) clearInterval(this.#timer);
  }

  /** Begins whatever may begin. */
  async next(): Promise<void> {
    if (this.#stopped) return;
    const rows = await this.runtime.db
      .select()
      .from(offloads)
      .where(eq(offloads.state, 'queued'))
      .orderBy(asc(offloads.queuedAt));
    for (const row of this.#inTurn(rows)) {
      const readers = new Set([...this.#running.values()].map((r) => r.run.row.root));
      if (
        this.#stopped ||
        this.#running.has(row.id) ||
        readers.has(row.root) ||
        this.#running.size >= AT_ONCE
      )
        continue;
      const run = new Run(row);
      const done = this.#work(run)
        .catch((e: unknown) => console.error('copy:', messageOf(e)))
        .finally(() => {
          this.#running.delete(row.id);
          void this.next();
        });
      this.#running.set(row.id, { run, done });
    }
    if (this.#running.size > 0) this.#timer ??= setInterval(() => this.#tell(), 500);
  }

  /** Copyings in the order they begin in: of a job of which less is being copied first, so that no job waits for all of another. */
  #inTurn(rows: readonly OffloadRow[]): OffloadRow[] {
    const busy = new Map<string, number>();
    const count = (job: string): number => {
      const n = busy.get(job) ?? 0;
      busy.set(job, n + 1);
      return n;
    };
    for (const { run } of this.#running.values()) count(run.row.job);
    return rows
      .map((row) => ({ row, turn: count(row.job) }))
      .sort((a, b) => a.turn - b.turn)
      .map((r) => r.row);
  }

  /** Waits until nothing runs any more. */
  async idle(): Promise<void> {
    await this.next();
    while (this.#running.size > 0) await Promise.all([...this.#running.values()].map((r) => r.done));
  }

  async pause(id: string): Promise<void> {
    await this.#halt(id, 'paused', null, ['queued', 'running', 'waiting']);
  }

  async cancel(id: string): Promise<void> {
    await this.#halt(id, 'cancelled', null, ['queued', 'running', 'paused', 'waiting']);
    await this.runtime.db.update(offloads).set({ endedAt: new Date() }).where(eq(offloads.id, id));
  }

  async resume(id: string): Promise<void> {
    await this.runtime.db
      .update(offloads)
      .set({ state: 'queued', fault: null })
      .where(and(eq(offloads.id, id), inArray(offloads.state, ['paused', 'waiting'])));
    this.runtime.events.changed('copies');
    await this.next();
  }

  /** Bytes a second of the last minutes, one for each second. */
  ratesOf(id: string): number[] {
    return this.#rates.get(id) ?? [];
  }

  async #halt(id: string, state: OffloadState, words: string | null, from: OffloadState[]): Promise<void> {
    const running = this.#running.get(id);
    if (running) {
      running.run.stop(new Halt(state, words));
      await running.done;
    } else
      await this.runtime.db
        .update(offloads)
        .set({ state, fault: words })
        .where(and(eq(offloads.id, id), inArray(offloads.state, from)));
    this.runtime.events.changed('copies');
  }

  async #lookForCards(): Promise<void> {
    for (const row of await this.runtime.db.select().from(offloads).where(eq(offloads.state, 'waiting'))) {
      if ((await this.#inReader(row)) === 'there') await this.resume(row.id);
    }
  }

  /** Whether the card stands at its place, and not another one. */
  async #inReader(row: OffloadRow): Promise<'there' | 'other' | 'gone'> {
    const at = await rootById(this.runtime, row.root)
      .then((root) => resolveIn(root, row.folder))
      .catch(() => null);
    return at === null ? 'gone' : cardInReader(this.runtime, row.physical, at);
  }

  async #work(run: Run): Promise<void> {
    const { runtime } = this;
    const { db, events } = runtime;
    const { row } = run;
    await db
      .update(offloads)
      .set({ state: 'running', startedAt: row.startedAt ?? new Date(), fault: null })
      .where(eq(offloads.id, row.id));
    this.#rates.set(row.id, this.#rates.get(row.id) ?? []);
    events.changed('copies');
    let end: { state: OffloadState; fault: string | null };
    try {
      await this.#copyAll(run);
      await db.update(offloads).set({ state: 'naming' }).where(eq(offloads.id, row.id));
      events.changed('copies', 'clips', 'cards');
      end = await finishOffload(runtime.inJob(row.job), row, () => run.halt !== null, this.nameCopied);
      if (run.halt) end = { state: run.halt.state, fault: run.halt.words };
    } catch (e) {
      end = e instanceof Halt ? { state: e.state, fault: e.words } : { state: 'paused', fault: messageOf(e) };
    }
    const ended = end.state === 'done' || end.state === 'partly';
    const moving = run.samples.filter((s, i, all) => i > 0 && s.bytes > all[i - 1]!.bytes).length / 2;
    await db
      .update(offloads)
      .set({
        ...end,
        ...(ended || end.state === 'cancelled' ? { endedAt: new Date() } : {}),
        ...(ended && moving >= 2 ? { speed: run.read / moving } : {}),
      })
      .where(eq(offloads.id, row.id));
    if (ended) await runtime.keepNow().catch((e: unknown) => console.error('records:', messageOf(e)));
    this.#tell();
    events.changed('copies', 'clips', 'cards', 'log');
  }

  /** Copies every file that waits. Throws Halt where it must stop before the end. */
  async #copyAll(run: Run): Promise<void> {
    const { row } = run;
    const source = await rootById(this.runtime, row.root);
    const from = await resolveIn(source, row.folder).catch((e: unknown) => {
      throw new Halt('waiting', `${source.name} cannot be reached: ${messageOf(e)}`);
    });
    const before = await this.#inReader(row);
    if (before === 'other') throw otherCard(row, source.name);
    if (before === 'gone')
      throw new Halt(
        'waiting',
        `The card is not in ${source.name}. Put it back: the copy goes on by itself.`,
      );
    const places = await Promise.all(
      row.destinations.map(async (d) => {
        if (d.dropped) return null;
        const root = await rootById(this.runtime, d.root);
        const at = await resolveIn(root, d.folder).catch((e: unknown) => {
          throw new Halt('paused', `${root.name} cannot be reached: ${messageOf(e)}`);
        });
        await mkdir(at).catch((e: unknown) => {
          throw new Halt(
            'paused',
            `${root.name} ${DESTINATION_DOWN[(e as { code?: string }).code ?? ''] ?? messageOf(e)}. Mend that, then resume, or go on without it.`,
          );
        });
        if (d.kind === 'safe')
          for (const folder of row.emptyFolders) await mkdir(joinPath(at, folder)).catch(() => undefined);
        return { at, root };
      }),
    );
    const devices = {
      reader: this.runtime.devices.readerOf(from),
      writer:
        places
          .map((p) => p && this.runtime.devices.writerOf(p.at))
          .find((w) => w !== null && w !== undefined) ?? null,
    };
    const tally = (await tallies(this.runtime)).get(row.id);
    run.before = { files: tally?.verified ?? 0, bytes: tally?.bytes ?? 0 };
    const pages = filesOf(this.runtime, row.id, ['waiting']);
    const waiting: OffloadFile[][] = [];
    const again: OffloadFile[][] = [];
    const tries = new Map<number, number>();
    const notes = new Map<number, string>();
    const home = row.destinations.findIndex((d) => d.kind === 'shelf' && !d.dropped);
    const made = await this.runtime.db
      .select({ id: safeCopies.id, destination: safeCopies.destination })
      .from(safeCopies)
      .where(eq(safeCopies.offload, row.id));
    const copies = new Map(made.map((c) => [c.destination, c.id]));
    const store = new Store(this.runtime, row, home, copies);
    const task = (batch: OffloadFile[]): TaskFile[] =>
      batch.map((f) => ({
        number: f.number,
        from: joinPath(from, f.path),
        size: f.size,
        modified: f.modified,
        to: row.destinations.map((d, i) =>
          d.dropped || !f.to.includes(i) ? null : joinPath(places[i]!.at, f.path),
        ),
      }));

    const settle = async (file: OffloadFile, o: FileOutcome): Promise<void> => {
      if (o.state === 'verified') {
        run.files++;
        await store.verified(file, o, notes.get(o.number) ?? null);
        return;
      }
      if (o.code === STOPPED) return;
      const tried = (tries.get(o.number) ?? 0) + 1;
      tries.set(o.number, tried);
      const tryAgain = (note: string) => {
        notes.set(o.number, note);
        again.push([file]);
      };
      if (o.where === 'source') {
        if (o.code === CHANGED || SOURCE_GONE.has(o.code)) {
          const now = await this.#inReader(row);
          if (now === 'other') return run.stop(otherCard(row, source.name));
          if (now === 'gone')
            return run.stop(
              new Halt(
                'waiting',
                `The card was pulled out of ${source.name}. Put it back: the copy goes on with ${path.basename(file.path)}.`,
              ),
            );
        }
        if (o.code === CHANGED)
          return store.failed(file, `${o.text}. Wait until it is finished, then copy it again.`);
        if (tried < TRIES)
          return tryAgain(
            o.code === DIFFERS
              ? 'The card gave other bytes at one reading; it was read again until two readings agreed.'
              : `It could be read at the ${tried + 1}${tried === 1 ? 'nd' : 'rd'} try only (${o.code}).`,
          );
        return store.failed(
          file,
          o.code === DIFFERS
            ? `gave other bytes each of ${TRIES} times it was read: the card or the reader is faulty`
            : o.code === 'ENOENT'
              ? 'is not on the card any more'
              : `cannot be read (${o.code}), tried ${TRIES} times`,
        );
      }
      const name = places[o.where]?.root.name ?? 'the destination';
      if (o.code === 'EEXIST') return store.failed(file, `${name}: ${o.text}. It was left as it is.`);
      if (o.code === 'ENAMETOOLONG')
        return store.failed(file, `${name} cannot hold a name or path of this length`);
      if (o.code in DESTINATION_DOWN)
        return run.stop(
          new Halt(
            'paused',
            `${name} ${DESTINATION_DOWN[o.code]}. Mend that and resume, or go on without it.`,
          ),
        );
      if (tried < TRIES)
        return tryAgain(`The copy on ${name} did not read back the same once; it was written again.`);
      return store.failed(file, `${name}: ${o.text} (${o.code}), tried ${TRIES} times`);
    };
    const how = {
      kind: row.hash,
      verification: row.verification,
      reader: devices.reader,
      writer: devices.writer,
      gate: run.gate,
      counter: run.counter,
    };
    /** The next files, of a page at a time; what is to be tried again comes last. */
    const next = async (): Promise<OffloadFile[] | undefined> => {
      while (waiting.length === 0) {
        const page = await pages.next();
        if (page.done) return again.shift();
        waiting.push(...batches(page.value));
      }
      return waiting.shift();
    };
    const lane = async (): Promise<void> => {
      for (let batch = await next(); batch && !run.halt; batch = await next()) {
        run.current = batch[0]!.path;
        for (const o of await copyFiles({ files: task(batch), ...how }))
          await settle(
            batch.find((f) => f.number === o.number)!,
            o,
          );
      }
    };
    // A lane that fails stops the others, and all are waited for: nobody may go on writing when the copying is resumed.
    const lanes = async (): Promise<void> => {
      const ended = await Promise.allSettled(
        Array.from({ length: THREADS }, () =>
          lane().catch((e: unknown) => {
            run.stop(new Halt('paused', messageOf(e)));
            throw e;
          }),
        ),
      );
      const failed = ended.find((e) => e.status === 'rejected');
      if (failed) throw failed.reason;
    };
    try {
      do await lanes();
      while (again.length > 0 && !run.halt);
    } finally {
      await store.flush();
    }
    if (run.halt) throw run.halt;
  }

  /** Tells the interfaces how the running copies stand, twice a second. */
  #tell(): void {
    const now = performance.now();
    const copies: OffloadProgress[] = [];
    for (const { run } of this.#running.values()) {
      const bytes = run.read;
      run.samples.push({ at: now, bytes });
      const rates = this.#rates.get(run.row.id) ?? [];
      const second = run.samples.findLast((s) => s.at <= now - 950);
      if (second && run.samples.length % 2 === 0) {
        rates.push(Math.max(0, ((bytes - second.bytes) * 1000) / (now - second.at)));
        if (rates.length > SECONDS_KEPT) rates.shift();
      }
      if (run.samples.length > 2 * SECONDS_KEPT) run.samples.shift();
      const past = run.samples.find((s) => s.at >= now - 8000)!;
      const rate = now - past.at > 900 ? Math.max(0, ((bytes - past.bytes) * 1000) / (now - past.at)) : null;
      const done = Math.min(run.row.bytes, run.before.bytes + bytes);
      copies.push({
        id: run.row.id,
        job: run.row.job,
        state: run.halt?.state ?? 'running',
        bytes: done,
        total: run.row.bytes,
        files: run.before.files + run.files,
        of: run.row.files,
        current: run.current === null ? null : shownPath(run.current),
        rate,
        left: rate && rate > 0 ? (run.row.bytes - done) / rate : null,
      });
    }
    this.runtime.events.send({ type: 'copying', copies });
    if (copies.length === 0 && this.#timer) {
      clearInterval(this.#timer);
      this.#timer = null;
    }
  }
}

/** Large files alone, small ones together. */
function batches(rows: readonly OffloadFile[]): OffloadFile[][] {
  const out: OffloadFile[][] = [];
  let open: OffloadFile[] = [];
  let bytes = 0;
  for (const r of rows) {
    if (r.size > 1 << 20) {
      out.push([r]);
      continue;
    }
    if (open.length === 0) out.push(open);
    open.push(r);
    bytes += r.size;
    if (open.length >= BATCH.files || bytes >= BATCH.bytes) [open, bytes] = [[], 0];
  }
  return out;
}

const otherCard = (row: OffloadRow, reader: string): Halt =>
  new Halt('waiting', `Another card is in ${reader}. Put ${row.card} back: the copy goes on by itself.`);

/** How often what was found is tried to be kept, and the milliseconds between. */
const KEEPING = { tries: 4, pause: 250 };

type Verified = Extract<FileOutcome, { state: 'verified' }>;

/** Keeps what was found of each file, many at a time: a row for each would cost more than the copying of small files. */
class Store {
  #verified: { row: OffloadFile; found: Verified; note: string | null }[] = [];
  #last = performance.now();
  #writing: Promise<void> = Promise.resolve();

  /** `home` is the destination that clips' files are turned to; `copies` the safe copies by destination. */
  constructor(
    private readonly runtime: Runtime,
    private readonly offload: OffloadRow,
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
    const next = this.#writing.then(
      () => this.#write(),
      () => this.#write(),
    );
    this.#writing = next.catch(() => undefined);
    return next;
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
    const at = new Date().toISOString();
    const moved = some.flatMap(({ row }) => {
      if (row.file === null) return [];
      const to = row.to.includes(this.home) ? this.home : row.to.find((i) => !destinations[i]!.dropped);
      if (to === undefined) return [];
      const d = destinations[to]!;
      return [{ id: row.file, root: d.root, path: d.folder === '' ? row.path : `${d.folder}/${row.path}` }];
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
                result: read ? 'read' : 'sizeOnly',
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
      await tx.execute(sql`insert into ${cardReadings} (card, number, kind, value, at) select ${physical}, v.file, ${kind}, v.hash, ${at}::timestamptz
        from jsonb_to_recordset(${JSON.stringify(told)}::jsonb) as v(file int, hash text)`);
      if (stood.length > 0) {
        await tx.execute(sql`insert into ${copyReadings} (copy, number, at, how, result, kind, value, size, modified)
          select v.copy, v.number, ${at}::timestamptz, 'copied', v.result, ${kind}, v.value, v.size, v.modified
          from jsonb_to_recordset(${JSON.stringify(stood)}::jsonb) as v(copy text, number int, result text, value text, size bigint, modified bigint)`);
      }
      if (moved.length > 0) {
        await tx.execute(sql`update ${files} set root = v.root, path = v.path, taken_root = v.root, taken_path = v.path, on_card = null
          from jsonb_to_recordset(${JSON.stringify(moved)}::jsonb) as v(id text, root text, path text) where ${files.id} = v.id`);
      }
    });
    this.runtime.events.changed('copies', ...(moved.length > 0 ? ['clips' as const] : []));
  }
}
