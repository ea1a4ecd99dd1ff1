import { and, eq, inArray } from 'drizzle-orm';
import { text, chooseFacts, type Statement, statementOf } from '../../core/facts';
import {
  countWays,
  type Finding,
  Held,
  HELD_FIELDS,
  heldOriginal,
  knownStart,
  Mend,
  type Mended,
  type MendRequest,
  type Rehearsed,
  rehearse,
  type RehearsalQuery,
  type RehearsalView,
  rewrapWithTimecode,
  Verdict,
} from '../../core/handover';
import { isMade, MADE_ROLES } from '../../core/intake';
import { shownPath, type ShownPath } from '../../core/platform/names';
import { sameAddress, type Timecode } from '../../core/platform/timecode/timecode';
import { statedByProxy } from '../../core/proxies';
import { addWork, grouped, splitPath, standsInEdit } from '../cards';
import { cards, clips, files } from '../cards/tables';
import { allUpToDate } from '../facts';
import { facts, shown } from '../facts/tables';
import { actOnPair } from '../proxies';
import { pairs } from '../proxies/tables';
import { Refused, ShelfError } from '../platform/errors';
import type { InJob } from './ports';

/** A clip of the rehearsal with where it is. */
export interface Placed extends Rehearsed {
  card: string;
  camera: string;
  /** The file that the edit holds; null where that is the original, or what stands for it. */
  file: string | null;
  /** Whether it was made here. */
  made: boolean;
}

type FileOf = Pick<typeof files.$inferSelect, 'id' | 'clip' | 'role' | 'path' | 'suffix'>;
type PairRow = typeof pairs.$inferSelect;

/** The job's clips that were read, each as the edit holds it and as the finishing side does. */
export async function clipsToConnect(runtime: InJob): Promise<{ clips: Placed[]; unread: number }> {
  await allUpToDate(runtime);
  const { db, job } = runtime;
  const rows = await db
    .select({ id: clips.id, state: clips.state, card: clips.card, number: shown.number })
    .from(clips)
    .innerJoin(shown, eq(shown.clip, clips.id))
    .where(eq(clips.job, job))
    .orderBy(shown.recorded, shown.sort, shown.number);
  const cameraOf = new Map(
    (await db.select({ id: cards.id, camera: cards.camera }).from(cards).where(eq(cards.job, job))).map(
      (c) => [c.id, c.camera],
    ),
  );
  const families = await familiesOf(runtime);
  const stated = await statedOf(runtime);
  const read = rows.filter((r) => r.state === 'read');
  return {
    unread: rows.length - read.length,
    clips: read.flatMap((r): Placed[] => {
      const family = families.get(r.id) ?? [];
      const original = family.find((f) => f.file.role === 'original');
      if (!original) return [];
      const { card } = r;
      const sides = sidesOf(original.file, family, stated.get(r.number) ?? [], card);
      return [{ clip: r.id, card, camera: cameraOf.get(card) ?? '', ...sides }];
    }),
  };
}

/** The files that the edit and the finishing side may hold, with their pairs, by clip. */
async function familiesOf({ db, job }: InJob) {
  const rows = await db
    .select({
      file: { id: files.id, clip: files.clip, role: files.role, path: files.path, suffix: files.suffix },
      pair: pairs,
    })
    .from(files)
    .innerJoin(clips, and(eq(clips.id, files.clip), eq(clips.job, job)))
    .leftJoin(pairs, eq(pairs.file, files.id))
    .where(inArray(files.role, ['original', 'cameraProxy', ...MADE_ROLES]));
  return grouped(
    rows,
    (r) => r.file.clip,
    (r) => r,
  );
}

/** What is stated of clips in the fields by which they are connected, by their numbers. */
async function statedOf({ db, job }: InJob): Promise<Map<number, Statement[]>> {
  const rows = await db
    .select({
      clip: facts.clip,
      field: facts.field,
      source: facts.source,
      words: facts.words,
      number: facts.number,
      value: facts.value,
    })
    .from(facts)
    .innerJoin(shown, and(eq(shown.number, facts.clip), eq(shown.job, job)))
    .where(inArray(facts.field, [...HELD_FIELDS]));
  return grouped(rows, (r) => r.clip, statementOf);
}

/** The names of files as they are, below their folders. */
const nameOf = ({ path }: Pick<FileOf, 'path'>): ShownPath => {
  const { stem, extension } = splitPath(path);
  return shownPath(`${stem}${extension}`);
};

function sidesOf(
  original: FileOf,
  family: readonly { file: FileOf; pair: PairRow | null }[],
  statements: readonly Statement[],
  card: string,
): Pick<Placed, 'edit' | 'original' | 'start' | 'file' | 'made'> {
  const known = new Map(family.flatMap(({ file, pair }) => (pair ? [[file.id, pair] as const] : [])));
  const start = knownStart(statements);
  const reel = text(chooseFacts(statements), 'reel') ?? card;
  const camera = heldOriginal(nameOf(original), statements);
  const isRight = start === null || (camera.start !== null && sameAddress(camera.start, start));
  const mended = isRight ? undefined : family.find(({ file, pair }) => givesTimecode(file, pair, start));
  const finish = mended ? heldBeside(mended.file, mended.pair, reel) : camera;
  const best = standsInEdit(
    known,
    family.map((f) => f.file),
  );
  // A pair that is lost stands for nothing: the edit would be given what the finishing side has.
  if (!best || best.pair?.state === 'lost')
    return { start, original: finish, edit: finish, file: null, made: false };
  const { file, pair } = best;
  return {
    ...{ start, original: finish, edit: heldBeside(file, pair ?? null, reel) },
    ...{ file: file.id, made: isMade(file.role) && Boolean(pair?.recipe) },
  };
}

/** Whether a file is the original with the timecode it should have: a rewrap that was proven, of all of it. */
const givesTimecode = (file: FileOf, pair: PairRow | null, start: Timecode | null): boolean => {
  if (file.role !== 'rewrap' || pair?.state !== 'proven' || pair.part !== null) return false;
  const { start: stated } = statedByProxy(pair.checks);
  return start !== null && stated !== null && sameAddress(stated, start);
};

/** A file beside an original; what it states is known from its proof. What was made here was given the reel. */
const heldBeside = (file: FileOf, pair: PairRow | null, reel: string): Held => ({
  what: Held.shape.what.parse(file.role),
  name: nameOf(file),
  reel: isMade(file.role) && pair?.recipe ? reel : null,
  ...statedByProxy(pair?.checks ?? []),
});

/** The rehearsal of all clips, kept until clips or their files change. */
const rehearsed = (runtime: InJob) =>
  runtime.viewCache.get(
    `rehearsal of ${runtime.job}`,
    async () => {
      const { clips: tried, unread } = await clipsToConnect(runtime);
      return { tried, unread, findings: rehearse(tried) };
    },
    ['job', 'cards', 'clips', 'work'],
  );

/** What asks for something to be done comes first; the rest in shooting order. */
const urgency = ({ verdict, mends, notes }: Finding): number =>
  verdict === 'fails' ? 0 : verdict === 'several' ? 1 : mends.length > 0 || notes.length > 0 ? 2 : 3;

/** What of the rehearsal is asked for. */
export async function rehearsalView(runtime: InJob, query: RehearsalQuery): Promise<RehearsalView> {
  const { tried, unread, findings } = await rehearsed(runtime);
  const words = query.words.trim().toLowerCase();
  const isWanted = (f: Finding): boolean =>
    (query.verdict === null || f.verdict === query.verdict) &&
    (query.way === null || f.ways.some((w) => w.way === query.way!.way && w.result === query.way!.result)) &&
    (words === '' || [f.edit.name, f.original.name].some((n) => n.toLowerCase().includes(words)));
  const found = findings
    .map((finding, i) => ({ finding, of: tried[i]! }))
    .filter((x) => isWanted(x.finding))
    .sort((a, b) => urgency(a.finding) - urgency(b.finding));
  const count = <K extends string>(keys: readonly K[], has: (f: Finding, key: K) => boolean) =>
    Object.fromEntries(keys.map((k) => [k, findings.filter((f) => has(f, k)).length])) as Record<K, number>;
  return {
    clips: findings.length,
    unread,
    verdicts: count(Verdict.options, (f, v) => f.verdict === v),
    ways: countWays(findings),
    mends: count(Mend.options, (f, m) => f.mends.includes(m)),
    found: found.length,
    lines: found
      .slice(query.offset, query.offset + query.limit)
      .map(({ finding, of }) => ({ ...finding, card: of.card, camera: of.camera })),
  };
}

/** Begins what mends the clips that were asked for, or all for which it is offered. */
export async function mendClips(runtime: InJob, { mend, clips: ids }: MendRequest): Promise<Mended> {
  const { tried, findings } = await rehearsed(runtime);
  const asked = ids && new Set(ids);
  const mine = tried.filter(
    (t, i) => findings[i]!.mends.includes(mend) && (asked === null || asked.has(t.clip)),
  );
  if (mine.length === 0)
    throw new Refused('There is nothing to be mended in this way any more.', { next: 'Look again.' });
  switch (mend) {
    case 'look':
      await runtime.queue.begin({ kind: 'prove', job: runtime.job, wanted: mine.map((m) => m.clip) });
      return { begun: mine.length, refused: [] };
    case 'rewrap':
      return { begun: await rewrapAll(runtime, mine), refused: [] };
    case 'again':
      return makeAgain(runtime, mine);
  }
}

/** Queues rewraps, by one recipe for each container. Resolves with how many. */
async function rewrapAll(runtime: InJob, mine: readonly Placed[]): Promise<number> {
  let begun = 0;
  const extensionOf = (p: Placed) => splitPath(p.original.name).extension.toLowerCase();
  for (const [extension, some] of grouped(mine, extensionOf, (p) => p)) {
    const recipe = rewrapWithTimecode(extension);
    begun += (
      await addWork(
        runtime,
        'proxy',
        some.map((p) => p.clip),
        { recipe },
      )
    ).added;
  }
  return begun;
}

/** Removes the proxies that were made here of clips, and queues new ones; what is not ours stays beside them. */
async function makeAgain(runtime: InJob, mine: readonly Placed[]): Promise<Mended> {
  const refused: Mended['refused'] = [];
  const ready: string[] = [];
  for (const { clip, edit, file, made } of mine)
    try {
      if (made) await actOnPair(runtime, { action: 'remove', file: file! });
      ready.push(clip);
    } catch (e) {
      if (!(e instanceof ShelfError)) throw e;
      refused.push({ name: edit.name, why: e.message });
    }
  return { begun: (await addWork(runtime, 'proxy', ready)).added, refused };
}
