import { randomUUID } from 'node:crypto';
import { and, asc, eq, sql } from 'drizzle-orm';
import { SOUND_RATE } from '../../core/choose';
import {
  corrected,
  type Edit,
  type EditName,
  type EditView,
  eventsOf,
  type EventsFound,
  type EventsQuery,
  guessRate,
  type Kept,
  type Laid,
  LaidVerdict,
  lay,
  type NewEdit,
  NotAnEdit,
  numbersOf,
  readEdl,
  readOtio,
  Shelved,
} from '../../core/handover';
import { mostFrequent, type Rate } from '../../core/platform/timecode/rate';
import { formatTimecode, timecode } from '../../core/platform/timecode/timecode';
import { plural } from '../../core/platform/words';
import { grouped } from '../cards';
import { clips as clipRows } from '../cards/tables';
import { requireJob } from '../jobs';
import { writeLog } from '../logbook';
import type { Writer } from '../platform/db/transaction';
import { NotFound, Refused, Unreadable } from '../platform/errors';
import { alikeOf, beginAlike } from './alike';
import type { InJob } from './ports';
import { clipsToConnect, FILES_CHANGED, type Placed } from './sides';
import { edits, editUses } from './tables';

type EditRow = typeof edits.$inferSelect;

/** Files with another timecode that are told one by one. */
const MOST_FILES = 20;

/** The rate most of the job's clips run at; that of the job where it is set. */
async function likelyRate(runtime: InJob): Promise<Rate | null> {
  const { rate: set } = await requireJob(runtime);
  if (set) return set;
  const { clips } = await clipsToConnect(runtime);
  return mostFrequent(clips.flatMap((c) => c.original.rate ?? []));
}

/** OpenTimelineIO is JSON, a list is not. */
const formatOf = (text: string): EditRow['format'] => (/^\uFEFF?\s{0,1000}[{[]/.test(text) ? 'otio' : 'edl');

function parsed({ text, format, rate, file }: Pick<EditRow, 'text' | 'format' | 'rate' | 'file'>): Edit {
  try {
    return format === 'otio' ? readOtio(text) : readEdl(text, rate!);
  } catch (e) {
    if (!(e instanceof NotAnEdit)) throw e;
    throw new Unreadable(`${file} cannot be read as a timeline: ${e.message}.`, {
      next: 'Export it again, as OpenTimelineIO or as an edit decision list in the 3600 form.',
    });
  }
}

/** Reads a timeline and keeps it; nothing is kept of one that cannot be read. */
export async function takeEdit(runtime: InJob, { file, text, rate }: NewEdit): Promise<{ id: string }> {
  const [known] = await runtime.db
    .select({ id: edits.id })
    .from(edits)
    .where(and(eq(edits.job, runtime.job), eq(edits.file, file), eq(edits.text, text)));
  // The same file once more is the same edit.
  if (known) return known;
  const format = formatOf(text);
  const guessed = format === 'edl' && rate === null;
  const at = format === 'otio' ? null : (rate ?? guessRate(text, await likelyRate(runtime)));
  const edit = parsed({ text, format, rate: at, file });
  const events = eventsOf(edit);
  if (events === 0)
    throw new Unreadable(`${file} holds a timeline without any clip.`, {
      next: edit.faults[0] ?? 'Export it again with its clips.',
    });
  const id = randomUUID();
  const name = edit.name || file;
  await runtime.db.insert(edits).values({
    ...{ id, job: runtime.job, name, file, format, text, rate: at, guessed },
    readAt: new Date(),
  });
  await layAgain(runtime, id, edit);
  await writeLog(runtime, 'edit', `Read the edit ${name} from ${file}: ${plural(events, 'event')}`);
  runtime.events.changed('log', 'choose');
  return { id };
}

/** What is known of an edit beside its text, which is long. */
const KNOWN = {
  id: edits.id,
  job: edits.job,
  name: edits.name,
  file: edits.file,
  format: edits.format,
  rate: edits.rate,
  guessed: edits.guessed,
  readAt: edits.readAt,
};
type Known = Omit<EditRow, 'text'>;

async function editRow({ db, job }: InJob, id: string): Promise<Known> {
  const [row] = await db
    .select(KNOWN)
    .from(edits)
    .where(and(eq(edits.job, job), eq(edits.id, id)));
  if (!row) throw new NotFound('This edit was removed meanwhile.');
  return row;
}

async function textOf({ db }: InJob, { id }: Known): Promise<string> {
  const [row] = await db.select({ text: edits.text }).from(edits).where(eq(edits.id, id));
  if (!row) throw new NotFound('This edit was removed meanwhile.');
  return row.text;
}

const nameOf = ({ id, name, file, format, readAt }: Known): EditName => ({
  ...{ id, name, file, format },
  readAt: readAt.toISOString(),
});

/** The edits of the job, the last one first. */
export async function editNames({ db, job }: InJob): Promise<EditName[]> {
  const rows = await db
    .select(KNOWN)
    .from(edits)
    .where(eq(edits.job, job))
    .orderBy(sql`${edits.readAt} desc`, asc(edits.id));
  return rows.map(nameOf);
}

/** The job's clips by all that an edit may name them, kept until they change. */
const shelvedOf = (runtime: InJob): Promise<{ shelved: Shelved; placed: ReadonlyMap<string, Placed> }> =>
  runtime.viewCache.get(
    `clips an edit may use of ${runtime.job}`,
    async () => {
      const { clips } = await clipsToConnect(runtime);
      return {
        shelved: new Shelved(clips.map(({ clip, files, formerly }): Kept => ({ clip, files, formerly }))),
        placed: new Map(clips.map((c) => [c.clip, c])),
      };
    },
    FILES_CHANGED,
  );

/** An edit laid against the job's clips as they are now; what it uses of them is kept. */
async function layNow(runtime: InJob, id: string, edit: Edit) {
  const { shelved, placed } = await shelvedOf(runtime);
  const laid = lay(edit, shelved);
  await keepUses(runtime, id, laid, placed);
  return { edit, laid, shelved, placed };
}

const laidAs = (id: string): string => `edit ${id}`;

/** The same of an edit that was read just now, in place of how it was read before. */
async function layAgain(runtime: InJob, id: string, edit: Edit): Promise<void> {
  const laid = layNow(runtime, id, edit);
  runtime.viewCache.put(laidAs(id), laid, FILES_CHANGED);
  await laid;
}

/** An edit with what became of each event, kept until clips change or it is read at another rate. */
export async function laidOf(runtime: InJob, id: string) {
  const row = await editRow(runtime, id);
  const laid = await runtime.viewCache.get(
    laidAs(id),
    async () => layNow(runtime, id, parsed({ ...row, text: await textOf(runtime, row) })),
    FILES_CHANGED,
  );
  return { row, ...laid };
}

/** Stretches of clips that an edit uses; those that touch are one. */
export function usesOf(laid: readonly (readonly Laid[])[]): { clip: string; from: number; to: number }[] {
  const used = laid
    .flat()
    .flatMap((l) => (l.clip && l.used && l.verdict !== 'outside' ? [{ clip: l.clip, ...l.used }] : []));
  const byClip = grouped(
    used,
    (u) => u.clip,
    (u) => u,
  );
  return [...byClip.values()].flatMap((stretches) => {
    const out: typeof used = [];
    for (const u of stretches.sort((a, b) => a.from - b.from)) {
      const last = out.at(-1);
      if (last && u.from <= last.to) last.to = Math.max(last.to, u.to);
      else out.push({ ...u });
    }
    return out;
  });
}

/** What is used of a clip as its ranges count: those of sound do so by themselves, whatever its timecode counts. */
function asRange({ clip, from, to }: { clip: string; from: number; to: number }, of: Placed | undefined) {
  const rate = of?.original.sound ? of.original.rate : null;
  if (!rate) return { clip, from, to };
  // All in whole numbers, but for one division: what comes out even is not a frame more.
  const counted = (at: number): number =>
    Math.round((at * rate.den * SOUND_RATE.num) / (rate.num * SOUND_RATE.den));
  const first = counted(from);
  return { clip, from: first, to: Math.max(first + 1, counted(to)) };
}

async function keepUses(
  runtime: InJob,
  edit: string,
  laid: readonly (readonly Laid[])[],
  placed: ReadonlyMap<string, Placed>,
): Promise<void> {
  const now = usesOf(laid).map((u) => ({ edit, ...asRange(u, placed.get(u.clip)) }));
  const before = await runtime.db.select().from(editUses).where(eq(editUses.edit, edit));
  const keyOf = (u: (typeof now)[number]) => `${u.clip} ${u.from} ${u.to}`;
  const known = new Set(before.map(keyOf));
  if (known.size === now.length && now.every((u) => known.has(keyOf(u)))) return;
  await runtime.db.transaction(async (tx) => {
    await tx.delete(editUses).where(eq(editUses.edit, edit));
    // Of clips, and of an edit, that are still there; another who asks may have kept the same just before.
    await tx.execute(sql`
      insert into ${editUses} (edit, clip, "from", "to")
      select r.edit, r.clip, r."from", r."to" from json_to_recordset(${JSON.stringify(now)}::json) as r(edit text, clip text, "from" int, "to" int)
      join ${edits} e on e.id = r.edit join ${clipRows} c on c.id = r.clip
      on conflict do nothing`);
  });
  runtime.events.changed('choose');
}

export async function editView(runtime: InJob, id: string): Promise<EditView> {
  const { row, edit, laid, shelved } = await laidOf(runtime, id);
  const alike = await alikeOf(runtime, { laid, shelved });
  const counts = Object.fromEntries(LaidVerdict.options.map((v) => [v, 0])) as EditView['counts'];
  const cutFrom = new Map<string, EditView['cutFrom'][number]>();
  for (const { verdict, shifted } of laid.flat()) {
    counts[verdict]++;
    if (!shifted) continue;
    const of = cutFrom.get(shifted.words) ?? { file: shifted.file, words: shifted.words, events: 0 };
    of.events++;
    cutFrom.set(shifted.words, of);
  }
  const files = [...cutFrom.values()].sort((a, b) => b.events - a.events);
  return {
    ...nameOf(row),
    ...{ rate: edit.rate, guessed: row.guessed, faults: edit.faults, counts },
    start: formatTimecode(timecode(edit.start, edit.rate, edit.drop)),
    frames: edit.tracks.reduce((n, t) => t.events.reduce((m, e) => Math.max(m, e.to), n), 0),
    cutFrom: files.slice(0, MOST_FILES),
    moreCutFrom: Math.max(0, files.length - MOST_FILES),
    corrected: corrected(edit, laid, shelved).changed,
    alike: { files: alike.files, missing: alike.missing.length },
    tracks: edit.tracks.map(({ name, kind, events }, t) => ({
      ...{ name, kind },
      events: events.map((e, i) => [e.from, e.to, LaidVerdict.options.indexOf(laid[t]![i]!.verdict)]),
    })),
  };
}

/** Begins the files that are missing for an edit to connect as it is. */
export async function makeAlike(runtime: InJob, id: string): Promise<{ begun: number }> {
  const of = await laidOf(runtime, id);
  return beginAlike(runtime, (await alikeOf(runtime, of)).missing, of.placed);
}

export async function editEvents(runtime: InJob, id: string, query: EventsQuery): Promise<EventsFound> {
  const { edit, laid, placed } = await laidOf(runtime, id);
  const all = edit.tracks.flatMap(({ events }, track) =>
    events.map((event, place) => ({ event, track, place, laid: laid[track]![place]! })),
  );
  const found = all.filter(
    (e) =>
      (query.verdict === null || e.laid.verdict === query.verdict) &&
      (!query.shifted || e.laid.shifted !== null),
  );
  return {
    found: found.length,
    lines: found.slice(query.offset, query.offset + query.limit).map(({ event, track, place, laid: l }) => {
      const of = l.clip === null ? undefined : placed.get(l.clip);
      return {
        ...l,
        ...{ track, place, label: event.label },
        at: formatTimecode(timecode(edit.start + event.from, edit.rate, edit.drop)),
        called: event.file ?? event.name ?? (event.reel === null ? '' : `reel ${event.reel}`),
        numbers: numbersOf(event.source),
        speed: event.speed,
        transition: event.transition,
        of: of ? { name: of.original.name, card: of.card } : null,
      };
    }),
  };
}

/** Reads a list at another rate. */
export async function setEditRate(runtime: InJob, id: string, rate: Rate): Promise<void> {
  const row = await editRow(runtime, id);
  if (row.format !== 'edl')
    throw new Refused(`${row.file} says itself at which rate it counts.`, { next: 'Leave it as it is.' });
  const edit = parsed({ ...row, rate, text: await textOf(runtime, row) });
  await runtime.db.update(edits).set({ rate, guessed: false }).where(eq(edits.id, id));
  await layAgain(runtime, id, edit);
  runtime.events.changed('choose');
}

/** Forgets an edit; no file is touched. */
export async function dropEdit(runtime: InJob, id: string): Promise<void> {
  const { name } = await editRow(runtime, id);
  await runtime.db.delete(edits).where(eq(edits.id, id));
  await writeLog(runtime, 'edit', `Removed the edit ${name}; its file stays where it is`);
  runtime.events.changed('log', 'choose');
}

/** Forgets the edits of a job, and with them what they use. */
export async function forgetEdits(tx: Writer, job: string): Promise<void> {
  await tx.delete(edits).where(eq(edits.job, job));
}
