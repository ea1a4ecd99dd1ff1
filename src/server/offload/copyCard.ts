import { and, eq, inArray } from 'drizzle-orm';
import path from 'node:path';
import { UNDER_WAY } from '../../core/offload/shapes';
import { OPEN_WORK } from '../../core/platform/shapes';
import { cardInReader } from '../custody';
import { offloads } from './tables';
import { safeCopies } from '../custody/tables';
import { work } from '../platform/work/tables';
import { codeOf, messageOf } from '../platform/errors';
import { inWords, unreadWhy } from '../platform/files/faults';
import { joinPath } from '../platform/files/names';
import { mkdir } from '../platform/files/onDisk';
import { type OnVolume, onVolume, requireVolume } from '../platform/files/onVolume';
import { resolveIn } from '../platform/files/paths';
import { closeGate } from '../platform/work/context';
import { Halted, type SingleKind, type WorkContext } from '../platform/work/kinds';
import type { InJob, Ports } from './ports';
import { isAway, isStanding, type Root, rootById } from '../places';
import {
  batches,
  CHANGED,
  copyFiles,
  destinationDown,
  DIFFERS,
  type FileOutcome,
  inLanes,
  STOPPED,
  type TaskFile,
} from '../transfer';
import type { Metered } from './copyMeter';
import { filesOf, type OffloadFile, tallies } from './fileList';
import { finishOffload, type NameCopied } from './finish';
import { FoundStore } from './foundStore';

type OffloadRow = typeof offloads.$inferSelect;

/** How many copyings run at once, each from a reader of its own. */
const CONCURRENCY = 3;
/** How often a file is tried before it is given up. */
const MAX_TRIES = 3;
/** Words of the file system for a source that is gone. */
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
/** Queues the copying of a card: it has its reader to itself. `state` where it is not to begin by itself. */
export const queueCopy = (
  { queue }: Pick<Ports, 'queue'>,
  row: Pick<OffloadRow, 'id' | 'job' | 'root'>,
  state: 'queued' | 'paused' | 'waiting' = 'queued',
): Promise<{ task: string }> =>
  queue.begin({ job: row.job, kind: 'copy', subject: row.id, needs: [`root ${row.root}`], state });

/** Queues the copyings that no work is there for, as after a database was rebuilt. */
export async function queueCopies(runtime: Pick<Ports, 'db' | 'queue'>): Promise<void> {
  const open = await runtime.db
    .select({ subject: work.subject })
    .from(work)
    .where(and(eq(work.kind, 'copy'), inArray(work.state, [...OPEN_WORK])));
  const known = new Set(open.map((o) => o.subject));
  const rows = await runtime.db
    .select()
    .from(offloads)
    .where(inArray(offloads.state, [...UNDER_WAY]));
  for (const row of rows) {
    if (known.has(row.id)) continue;
    const state = row.state === 'paused' || row.state === 'waiting' ? row.state : 'queued';
    await queueCopy(runtime, row, state);
    if (state === 'queued')
      await runtime.db.update(offloads).set({ state: 'queued' }).where(eq(offloads.id, row.id));
  }
}

/** The copying of cards, as work of the queue. `nameCopied` names what was copied to the shelf. */
export const copying = <Given extends InJob>(
  nameCopied: (given: Given, ...rest: Parameters<NameCopied>) => ReturnType<NameCopied>,
): SingleKind<Given> => ({
  workers: CONCURRENCY,
  afterDeath: 'again',
  shownAs: 'copies',
  run: (runtime, context) => copyCard(runtime, context, (...of) => nameCopied(runtime, ...of)),
  async told(db, { subject, state, fault }) {
    const now = new Date();
    const [row] = await db.select().from(offloads).where(eq(offloads.id, subject));
    // It has recorded its own end already.
    if (!row || row.endedAt !== null || state === 'done') return;
    await db
      .update(offloads)
      .set({
        state: state === 'failed' ? 'paused' : state,
        fault,
        ...(state === 'running' ? { startedAt: row.startedAt ?? now } : {}),
        ...(state === 'cancelled' ? { endedAt: now } : {}),
      })
      .where(eq(offloads.id, subject));
  },
  async mayGoOn(runtime, subject) {
    const [row] = await runtime.db.select().from(offloads).where(eq(offloads.id, subject));
    if (!row || (await inReader(runtime, row)) !== 'there') return false;
    for (const d of row.destinations) {
      const root = d.dropped ? null : await rootById(runtime, d.root);
      if (root && !(await isStanding(runtime, root))) return false;
    }
    return true;
  },
});

/** Whether the card is at its place, and not another one. */
async function inReader(runtime: InJob, row: OffloadRow): Promise<'there' | 'other' | 'gone'> {
  const at = await rootById(runtime, row.root)
    .then((root) => resolveIn(root, row.folder))
    .catch(() => null);
  return at === null ? 'gone' : cardInReader(runtime, row.physical, at);
}

async function copyCard(runtime: InJob, context: WorkContext, nameCopied: NameCopied): Promise<void> {
  const { db, events } = runtime;
  const [row] = await db.select().from(offloads).where(eq(offloads.id, context.subject));
  if (!row || row.endedAt !== null) return;
  const run = new CardCopy(runtime, row, context);
  const end = runtime.meter.begin(run.metered);
  let metered = { seconds: 0, bytes: 0 };
  try {
    await run.copyAll();
    await db.update(offloads).set({ state: 'naming' }).where(eq(offloads.id, row.id));
    events.changed('copies', 'clips', 'cards');
    const came = await finishOffload(runtime, row, {
      halted: () => run.halt !== null,
      requirePlace: (i) => run.requirePlace(i),
      nameCopied,
    });
    if (run.halt) throw run.halt;
    metered = end();
    await db
      .update(offloads)
      .set({
        ...came,
        endedAt: new Date(),
        ...(metered.seconds >= 1 ? { speed: metered.bytes / metered.seconds } : {}),
      })
      .where(eq(offloads.id, row.id));
    await runtime.keepNow().catch((e: unknown) => console.error('records:', messageOf(e)));
  } catch (e) {
    throw e instanceof Halted ? e : new Halted('paused', messageOf(e));
  } finally {
    if (metered.seconds === 0) end();
    events.changed('copies', 'clips', 'cards', 'log');
  }
}

/** A destination while it is copied to: where, in which root, on which volume. */
type Place = { at: string; root: Root; on: OnVolume } | null;

/** One copying of one card while it runs. The database says which files are verified; a file under its final name is whole and proven, whatever happened. */
class CardCopy {
  readonly #counter = new SharedArrayBuffer(8);
  readonly #waiting: OffloadFile[][] = [];
  readonly #again: OffloadFile[][] = [];
  readonly #tries = new Map<number, number>();
  readonly #notes = new Map<number, string>();
  #from = '';
  #source: Root | null = null;
  #places: Place[] = [];
  halt: Halted | null = null;
  readonly metered: Metered;

  constructor(
    private readonly runtime: InJob,
    private readonly row: OffloadRow,
    private readonly context: WorkContext,
  ) {
    this.metered = {
      id: row.id,
      job: row.job,
      total: row.bytes,
      of: row.files,
      before: { bytes: 0, files: 0 },
      read: () => Number(Atomics.load(new BigInt64Array(this.#counter), 0)),
      files: 0,
      current: null,
      ending: null,
    };
    const { signal } = context;
    const heed = () => this.#stop(signal.reason as Halted);
    if (signal.aborted) heed();
    else signal.addEventListener('abort', heed, { once: true });
  }

  #stop(halt: Halted): void {
    this.halt ??= halt;
    this.metered.ending ??= halt.to;
    closeGate(this.context.gate);
  }

  /** Copies every file that waits. Throws Halted where it must stop before the end. */
  async copyAll(): Promise<void> {
    const { runtime, row } = this;
    await this.#reachSource();
    this.#places = await Promise.all(row.destinations.map((d) => this.#reach(d)));
    const tally = (await tallies(runtime)).get(row.id);
    this.metered.before = { files: tally?.verified ?? 0, bytes: tally?.bytes ?? 0 };
    const made = await runtime.db
      .select({ id: safeCopies.id, destination: safeCopies.destination })
      .from(safeCopies)
      .where(eq(safeCopies.offload, row.id));
    const home = row.destinations.findIndex((d) => d.kind === 'shelf' && !d.dropped);
    const copies = new Map(made.map((c) => [c.destination, c.id]));
    const store = new FoundStore(runtime, row, home, copies);
    const pages = filesOf(runtime, row.id, ['waiting']);
    try {
      do await this.#lanes(pages, store);
      while (this.#again.length > 0 && !this.halt);
    } finally {
      await store.flush();
    }
    if (this.halt) throw this.halt;
  }

  async #reachSource(): Promise<void> {
    const { runtime, row } = this;
    const source = await rootById(runtime, row.root);
    this.#source = source;
    this.#from = await resolveIn(source, row.folder).catch((e: unknown) => {
      throw new Halted('waiting', `${source.name} cannot be reached: ${unreadWhy(e)}`);
    });
    const there = await inReader(runtime, row);
    if (there === 'other') throw this.#otherCard();
    if (there === 'gone')
      throw new Halted(
        'waiting',
        `The card is not in ${source.name}. Put it back: the copy continues by itself.`,
      );
  }

  #otherCard(): Halted {
    return new Halted(
      'waiting',
      `Another card is in ${this.#source!.name}. Put ${this.row.card} back: the copy continues by itself.`,
    );
  }

  /** A destination's folder, made where it is not there; null where it was dropped. */
  async #reach(d: OffloadRow['destinations'][number]): Promise<Place> {
    if (d.dropped) return null;
    const root = await rootById(this.runtime, d.root);
    // The folder it was mounted at may be there without it.
    if (await isAway(this.runtime, root)) throw this.#offline(root);
    const at = await resolveIn(root, d.folder).catch(async (e: unknown) => {
      throw await this.#down(root, `cannot be reached: ${inWords(e)}`);
    });
    const on = await mkdir(at)
      .then(() => onVolume(at))
      .catch(async (e: unknown) => {
        throw await this.#down(root, destinationDown(codeOf(e)) ?? inWords(e));
      });
    if (d.kind === 'safe')
      for (const folder of this.row.emptyFolders) await mkdir(joinPath(at, folder)).catch(() => undefined);
    return { at, root, on };
  }

  /** What stops it where a destination takes no more: one that is offline is waited for. */
  async #down(root: Root, why: string): Promise<Halted> {
    return (await isAway(this.runtime, root))
      ? this.#offline(root)
      : new Halted('paused', `${root.name} ${why}. Fix that and resume, or continue without it.`);
  }

  #offline({ name }: Root): Halted {
    const others = this.row.destinations.filter((d) => !d.dropped).length > 1;
    return new Halted(
      'waiting',
      `${name} is offline. Connect it: the copy continues by itself.${others ? ' Or continue without it.' : ''}`,
    );
  }

  /** Throws Halted where the volume of a destination was taken away: what is at its place now is not the copy. */
  async requirePlace(destination: number): Promise<void> {
    const place = this.#places[destination];
    if (place)
      await requireVolume(place.on).catch(async () => {
        throw await this.#down(place.root, 'is no longer there');
      });
  }

  /** The next files, of a page at a time; what is to be tried again comes last. */
  async #next(pages: AsyncGenerator<OffloadFile[]>): Promise<OffloadFile[] | undefined> {
    while (this.#waiting.length === 0) {
      const page = await pages.next();
      if (page.done) return this.#again.shift();
      this.#waiting.push(...batches(page.value));
    }
    return this.#waiting.shift();
  }

  /** Copies side by side until nothing is left. */
  async #lanes(pages: AsyncGenerator<OffloadFile[]>, store: FoundStore): Promise<void> {
    const { runtime, row } = this;
    const how = {
      kind: row.hash,
      verification: row.verification,
      reader: runtime.devices.readerOf(this.#from),
      writer:
        this.#places
          .map((p) => p && runtime.devices.writerOf(p.at))
          .find((w) => w !== null && w !== undefined) ?? null,
      on: this.#places.map((p) => p?.on ?? null),
      gate: this.context.gate,
      counter: this.#counter,
    };
    const lane = async (): Promise<void> => {
      for (let batch = await this.#next(pages); batch && !this.halt; batch = await this.#next(pages)) {
        this.metered.current = batch[0]!.path;
        for (const o of await copyFiles({ files: batch.map((f) => this.#taskOf(f)), ...how }))
          await this.#settle(
            batch.find((f) => f.number === o.number)!,
            o,
            store,
          );
      }
    };
    await inLanes(lane, (e) => this.#stop(new Halted('paused', messageOf(e))));
  }

  #taskOf(f: OffloadFile): TaskFile {
    return {
      number: f.number,
      from: joinPath(this.#from, f.path),
      size: f.size,
      modified: f.modified,
      to: this.row.destinations.map((d, i) =>
        d.dropped || !f.to.includes(i) ? null : joinPath(this.#places[i]!.at, f.path),
      ),
    };
  }

  /** Keeps what came of a file: it is verified, tried again, or has failed; or the copying cannot go on. */
  async #settle(file: OffloadFile, o: FileOutcome, store: FoundStore): Promise<void> {
    if (o.state === 'verified') {
      this.metered.files++;
      await store.verified(file, o, this.#notes.get(o.number) ?? null);
      return;
    }
    if (o.code === STOPPED) return;
    const tried = (this.#tries.get(o.number) ?? 0) + 1;
    this.#tries.set(o.number, tried);
    if (o.where === 'source') await this.#settleSource(file, o, tried, store);
    else await this.#settleDestination(file, { ...o, where: o.where }, tried, store);
  }

  #tryAgain(file: OffloadFile, note: string): void {
    this.#notes.set(file.number, note);
    this.#again.push([file]);
  }

  async #settleSource(
    file: OffloadFile,
    o: { code: string; text: string },
    tried: number,
    store: FoundStore,
  ): Promise<void> {
    if (o.code === CHANGED || SOURCE_GONE.has(o.code)) {
      const now = await inReader(this.runtime, this.row);
      if (now === 'other') return this.#stop(this.#otherCard());
      if (now === 'gone')
        return this.#stop(
          new Halted(
            'waiting',
            `The card was pulled out of ${this.#source!.name}. Put it back: the copy continues with ${path.basename(file.path)}.`,
          ),
        );
    }
    if (o.code === CHANGED)
      return store.failed(file, `${o.text}. Wait until it is finished, then copy it again.`);
    if (tried < MAX_TRIES)
      return this.#tryAgain(
        file,
        o.code === DIFFERS
          ? 'The card gave other bytes at one reading; it was read again until two readings agreed.'
          : `It could be read at the ${tried + 1}${tried === 1 ? 'nd' : 'rd'} try only (${o.code}).`,
      );
    return store.failed(
      file,
      o.code === DIFFERS
        ? `gave other bytes each of ${MAX_TRIES} times it was read: the card or the reader is faulty`
        : o.code === 'ENOENT'
          ? 'is no longer on the card'
          : `cannot be read (${o.code}), tried ${MAX_TRIES} times`,
    );
  }

  async #settleDestination(
    file: OffloadFile,
    o: { code: string; text: string; where: number },
    tried: number,
    store: FoundStore,
  ): Promise<void> {
    const { root } = this.#places[o.where]!;
    const { name } = root;
    if (o.code === 'EEXIST') return store.failed(file, `${name}: ${o.text}. It was left as it is.`);
    if (o.code === 'ENAMETOOLONG')
      return store.failed(file, `${name} cannot hold a name or path of this length`);
    const down = destinationDown(o.code);
    if (down !== null) return this.#stop(await this.#down(root, down));
    if (tried < MAX_TRIES)
      return this.#tryAgain(
        file,
        `The copy on ${name} did not read back the same once; it was written again.`,
      );
    return store.failed(file, `${name}: ${o.text}, tried ${MAX_TRIES} times`);
  }
}
