import { and, asc, eq, gt, inArray, isNull, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import type { DiskPath } from '../../core/platform/names';
import {
  type Glance,
  isExpectedCard,
  type KnownFile,
  type ManifestFile,
  relate,
  type Relation,
  sameTime,
} from '../../core/custody/manifest';
import { cardFiles, physicalCards } from './tables';
import { cards } from '../cards/tables';
import { jobs } from '../jobs/tables';
import { isCode } from '../platform/errors';
import { sampleOf } from '../platform/files/hash';
import { joinPath } from '../platform/files/names';
import type { InJob, Ports } from './ports';
import type { Offered } from './offered';
import { lstat } from '../platform/files/onDisk';

export type PhysicalCard = typeof physicalCards.$inferSelect;
type Db = Pick<Ports['db'], 'select' | 'insert' | 'update' | 'execute'>;

/** Rows read or written by one statement. */
const PAGE = 2000;
const breath = () => new Promise((r) => setImmediate(r));

/** The manifest of a physical card, by number. */
export async function manifestOf(db: Pick<Ports['db'], 'select'>, card: string): Promise<KnownFile[]> {
  const out: KnownFile[] = [];
  for (let last = -1; ;) {
    const page = await db
      .select()
      .from(cardFiles)
      .where(and(eq(cardFiles.card, card), gt(cardFiles.number, last)))
      .orderBy(asc(cardFiles.number))
      .limit(PAGE);
    if (page.length === 0) return out;
    last = page.at(-1)!.number;
    out.push(
      ...page.map(({ number, path: p, size, modified, sample, goneAt }) => ({
        number,
        path: p,
        size,
        modified,
        sample,
        gone: goneAt !== null,
      })),
    );
    await breath();
  }
}

export interface KnownCard {
  card: PhysicalCard;
  relation: Relation;
  /** Paths of known files at which nothing is any longer. */
  missing: string[];
  /** What it is called in this job, and in others, which are named. */
  labels: string[];
  elsewhere: { job: string; label: string }[];
}

/** The physical card that is offered, where it is one that is known: by its recordings, or where it has none by all of its files. */
export async function recogniseCard(
  runtime: Pick<InJob, 'db' | 'job'>,
  offered: Pick<Offered, 'files'> & Partial<Pick<Offered, 'root' | 'folder'>>,
): Promise<KnownCard | null> {
  const samples = offered.files.flatMap((f) => f.sample ?? []);
  const ids = new Set<string>();
  for (let i = 0; i < samples.length; i += 1000) {
    for (const r of await runtime.db
      .selectDistinct({ card: cardFiles.card })
      .from(cardFiles)
      .where(inArray(cardFiles.sample, samples.slice(i, i + 1000))))
      ids.add(r.card);
  }
  if (samples.length === 0 && offered.root && offered.folder !== undefined) {
    const here = and(eq(physicalCards.root, offered.root.id), eq(physicalCards.folder, offered.folder));
    for (const r of await runtime.db.select({ id: physicalCards.id }).from(physicalCards).where(here))
      ids.add(r.id);
  }
  const found: KnownCard[] = [];
  for (const id of ids) {
    const manifest = await manifestOf(runtime.db, id);
    const relation = relate(manifest, offered.files);
    if (!relation.same) continue;
    const there = new Set(offered.files.map((f) => f.path));
    const [card] = await runtime.db.select().from(physicalCards).where(eq(physicalCards.id, id));
    const labelled = await runtime.db
      .select({ id: jobs.id, job: jobs.name, label: cards.id })
      .from(cards)
      .innerJoin(jobs, eq(jobs.id, cards.job))
      .where(eq(cards.physical, id));
    found.push({
      card: card!,
      relation,
      missing: manifest.filter((f) => !f.gone && !there.has(f.path)).map((f) => f.path),
      labels: labelled.filter((c) => c.id === runtime.job).map((c) => c.label),
      elsewhere: labelled.filter((c) => c.id !== runtime.job).map(({ job, label }) => ({ job, label })),
    });
  }
  return (
    found.sort(
      (a, b) =>
        b.relation.kept.length - a.relation.kept.length ||
        b.card.lastSeen.getTime() - a.card.lastSeen.getTime(),
    )[0] ?? null
  );
}

/** Keeps what was offered: a new physical card, or what has changed on a known one. Returns its id and the number of each file by path. */
export async function keepCard(
  tx: Db,
  offered: Offered,
  label: string,
  known: KnownCard | null,
): Promise<{ id: string; numbers: Map<string, number> }> {
  const now = new Date();
  const row = {
    label,
    root: offered.root.id,
    folder: offered.folder,
    volume: offered.volume,
    disk: offered.disk,
    wholeVolume: offered.wholeVolume,
    outside: offered.outside,
    cannot: offered.cannot,
    lastSeen: now,
  };
  const id = known?.card.id ?? randomUUID();
  if (known) await tx.update(physicalCards).set(row).where(eq(physicalCards.id, id));
  else await tx.insert(physicalCards).values({ id, ...row, firstSeen: now });
  const before = known ? await manifestOf(tx, id) : [];
  const numbers = new Map(
    before.filter((f) => known!.relation.kept.includes(f.number)).map((f) => [f.path, f.number]),
  );
  if (known) {
    await setGone(tx, id, known.relation.gone, now);
    await setGone(tx, id, known.relation.kept, null);
  }
  let next = (before.at(-1)?.number ?? -1) + 1;
  const fresh = (known ? known.relation.fresh : offered.files).map((f) => ({ ...f, number: next++ }));
  for (const f of fresh) numbers.set(f.path, f.number);
  for (let i = 0; i < fresh.length; i += PAGE) {
    // One parameter for all rows: the database runs in this thread, which also answers the interface.
    await tx.execute(sql`insert into ${cardFiles} (card, number, path, size, modified, sample)
      select ${id}, r.number, r.path, r.size, r.modified, r.sample
      from jsonb_to_recordset(${JSON.stringify(fresh.slice(i, i + PAGE))}::jsonb) as r(number int, path text, size bigint, modified bigint, sample text)`);
    await breath();
  }
  return { id, numbers };
}

async function setGone(tx: Db, card: string, numbers: readonly number[], at: Date | null): Promise<void> {
  for (let i = 0; i < numbers.length; i += PAGE) {
    await tx.execute(sql`update ${cardFiles} set gone_at = ${at?.toISOString() ?? null}::timestamptz
      where card = ${card} and number in (select value::int from jsonb_array_elements_text(${JSON.stringify(numbers.slice(i, i + PAGE))}::jsonb))`);
  }
}

/** Files looked at to tell whether a card is the one that is expected. */
const GLANCES = 12;

/**
 * Whether the card that is at its place is the expected one: `other` where files are there that are not its own, `gone`
 * where nothing does. Some of its recordings are looked at, spread over the card, and the fingerprints of those that match.
 */
export async function cardInReader(
  runtime: Pick<Ports, 'db'>,
  card: string,
  at: DiskPath,
): Promise<'there' | 'other' | 'gone'> {
  if (
    !(await lstat(at).then(
      (s) => s.isDirectory(),
      () => false,
    ))
  )
    return 'gone';
  const rows = await runtime.db
    .select()
    .from(cardFiles)
    .where(and(eq(cardFiles.card, card), isNull(cardFiles.goneAt)))
    .orderBy(sql`sample is null`, sql`md5(${cardFiles.path})`)
    .limit(GLANCES);
  if (rows.length === 0) return 'there';
  const glances = await Promise.all(rows.map((f) => glanceAt(joinPath(at, f.path), f)));
  return isExpectedCard(glances) ? 'there' : 'other';
}

async function glanceAt(file: DiskPath, known: ManifestFile): Promise<Glance> {
  const now = await lstat(file).catch((e: unknown) => {
    // What cannot be looked at is no other card: the reading will say what is wrong.
    return isCode(e, 'ENOENT', 'ENOTDIR') ? null : ('faulty' as const);
  });
  if (now === 'faulty') return 'match';
  if (now === null || !now.isFile()) return 'other';
  const modified = Math.round(now.mtimeMs);
  if (now.size > known.size && modified >= known.modified) return 'grown';
  if (now.size !== known.size || !sameTime(modified, known.modified)) return 'other';
  if (known.sample === null) return 'match';
  const sample = await sampleOf(file, now.size).catch(() => known.sample);
  return sample === known.sample ? 'match' : 'other';
}
