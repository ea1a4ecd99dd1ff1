import { and, eq, inArray, ne, notInArray, or, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/pg-core';
import { SOUND_RATE } from '../../core/choose';
import { type Statement, statementOf, TIME_OF_DAY, type Trust } from '../../core/facts';
import { Held, HELD_FIELDS, heldOriginal, knownStart, type Rehearsed } from '../../core/handover';
import { isMade, MADE_ROLES } from '../../core/intake';
import { shownPath, type ShownPath } from '../../core/platform/names';
import { countsTimecode } from '../../core/platform/timecode/rate';
import { sameAddress, type Timecode } from '../../core/platform/timecode/timecode';
import { pairReason, statedByProxy } from '../../core/proxies';
import { clipsOf, grouped, splitPath, standsInEdit } from '../cards';
import { cards, clips, files } from '../cards/tables';
import { allUpToDate } from '../facts';
import { facts, shown } from '../facts/tables';
import { jobs } from '../jobs/tables';
import { pairs } from '../proxies/tables';
import { requireJob } from '../jobs';
import type { InJob } from './ports';

/** A clip as it is connected, with where it is. */
export interface Placed extends Rehearsed {
  card: string;
  camera: string;
  /** The file that the edit holds; null where that is the original, or what stands for it. */
  file: string | null;
  /** Whether it was made here. */
  made: boolean;
  /** Every file of it that an edit may have been made with; first what the finishing side holds. */
  files: Held[];
  /** What those were called when they were taken in; null where that is what they are called. */
  formerly: (string | null)[];
  /** Where the first of those, and the file that the edit holds, are. */
  places: { original: FilePlace; edit: FilePlace };
}

/** A clip that is known in frames on both sides; sound without a timecode counts 25 a second. Null where its length is not known. */
export function inFrames(of: Placed, seconds: number | null): Placed | null {
  const { original, edit } = of;
  if (original.rate && original.frames && edit.rate && edit.frames && countsTimecode(original.rate))
    return of;
  const frames = original.sound && seconds !== null ? Math.ceil(SOUND_RATE.num * seconds) : 0;
  if (frames < 1) return null;
  const counted = { rate: SOUND_RATE, frames };
  return { ...of, original: { ...original, ...counted }, edit: { ...edit, ...counted } };
}

/** A path below a root. */
export interface FilePlace {
  root: string;
  path: string;
}

type FileOf = Pick<typeof files.$inferSelect, 'id' | 'clip' | 'role' | 'root' | 'path' | 'takenPath'>;
type PairRow = typeof pairs.$inferSelect;

/** The job's clips that were read, each as the edit holds it and as the finishing side does; kept until clips or their files change. */
export const clipsToConnect = (runtime: InJob): Promise<{ clips: Placed[]; unread: number }> =>
  runtime.viewCache.get(`clips to connect of ${runtime.job}`, () => loadClips(runtime), FILES_CHANGED);

/** After which they may be others. */
export const FILES_CHANGED = ['job', 'cards', 'clips'] as const;

async function loadClips(runtime: InJob): Promise<{ clips: Placed[]; unread: number }> {
  await allUpToDate(runtime);
  const { db, database, job } = runtime;
  const rows = (
    await database.texts(
      db
        .select({ id: clips.id, state: clips.state, card: clips.card, number: shown.number })
        .from(clips)
        .innerJoin(shown, eq(shown.clip, clips.id))
        .where(eq(shown.job, job))
        .orderBy(shown.recorded, sql`${shown.sort} collate "C"`, shown.number)
        .getSQL(),
    )
  ).map(([id, state, card, number]) => ({ id: id!, state: state!, card: card!, number: Number(number) }));
  const cameraOf = new Map(
    (await db.select({ id: cards.id, camera: cards.camera }).from(cards).where(eq(cards.job, job))).map(
      (c) => [c.id, c.camera],
    ),
  );
  const families = await familiesOf(runtime);
  const stated = await statedOf(runtime);
  const { trust } = await requireJob(runtime);
  const read = rows.filter((r) => r.state === 'read');
  return {
    unread: rows.length - read.length,
    clips: read.flatMap((r): Placed[] => {
      const family = families.get(r.id) ?? [];
      const original = family.find((f) => f.file.role === 'original');
      if (!original) return [];
      const { card } = r;
      const sides = sidesOf(original.file, family, stated.get(r.number) ?? [], trust);
      return [{ clip: r.id, card, camera: cameraOf.get(card) ?? '', ...sides }];
    }),
  };
}

/** The files that the edit and the finishing side may hold, with their pairs, by clip. */
async function familiesOf({ db, database, job }: InJob) {
  const mine = clipsOf(db, job);
  const known = new Map(
    (await db.select().from(pairs).where(inArray(pairs.clip, mine))).map((p) => [p.file, p]),
  );
  const rows = await database.texts(
    db
      .select({
        id: files.id,
        clip: files.clip,
        role: files.role,
        root: files.root,
        path: files.path,
        takenPath: files.takenPath,
      })
      .from(files)
      .where(and(inArray(files.clip, mine), inArray(files.role, ['original', 'cameraProxy', ...MADE_ROLES])))
      .getSQL(),
  );
  return grouped(
    rows,
    ([, clip]) => clip!,
    ([id, clip, role, root, path, takenPath]) => ({
      file: {
        id: id!,
        clip: clip!,
        role: role as FileOf['role'],
        root: root!,
        path: path!,
        takenPath: takenPath ?? null,
      },
      pair: known.get(id!) ?? null,
    }),
  );
}

/**
 * What is stated of clips in the fields by which they are connected, by their numbers; a rate of samples only where samples are. The time of
 * day that stands in for a timecode is left out.
 */
async function statedOf({ db, database, job }: InJob): Promise<Map<number, Statement[]>> {
  const number = db.select({ number: jobs.number }).from(jobs).where(eq(jobs.id, job));
  const sound = alias(facts, 'sound');
  const rows = await database.texts(
    db
      .select({
        clip: facts.clip,
        field: facts.field,
        source: facts.source,
        // Only what says it: of very many rows most of the time goes by for what is written.
        words: sql`case when ${facts.value} is null then ${facts.words} end`,
        number: sql`case when ${facts.value} is null then ${facts.number} end`,
        value: facts.value,
      })
      .from(facts)
      .where(
        and(
          eq(facts.job, number),
          inArray(facts.field, [...HELD_FIELDS]),
          notInArray(facts.source, [...TIME_OF_DAY]),
          or(
            ne(facts.field, 'sampleRate'),
            inArray(
              facts.clip,
              db
                .select({ clip: sound.clip })
                .from(sound)
                .where(and(eq(sound.job, number), eq(sound.field, 'samples'), sound.chosen)),
            ),
          ),
        ),
      )
      .getSQL(),
  );
  // Most of it is stated of many clips alike.
  const known = new Map<string, Statement>();
  return grouped(
    rows,
    ([clip]) => Number(clip),
    ([, field, source, words, number, value]) => {
      // A value has no line's end in it.
      const key = `${field} ${source} ${number}\n${value ?? ''}\n${words ?? ''}`;
      const before = known.get(key);
      if (before) return before;
      const statement = statementOf({
        field: field as Statement['field'],
        source: source as Statement['source'],
        words: words ?? '',
        number: number === null ? null : Number(number),
        value: value === null ? null : (JSON.parse(value!) as Statement['value']),
      });
      known.set(key, statement);
      return statement;
    },
  );
}

/** What a file was called when it was taken in, where that is not what it is called. */
function nameBefore({ path, takenPath }: FileOf): string | null {
  const before = takenPath === null ? null : nameOf({ path: takenPath });
  return before === nameOf({ path }) ? null : before;
}

/** The names of files as they are, below their folders. */
export const nameOf = ({ path }: Pick<FileOf, 'path'>): ShownPath => {
  const { stem, extension } = splitPath(path);
  return shownPath(`${stem}${extension}`);
};

function sidesOf(
  original: FileOf,
  family: readonly { file: FileOf; pair: PairRow | null }[],
  statements: readonly Statement[],
  trust: Trust,
): Omit<Placed, 'clip' | 'card' | 'camera'> {
  const known = new Map(family.flatMap(({ file, pair }) => (pair ? [[file.id, pair] as const] : [])));
  const start = knownStart(statements, trust);
  const camera = heldOriginal(nameOf(original), statements);
  const held = new Map(
    family.map(({ file, pair }) => [file, file === original ? camera : heldBeside(file, pair, camera)]),
  );
  const isRight = start === null || (camera.start !== null && sameAddress(camera.start, start));
  const mended = isRight
    ? undefined
    : family.find(({ file, pair }) => givesTimecode(file, pair, start))?.file;
  const first = mended ?? original;
  const inOrder = [first, ...family.map((f) => f.file).filter((f) => f !== first)];
  const best = standsInEdit(known, inOrder);
  // A pair that is lost stands for nothing: the edit would be given what the finishing side has.
  const beside = best && best.pair?.state !== 'lost' ? best : null;
  const given = beside?.file ?? first;
  const at = ({ root, path }: FileOf): FilePlace => ({ root, path });
  return {
    ...{ start, original: held.get(first)!, edit: held.get(given)! },
    pair:
      beside && given !== first
        ? { state: beside.pair?.state ?? 'unproven', reason: pairReason(beside.pair?.checks ?? []) }
        : null,
    file: beside?.file.id ?? null,
    made: beside !== null && isMade(given.role) && Boolean(beside.pair?.recipe),
    files: inOrder.map((f) => held.get(f)!),
    formerly: inOrder.map(nameBefore),
    places: { original: at(first), edit: at(given) },
  };
}

/** Whether a file is the original with the timecode it should have: a rewrap that was proven, of all of it. */
const givesTimecode = (file: FileOf, pair: PairRow | null, start: Timecode | null): boolean => {
  if (file.role !== 'rewrap' || pair?.state !== 'proven' || pair.part !== null) return false;
  const { start: stated } = statedByProxy(pair.checks);
  return start !== null && stated !== null && sameAddress(stated, start);
};

/**
 * A file beside an original; what it states is known from its proof. Of a clip whose rate varies the times of all frames are compared, not
 * rates: where they are the same, so is its rate.
 */
function heldBeside(file: FileOf, pair: PairRow | null, original: Held): Held {
  const stated = statedByProxy(pair?.checks ?? []);
  const isTimed = pair?.checks.some((c) => c.what === 'times' && c.result === 'same') === true;
  return {
    what: Held.shape.what.parse(file.role),
    name: nameOf(file),
    ...stated,
    sound: false,
    rate: stated.rate ?? (isTimed ? original.rate : null),
  };
}
