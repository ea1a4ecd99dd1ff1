import { asc, eq, inArray, sql } from 'drizzle-orm';
import { isRecording } from '../../core/cards/shape';
import { type FieldId, FIELDS, fieldOf, formatValue, type Statement } from '../../core/facts/catalogue';
import { chooseFacts, contradicts, type Facts, factsOf, rateOf } from '../../core/facts/facts';
import { parseValue } from '../../core/facts/parse';
import type { Correction, FactTable, SideBySide, Stated } from '../../core/facts/shapes';
import { fileStatements, showFact, type Shown, type ShownFacts, showFacts, statedBy } from '../../core/facts/table';
import { cameras, cards, clips, days, files } from '../db/schema';
import { Clash, NotFound, Refused } from '../errors';
import type { Runtime } from '../runtime';
import { theJob } from './job';
import { writeLog } from './log';
import { clipName } from './naming';
import { contextsOf, showAgain } from './readClip';

type FileRow = typeof files.$inferSelect;

const OF_FILES: ReadonlySet<FieldId> = new Set<FieldId>(['fileName', 'cameraFile', 'folder', 'size', 'files', 'fileTime']);

/** What stands on disk of a clip, as statements. */
export function ofFiles(family: readonly Pick<FileRow, 'role' | 'path' | 'size' | 'modified'>[], original: string, zoneMinutes: number): Statement[] {
  const first = family.find((f) => f.role === 'original');
  return first ? fileStatements({
    path: first.path, original, bytes: family.filter((f) => isRecording(f.role)).reduce((n, f) => n + f.size, 0), files: family.length, modified: first.modified, zoneMinutes,
  }) : [];
}

/** Clips of the job with some fields, in shooting order. Columns hold each different cell once: a job's clips have much in common. */
export async function factTable(runtime: Runtime, wanted: readonly FieldId[]): Promise<FactTable> {
  const job = await theJob(runtime);
  const stored = wanted.filter((f) => !OF_FILES.has(f));
  const picked = sql<(Shown | null)[]>`jsonb_build_array(${sql.join(['recordedAt', ...stored].map((f) => sql`${clips.shown}->${f}`), sql`, `)})`;
  const rows = await runtime.db
    .select({ id: clips.id, card: clips.card, original: clips.original, kind: clips.kind, state: clips.state, cells: picked, camera: cards.camera, day: cards.day })
    .from(clips).innerJoin(cards, eq(cards.id, clips.card));
  const sums = await runtime.db.select({
    clip: files.clip, n: sql<number>`count(*)::int`, path: sql<string | null>`max(${files.path}) filter (where ${files.role} = 'original')`, suffix: sql<string | null>`max(${files.suffix}) filter (where ${files.role} = 'original')`,
    modified: sql<number>`(max(${files.modified}) filter (where ${files.role} = 'original'))::float8`, bytes: sql<number>`(coalesce(sum(${files.size}) filter (where ${files.role} in ('original', 'segment', 'still', 'sound')), 0))::float8`,
  }).from(files).groupBy(files.clip);
  const familyOf = new Map(sums.map((s) => [s.clip, s]));
  rows.sort((a, b) => (a.cells[0]?.[1] ?? Infinity) - (b.cells[0]?.[1] ?? Infinity) || a.original.localeCompare(b.original, 'en', { numeric: true }));
  const columns = wanted.map((field) => ({ field, cells: [] as Shown[], rows: [] as (number | null)[], known: new Map<string, number>() }));
  const out: FactTable['clips'] = [];
  for (const row of rows) {
    const family = familyOf.get(row.id);
    const path = family?.path ?? row.original;
    out.push([row.id, row.card, row.camera, row.day, clipName(family, row.original), row.kind, row.state]);
    const onDisk = family && { path, original: row.original, bytes: family.bytes, files: family.n, modified: family.modified, zoneMinutes: job.zoneMinutes };
    const own: ShownFacts = wanted.length > stored.length && onDisk ? showFacts(chooseFacts(fileStatements(onDisk))) : {};
    for (const c of columns) {
      const cell = OF_FILES.has(c.field) ? (own[c.field] ?? null) : (row.cells[1 + stored.indexOf(c.field)] ?? null);
      if (cell === null) {
        c.rows.push(null);
        continue;
      }
      const key = `${cell[0]}\0${cell[2]}`;
      let at = c.known.get(key);
      if (at === undefined) {
        at = c.cells.push(cell) - 1;
        c.known.set(key, at);
      }
      c.rows.push(at);
    }
  }
  return { clips: out, columns: columns.map(({ field, cells, rows: r }) => ({ field, cells, rows: r })) };
}

/** A clip of the job with everything that is known of it. */
export interface KnownClip { id: string; name: string; card: string; statements: Statement[]; facts: Facts; notes: string[]; fault: string | null; family: FileRow[] }

export async function factsOfClips(runtime: Runtime, ids: readonly string[]): Promise<KnownClip[]> {
  const job = await theJob(runtime);
  const contexts = await contextsOf(runtime, job);
  const found = new Map<string, KnownClip>();
  for (let i = 0; i < ids.length; i += 500) {
    const some = ids.slice(i, i + 500);
    const families = new Map<string, FileRow[]>();
    for (const f of await runtime.db.select().from(files).where(inArray(files.clip, some))) families.set(f.clip, [...(families.get(f.clip) ?? []), f]);
    for (const row of await runtime.db.select().from(clips).where(inArray(clips.id, some))) {
      const family = families.get(row.id) ?? [];
      const statements = [...row.statements, ...ofFiles(family, row.original, job.zoneMinutes)];
      const original = family.find((f) => f.role === 'original');
      found.set(row.id, {
        id: row.id, name: clipName(original, row.original), card: row.card, statements,
        facts: factsOf(statements, contexts.get(row.card)), notes: row.notes, fault: row.fault, family,
      });
    }
  }
  return ids.flatMap((id) => found.get(id) ?? []);
}

/** Some clips side by side, with what differs marked. */
export async function sideBySide(runtime: Runtime, ids: readonly string[]): Promise<SideBySide> {
  const found = await factsOfClips(runtime, ids);
  if (found.length < 1) throw new NotFound('None of these clips is in the job any more.', { next: 'Choose others in the table.' });
  return {
    clips: found.map(({ id, name, card }) => ({ id, name, card })),
    rows: FIELDS.flatMap(({ id }) => {
      const facts = found.map((c) => c.facts.get(id) ?? null);
      if (facts.every((f) => f === null)) return [];
      const cells = facts.map((f) => f && {
        shown: showFact(f),
        others: f.others.map((o) => ({ value: formatValue(o.value, id), source: o.source, contradicts: contradicts(id, f.chosen, o) })).filter((o) => o.value !== showFact(f)[0]),
      });
      return [{ field: id, differs: new Set(cells.map((c) => c?.shown[0] ?? null)).size > 1, cells }];
    }),
  };
}

/** Which camera states which field. */
export async function statedView(runtime: Runtime): Promise<Stated> {
  const rows = await runtime.db.select({ camera: cards.camera, statements: clips.statements }).from(clips).innerJoin(cards, eq(cards.id, clips.card)).where(eq(clips.state, 'read'));
  const known = await runtime.db.select().from(cameras).orderBy(asc(cameras.letter));
  const counts = new Map<string, number>();
  for (const r of rows) counts.set(r.camera, (counts.get(r.camera) ?? 0) + 1);
  return { cameras: known.filter((c) => counts.has(c.letter)).map((c) => ({ letter: c.letter, model: c.model, clips: counts.get(c.letter)! })), rows: statedBy(rows) };
}

/** Corrects many clips at once. What was read stays among their statements; what the person says goes before it. */
export function correctClips(runtime: Runtime, { clips: ids, set, card }: Correction): Promise<{ changed: number }> {
  return runtime.exclusively(async () => {
    const rows = await runtime.db.select({ id: clips.id, statements: clips.statements, original: clips.original }).from(clips).where(inArray(clips.id, ids));
    if (rows.length === 0) throw new NotFound('None of these clips is in the job any more.');
    const changes = rows.map((row) => {
      let statements = row.statements;
      for (const { field, value } of set) {
        statements = statements.filter((s) => !(s.field === field && s.source === 'person'));
        if (value.trim() === '') continue;
        const parsed = parseValue(field, value, rateOf(chooseFacts(statements)));
        if (!parsed) throw new Refused(`“${value}” is no ${fieldOf(field).term.toLowerCase()} for ${row.original}.`, { next: HINTS[fieldOf(field).type] ?? 'Check what you typed.' });
        statements = [...statements, { field, value: parsed, source: 'person' }];
      }
      return { id: row.id, statements };
    });
    if (card) {
      for (const day of await runtime.db.select().from(days)) {
        if (day.number === card.day && day.date !== null && card.date !== null && day.date !== card.date) throw new Clash(`Day ${day.number} is ${day.date}, not ${card.date}.`, { next: 'Choose another day number.' });
      }
      const [there] = await runtime.db.select().from(cards).where(eq(cards.id, card.id));
      if (there && (there.camera !== card.camera || there.day !== card.day)) throw new Clash(`${card.id} is a card of camera ${there.camera}, day ${there.day}.`, { next: 'Choose another card id, or give that camera and day.' });
    }
    await runtime.db.transaction(async (tx) => {
      if (set.length > 0) for (const c of changes) await tx.update(clips).set({ statements: c.statements }).where(eq(clips.id, c.id));
      if (!card) return;
      const [from] = await tx.select({ card: cards }).from(clips).innerJoin(cards, eq(cards.id, clips.card)).where(eq(clips.id, rows[0]!.id));
      await tx.insert(cameras).values({ letter: card.camera, model: null }).onConflictDoNothing();
      await tx.insert(days).values({ number: card.day, date: card.date }).onConflictDoNothing();
      await tx.insert(cards).values({ ...from!.card, id: card.id, camera: card.camera, day: card.day, aside: [], takenAt: new Date() }).onConflictDoNothing();
      await tx.update(clips).set({ card: card.id }).where(inArray(clips.id, rows.map((r) => r.id)));
      // A card that holds nothing any more goes.
      const left = new Set((await tx.selectDistinct({ card: clips.card }).from(clips)).map((c) => c.card));
      if (!left.has(from!.card.id)) await tx.delete(cards).where(eq(cards.id, from!.card.id));
    });
    const what = [...set.map((s) => (s.value.trim() === '' ? `took back what was said of ${fieldOf(s.field).term.toLowerCase()}` : `${fieldOf(s.field).term.toLowerCase()} ${s.value}`)), ...(card ? [`card ${card.id}, camera ${card.camera}, day ${card.day}`] : [])];
    await writeLog(runtime, 'facts', `Corrected ${rows.length} ${rows.length === 1 ? 'clip' : 'clips'}: ${what.join(', ')}`);
    await showAgain(runtime, rows.map((r) => r.id));
    runtime.events.changed('clips', 'cards', 'job', 'log');
    return { changed: rows.length };
  });
}

const HINTS: Record<string, string> = {
  timecode: 'Write it as 14:22:05:00, with ; before the frames for drop-frame, and frames below the rate.', rate: 'Write it as 25, 29.97 or 30000/1001.', moment: 'Write it as 2026-05-06 14:22:05.',
  count: 'Write a whole number.', number: 'Write a number.', flag: 'Write yes or no.', triple: 'Write three numbers.', fraction: 'Write it as 1/50.',
};
