import { and, eq, sql } from 'drizzle-orm';
import { fold } from '../../core/choose';
import { type Brief, type FieldId, NO_BRIEF } from '../../core/facts';
import type { ClipKind } from '../../core/intake';
import type { PairState } from '../../core/proxies';
import { pairStates } from '../cards';
import { cards, clips } from '../cards/tables';
import { facts, shown } from '../facts/tables';
import { upToDate } from '../facts';
import { requireJob } from '../jobs';
import type { InJob } from './ports';

// What a search looks at stands in memory, a part at a time, and is asked for anew when what it follows from has changed: a search of
// fifty thousand clips is a walk over them.

/** Changes after which clips and facts are others. */
export const CLIPS = ['job', 'cards', 'clips'] as const;
/** After which the marks given to them are. */
export const MARKS = ['choose'] as const;
/** After which anything that is searched is. */
export const ANY = [...CLIPS, ...MARKS, 'work'] as const;

/** A clip as it is searched and shown. */
export interface Row {
  number: number;
  id: string;
  card: string;
  camera: string;
  day: number;
  name: string;
  sort: string;
  kind: ClipKind;
  state: 'waiting' | 'read' | 'unreadable';
  fault: string | null;
  notes: string[];
  filmstrip: boolean;
  brief: Brief;
  /** All words of it, folded. */
  text: string;
}

/** The job's clips in shooting order. */
export const clipsOfJob = (runtime: InJob): Promise<Row[]> =>
  runtime.viewCache.get(`clips of ${runtime.job}`, () => loadClips(runtime), CLIPS);

/** The same by their ids. */
export const rowsById = (runtime: InJob): Promise<ReadonlyMap<string, Row>> =>
  runtime.viewCache.get(
    `clips by id of ${runtime.job}`,
    async () => new Map((await clipsOfJob(runtime)).map((r) => [r.id, r])),
    CLIPS,
  );

async function loadClips(runtime: InJob): Promise<Row[]> {
  await upToDate(runtime);
  const { db, database, job } = runtime;
  const placed = new Map(
    (
      await db
        .select({ id: cards.id, camera: cards.camera, day: cards.day })
        .from(cards)
        .where(eq(cards.job, job))
    ).map((c) => [c.id, c]),
  );
  const rows = await database.texts(
    db
      .select({
        number: shown.number,
        id: shown.clip,
        card: shown.card,
        name: shown.name,
        sort: shown.sort,
        kind: clips.kind,
        state: clips.state,
        fault: clips.fault,
        notes: clips.notes,
        filmstrip: clips.filmstrip,
        brief: shown.brief,
        text: shown.text,
      })
      .from(shown)
      .innerJoin(clips, eq(clips.id, shown.clip))
      .where(eq(shown.job, job))
      .orderBy(shown.recorded, sql`${shown.sort} collate "C"`, shown.number)
      .getSQL(),
  );
  return rows.map((r): Row => {
    const [number, id, card, name, sort, kind, state, fault, notes, filmstrip, brief, text] = r;
    return {
      number: Number(number),
      id: id!,
      card: card!,
      camera: placed.get(card!)?.camera ?? '',
      day: placed.get(card!)?.day ?? 0,
      name: name!,
      sort: sort!,
      kind: kind as Row['kind'],
      state: state as Row['state'],
      fault: fault ?? null,
      notes: notes ? (JSON.parse(notes) as string[]) : [],
      filmstrip: filmstrip === 't',
      brief: brief ? (JSON.parse(brief) as Brief) : NO_BRIEF,
      text: fold(text ?? ''),
    };
  });
}

/** What a field states of clips, by their numbers: folded words, and a number where it is one. */
export type Column = ReadonlyMap<number, { words: string; number: number | null }>;

export const columnOf = (runtime: InJob, field: FieldId): Promise<Column> =>
  runtime.viewCache.get(
    `column ${field} of ${runtime.job}`,
    async () => {
      const { db, database } = runtime;
      const job = await requireJob(runtime);
      const rows = await database.texts(
        db
          .select({ clip: facts.clip, words: facts.words, number: facts.number })
          .from(facts)
          .where(and(eq(facts.job, job.number), eq(facts.field, field), facts.chosen))
          .getSQL(),
      );
      return new Map(
        rows.map(([clip, words, number]) => [
          Number(clip),
          { words: fold(words ?? ''), number: number === null ? null : Number(number) },
        ]),
      );
    },
    CLIPS,
  );

/** How each clip's pair stands, by its id. */
export const pairsOf = (runtime: InJob): Promise<ReadonlyMap<string, PairState>> =>
  runtime.viewCache.get(
    `pairs of ${runtime.job}`,
    async () => {
      const stateOf = await pairStates(runtime);
      return new Map((await clipsOfJob(runtime)).map((c) => [c.id, stateOf(c, c.camera)]));
    },
    [...CLIPS, 'work'],
  );
