import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import { isRecording } from '../../core/intake';
import { type FieldId, FIELDS, fieldOf, formatValue, type Statement } from '../../core/facts/catalogue';
import { chooseFacts, contradicts, type Facts, factsOf, rateOf } from '../../core/facts/facts';
import { parseValue } from '../../core/facts/parse';
import type { Correction, FactTable, SideBySide, Stated } from '../../core/facts/shapes';
import {
  cellIn,
  fileStatements,
  showFact,
  type Shown,
  type ShownFacts,
  showFacts,
  statedBy,
} from '../../core/facts/table';
import { among } from '../platform/db/among';
import { cardOfClip, clipsOf, isCard } from '../platform/db/ofJob';
import { cameras, cards, clips, days, files } from '../platform/db/schema';
import { Clash, NotFound, Refused } from '../platform/errors';
import type { InJob } from '../runtime';
import { byClip, type FileRow, clipName } from '../cards';
import { theJob } from '../jobs';
import { writeLog } from '../logbook';
import { contextsOf, showAgain } from './readClips';

const OF_FILES: ReadonlySet<FieldId> = new Set<FieldId>([
  'fileName',
  'cameraFile',
  'folder',
  'size',
  'files',
  'fileTime',
]);

/** What stands on disk of a clip, as statements. */
export function ofFiles(
  family: readonly Pick<FileRow, 'role' | 'path' | 'size' | 'modified'>[],
  original: string,
  zoneMinutes: number,
): Statement[] {
  const first = family.find((f) => f.role === 'original');
  return first
    ? fileStatements({
        path: first.path,
        original,
        bytes: family.filter((f) => isRecording(f.role)).reduce((n, f) => n + f.size, 0),
        files: family.length,
        modified: first.modified,
        zoneMinutes,
      })
    : [];
}

const byName = new Intl.Collator('en', { numeric: true }).compare;

/** A column as it grows: each different cell once, by its JSON. */
class Column {
  readonly cells: Shown[] = [];
  readonly rows: (number | null)[] = [];
  readonly #known = new Map<string, number>();

  constructor(readonly field: FieldId) {}

  add(cell: string | null | undefined): void {
    if (!cell) {
      this.rows.push(null);
      return;
    }
    let at = this.#known.get(cell);
    if (at === undefined) {
      at = this.cells.push(JSON.parse(cell) as Shown) - 1;
      this.#known.set(cell, at);
    }
    this.rows.push(at);
  }
}

/**
 * Clips of the job with some fields, in shooting order. Columns hold each different cell once: a job's clips have much in
 * common. Of very many clips every step counts, so what is kept is never taken apart as a whole.
 */
export const factTable = (runtime: InJob, wanted: readonly FieldId[]): Promise<FactTable> =>
  runtime.memory.of(`facts of ${runtime.job} ${wanted.join(' ')}`, async () => {
    const job = await theJob(runtime);
    const rows = (
      await runtime.db
        .select({
          id: clips.id,
          card: clips.card,
          original: clips.original,
          kind: clips.kind,
          state: clips.state,
          shown: sql<string | null>`${clips.shown}`,
          camera: cards.camera,
          day: cards.day,
        })
        .from(clips)
        .innerJoin(cards, cardOfClip)
        .where(eq(clips.job, runtime.job))
    )
      .map((row) => ({
        row,
        recorded:
          (JSON.parse(cellIn(row.shown ?? '', 'recordedAt') ?? '[]') as Partial<Shown>)[1] ?? Infinity,
      }))
      .sort((a, b) => a.recorded - b.recorded || byName(a.row.original, b.row.original));
    const families = byClip(
      await runtime.db
        .select({
          clip: files.clip,
          role: files.role,
          path: files.path,
          suffix: files.suffix,
          size: files.size,
          modified: files.modified,
        })
        .from(files)
        .where(inArray(files.clip, clipsOf(runtime.db, runtime.job))),
    );
    const columns = wanted.map((field) => new Column(field));
    const ofDisk = wanted.some((f) => OF_FILES.has(f));
    const list = rows.map(({ row }): FactTable['clips'][number] => {
      const family = families.get(row.id) ?? [];
      const own: ShownFacts = ofDisk
        ? showFacts(chooseFacts(ofFiles(family, row.original, job.zoneMinutes)))
        : {};
      for (const c of columns) {
        if (OF_FILES.has(c.field)) c.add(own[c.field] && JSON.stringify(own[c.field]));
        else c.add(row.shown && cellIn(row.shown, c.field));
      }
      return [
        row.id,
        row.card,
        row.camera,
        row.day,
        clipName(
          family.find((f) => f.role === 'original'),
          row.original,
        ),
        row.kind,
        row.state,
      ];
    });
    return { clips: list, columns: columns.map(({ field, cells, rows: r }) => ({ field, cells, rows: r })) };
  });

/** A clip of the job with everything that is known of it. */
export interface KnownClip {
  id: string;
  name: string;
  card: string;
  statements: Statement[];
  facts: Facts;
  notes: string[];
  fault: string | null;
  family: FileRow[];
}

export async function factsOfClips(runtime: InJob, ids: readonly string[]): Promise<KnownClip[]> {
  const job = await theJob(runtime);
  const contexts = await contextsOf(runtime, job);
  const found = new Map<string, KnownClip>();
  for (let i = 0; i < ids.length; i += 500) {
    const some = ids.slice(i, i + 500);
    const families = byClip(await runtime.db.select().from(files).where(inArray(files.clip, some)));
    for (const row of await runtime.db
      .select()
      .from(clips)
      .where(and(eq(clips.job, runtime.job), inArray(clips.id, some)))) {
      const family = families.get(row.id) ?? [];
      const statements = [...row.statements, ...ofFiles(family, row.original, job.zoneMinutes)];
      const original = family.find((f) => f.role === 'original');
      found.set(row.id, {
        id: row.id,
        name: clipName(original, row.original),
        card: row.card,
        statements,
        facts: factsOf(statements, contexts.get(row.card)),
        notes: row.notes,
        fault: row.fault,
        family,
      });
    }
  }
  return ids.flatMap((id) => found.get(id) ?? []);
}

/** Some clips side by side, with what differs marked. */
export async function sideBySide(runtime: InJob, ids: readonly string[]): Promise<SideBySide> {
  const found = await factsOfClips(runtime, ids);
  if (found.length < 1)
    throw new NotFound('None of these clips is in the job any more.', {
      next: 'Choose others in the table.',
    });
  return {
    clips: found.map(({ id, name, card }) => ({ id, name, card })),
    rows: FIELDS.flatMap(({ id }) => {
      const facts = found.map((c) => c.facts.get(id) ?? null);
      if (facts.every((f) => f === null)) return [];
      const cells = facts.map(
        (f) =>
          f && {
            shown: showFact(f),
            others: f.others
              .map((o) => ({
                value: formatValue(o.value, id),
                source: o.source,
                contradicts: contradicts(id, f.chosen, o),
              }))
              .filter((o) => o.value !== showFact(f)[0]),
          },
      );
      return [{ field: id, differs: new Set(cells.map((c) => c?.shown[0] ?? null)).size > 1, cells }];
    }),
  };
}

/** Which camera states which field. */
export const statedView = (runtime: InJob): Promise<Stated> =>
  runtime.memory.of(`stated of ${runtime.job}`, async () => {
    const rows = await runtime.db
      .select({ camera: cards.camera, statements: clips.statements })
      .from(clips)
      .innerJoin(cards, cardOfClip)
      .where(and(eq(clips.job, runtime.job), eq(clips.state, 'read')));
    const known = await runtime.db
      .select()
      .from(cameras)
      .where(eq(cameras.job, runtime.job))
      .orderBy(asc(cameras.label));
    const counts = new Map<string, number>();
    for (const r of rows) counts.set(r.camera, (counts.get(r.camera) ?? 0) + 1);
    return {
      cameras: known
        .filter((c) => counts.has(c.label))
        .map((c) => ({ label: c.label, model: c.model, clips: counts.get(c.label)! })),
      rows: statedBy(rows),
    };
  });

/** Corrects many clips at once. What was read stays among their statements; what the person says goes before it. */
export function correctClips(
  runtime: InJob,
  { clips: ids, set, card }: Correction,
): Promise<{ changed: number }> {
  return runtime.exclusively(async () => {
    const { job } = runtime;
    const rows = await runtime.db
      .select({ id: clips.id, statements: clips.statements, original: clips.original })
      .from(clips)
      .where(and(eq(clips.job, job), among(clips.id, ids)));
    if (rows.length === 0) throw new NotFound('None of these clips is in the job any more.');
    const changes = rows.map((row) => {
      let statements = row.statements;
      for (const { field, value } of set) {
        statements = statements.filter((s) => !(s.field === field && s.source === 'person'));
        if (value.trim() === '') continue;
        const parsed = parseValue(field, value, rateOf(chooseFacts(statements)));
        if (!parsed)
          throw new Refused(`“${value}” is no ${fieldOf(field).term.toLowerCase()} for ${row.original}.`, {
            next: HINTS[fieldOf(field).type] ?? 'Check what you typed.',
          });
        statements = [...statements, { field, value: parsed, source: 'person' }];
      }
      return { id: row.id, statements };
    });
    if (card) {
      for (const day of await runtime.db.select().from(days).where(eq(days.job, job))) {
        if (day.number === card.day && day.date !== null && card.date !== null && day.date !== card.date)
          throw new Clash(`Day ${day.number} is ${day.date}, not ${card.date}.`, {
            next: 'Choose another day number.',
          });
      }
      const [there] = await runtime.db.select().from(cards).where(isCard(job, card.id));
      if (there && (there.camera !== card.camera || there.day !== card.day))
        throw new Clash(`${card.id} is a card of camera ${there.camera}, day ${there.day}.`, {
          next: 'Choose another card id, or give that camera and day.',
        });
    }
    await runtime.db.transaction(async (tx) => {
      if (set.length > 0)
        for (const c of changes)
          await tx.update(clips).set({ statements: c.statements }).where(eq(clips.id, c.id));
      if (!card) return;
      const [from] = await tx
        .select({ card: cards })
        .from(clips)
        .innerJoin(cards, cardOfClip)
        .where(eq(clips.id, rows[0]!.id));
      await tx.insert(cameras).values({ job, label: card.camera, model: null }).onConflictDoNothing();
      await tx.insert(days).values({ job, number: card.day, date: card.date }).onConflictDoNothing();
      await tx
        .insert(cards)
        .values({
          ...from!.card,
          id: card.id,
          camera: card.camera,
          day: card.day,
          aside: [],
          takenAt: new Date(),
        })
        .onConflictDoNothing();
      await tx
        .update(clips)
        .set({ card: card.id })
        .where(
          among(
            clips.id,
            rows.map((r) => r.id),
          ),
        );
      // A card that holds nothing any more goes.
      const left = await clipsOf(tx, job, from!.card.id).limit(1);
      if (left.length === 0) await tx.delete(cards).where(isCard(job, from!.card.id));
    });
    const what = [
      ...set.map((s) =>
        s.value.trim() === ''
          ? `took back what was said of ${fieldOf(s.field).term.toLowerCase()}`
          : `${fieldOf(s.field).term.toLowerCase()} ${s.value}`,
      ),
      ...(card ? [`card ${card.id}, camera ${card.camera}, day ${card.day}`] : []),
    ];
    await writeLog(
      runtime,
      'facts',
      `Corrected ${rows.length} ${rows.length === 1 ? 'clip' : 'clips'}: ${what.join(', ')}`,
    );
    await showAgain(
      runtime,
      rows.map((r) => r.id),
    );
    runtime.events.changed('clips', 'cards', 'job', 'log');
    return { changed: rows.length };
  });
}

const HINTS: Record<string, string> = {
  timecode: 'Write it as 14:22:05:00, with ; before the frames for drop-frame, and frames below the rate.',
  rate: 'Write it as 25, 29.97 or 30000/1001.',
  moment: 'Write it as 2026-05-06 14:22:05.',
  count: 'Write a whole number.',
  number: 'Write a number.',
  flag: 'Write yes or no.',
  triple: 'Write three numbers.',
  fraction: 'Write it as 1/50.',
};
