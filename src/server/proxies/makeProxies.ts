import { and, eq, inArray } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { isDeepStrictEqual } from 'node:util';
import { MADE_ROLES } from '../../core/intake';
import { believed, chooseFacts, rateOf, type Statement, text } from '../../core/facts';
import { foreseenBytes } from '../../core/proxies/foreseen';
import { recipeFor } from '../../core/proxies/need';
import { type PairFacts, pairReason, type provePair } from '../../core/proxies/prove';
import {
  fixedFolder,
  type Followed,
  type Recipe,
  sizeFault,
  soundFault,
  startOfMade,
  tailOf,
} from '../../core/proxies/recipe';
import { type Cut, cutFor, factsOfPart, ofPart, partFault, sourceOfPart } from '../../core/proxies/part';
import type { Part } from '../../core/proxies/shapes';
import { changesOf, channelsOf, type ProxySource } from '../../core/proxies/source';
import { BESIDE_ENDS, writeBeside } from './beside';
import { cannot } from './library';
import { foreseenOf, sourceOf } from './source';
import { cards, clips, files } from '../cards/tables';
import { pairs } from './tables';
import { Clash, messageOf, NotFound, Refused, Unreadable } from '../platform/errors';
import { sampleOf } from '../platform/files/hash';
import { OWN_FOLDER } from '../platform/files/journal';
import { modifiedOf, renameExclusively } from '../platform/files/move';
import { ownerMark } from '../platform/files/partName';
import { resolveIn } from '../platform/files/paths';
import type { Outcome, WorkContext } from '../platform/work/kinds';
import { makeProxy, pauseWithoutRoom } from './proxy';
import type { InJob, Ports } from './ports';
import { requireJob } from '../jobs';
import { isNamed, proxyPlace } from './place';
import {
  clipFootage,
  clipName,
  originalOf,
  soundsOf,
  statementsOf,
  withFile,
  standsNew,
  hasFilmstrip,
} from '../cards';
import { audioStreams } from '../reading';
import { keyFrames, probe } from '../platform/media/probe';
import { inputsOf, pairState, type ProvenBy, proveMade, samplesOf, wantedOf } from './provePairs';
import type { Seen, Stills } from './look';
import { cached, keepFilmstrip, keepSeen, making, stateOf } from '../analysis';
import { isMovable, listRoots, requireHere, rootById } from '../places';
import { joinPath } from '../platform/files/names';
import { mkdir, open, namesIn, readText, rename, rm } from '../platform/files/onDisk';

/** Where what is made stands meanwhile: in the root it goes to, so that naming it is a rename. Refused where that leads through a link. */
const makingFolder = async (runtime: Pick<Ports, 'db'>, root: string): Promise<string> =>
  resolveIn(await rootById(runtime, root), `${OWN_FOLDER}/making`);
/** The name of one that is being made, and of what it needs beside; last whose it is, which earlier versions did not say. */
const HALF_MADE =
  /^[0-9a-f-]{36}-\d+-[0-9a-f]{8}(?:-([0-9a-f]{8}))?(?:-strip\.jpg|-poster\.jpg|\.(?:mp4|mov|mxf|cube|txt|woff2))$/;
/** A name of its own for every attempt: an FFmpeg left over from a killed server cannot write into this one. */
export const makingName = (id: string, attempt: number): string =>
  `${id}-${attempt}-${randomUUID().slice(0, 8)}-${ownerMark()}`;
const isOurs = (name: string): boolean => {
  const found = HALF_MADE.exec(name);
  return found !== null && (found[1] === undefined || found[1] === ownerMark());
};
/** Pictures that are made in the same run go to the cache. */
const STILLS = ['-strip.jpg', '-poster.jpg'];
export const makingStills = (runtime: Pick<Ports, 'home'>): string =>
  joinPath(runtime.home, 'cache', 'making');

export const stillsAt = (runtime: Pick<Ports, 'home'>, base: string): Stills => {
  const [filmstrip, poster] = STILLS.map((end) => joinPath(makingStills(runtime), `${base}${end}`));
  return { filmstrip: filmstrip!, poster: poster! };
};

/** What a piece of work was asked for: a recipe, or what the job's rules say. */
export interface WantedMade {
  recipe: Followed | null;
  part?: Part;
}

/** What was made by a piece of work, from which later ones are foreseen. */
export interface Made {
  recipe: string;
  bytes: number;
  foreseen: number;
}

type ClipRow = typeof clips.$inferSelect;

/** Channels of each stream of a clip's sound, by the file it is in: first what is in its original, then what is apart. */
export async function audioOf(runtime: InJob, row: ClipRow): Promise<number[][]> {
  const sounds = await soundsOf(runtime, row.id);
  const apart = await Promise.all(sounds.map(async (f) => audioStreams(await probe(f))));
  return [row.audio.slice(0, row.audio.length - apart.flat().length), ...apart];
}

/** What a clip is made from, and by which recipe. */
export async function planMaking(runtime: InJob, row: ClipRow, wanted: WantedMade | null) {
  const job = await requireJob(runtime);
  const stated = believed((await statementsOf(runtime.db, [row.id])).get(row.id) ?? [], job.trust);
  const original = sourceOf(stated, await audioOf(runtime, row), {
    clip: row.original,
    reel: row.card,
    zoneMinutes: job.zoneMinutes,
  });
  if (!original) throw new Unreadable(`${row.original} states no rate or length.`);
  const [card] = await runtime.db
    .select({ camera: cards.camera })
    .from(cards)
    .where(and(eq(cards.job, runtime.job), eq(cards.id, row.card)));
  const facts = chooseFacts(stated);
  const whole: Followed =
    wanted?.recipe ??
    recipeFor(job.proxies, { camera: card?.camera ?? '', rate: rateOf(facts), codec: text(facts, 'codec') });
  const source = startOfMade(original, whole);
  const asked = wanted?.part ?? null;
  if (!asked) return { stated, source, recipe: whole, part: null, cut: null, code: job.code };
  if (asked.to > source.frames)
    throw new Refused(`${row.original} has ${source.frames} frames; the part ends after ${asked.to}.`);
  const why = partFault(source);
  if (why !== null) throw new Refused(`No part of ${row.original} can be made by “${whole.name}”: ${why}`);
  const cut = whole.video.codec === 'copy' ? await cutOf(runtime, row, asked, source) : null;
  const part = cut?.part ?? asked;
  const recipe: Followed = ofPart(whole, part);
  return {
    stated,
    source: sourceOfPart(source, part),
    recipe,
    part,
    cut,
    code: job.code,
  };
}

/** Where a clip is cut for a part of it that is not re-encoded. */
async function cutOf(runtime: InJob, row: ClipRow, asked: Part, source: ProxySource): Promise<Cut> {
  const footage = await clipFootage(runtime, row.id);
  const none = (why: string): Refused =>
    new Refused(
      `No part of ${row.original} can be cut without re-encoding it: ${why} A transcode is cut at any frame.`,
    );
  if (typeof footage !== 'string') throw none('it is in several files.');
  const { frames, keys } = await keyFrames(footage);
  if (frames !== source.frames) throw none(`${frames} of its ${source.frames} frames were found.`);
  const cut = cutFor(asked, keys, source);
  if (cut.part.from === 0 && cut.part.to === frames && (asked.from > 0 || asked.to < frames))
    throw none('there is no frame around the part at which it can be cut.');
  return cut;
}

/** The root that what a recipe makes goes to: beside the original where files may be made there, else that of proxies. */
async function rootFor(runtime: InJob, recipe: Recipe, clip: string): Promise<string> {
  if (recipe.place.at !== 'beside') return 'proxies';
  const original = await originalOf(runtime, clip);
  return isNamed(original) && isMovable((await rootById(runtime, original.root)).kind)
    ? original.root
    : 'proxies';
}

/** Makes, proves and names one proxy, transcode or rewrap. It has no name of its own until it is proven. */
export async function makeOneProxy(
  runtime: InJob,
  { id, subject: clip, wanted: asked, attempt, signal, progress }: WorkContext,
): Promise<Outcome> {
  const [row] = await runtime.db.select().from(clips).where(eq(clips.id, clip));
  if (!row) throw new NotFound('The clip is no longer in the job.');
  if (row.state !== 'read')
    throw new Unreadable(`${row.original} has not been read: ${row.fault ?? 'it is waiting'}`, {
      next: 'Read it first.',
    });
  const {
    stated,
    source,
    recipe,
    part: of,
    cut,
    code,
  } = await planMaking(runtime, row, asked as WantedMade | null);
  await refuseUnable(row, recipe, stated);
  const root = await rootFor(runtime, recipe, clip);
  await requireHere(runtime, await rootById(runtime, root));
  const original = await originalOf(runtime, clip);
  const foreseen = foreseenBytes(recipe, foreseenOf(stated, original.size));
  // A server that was killed when what it made had its name already did not come to say so. A recipe of the same name may be another.
  const before = attempt > 1 ? await sameMade(runtime, row, recipe) : undefined;
  const wasMade = before?.state === 'proven' && isDeepStrictEqual([before.recipe, before.part], [recipe, of]);
  if (wasMade) return { result: { recipe: recipe.name, bytes: before.size, foreseen } satisfies Made };
  await refuseSecond(runtime, row, recipe);
  await refuseTaken(runtime, root, await placeFor(runtime, code, row, recipe));
  const all = startOfMade(await wantedOf(stated, () => clipFootage(runtime, clip)), recipe);
  const wanted: PairFacts = {
    ...(of ? factsOfPart(all, of) : all),
    channels: channelsOf(recipe, source),
  };
  const folder = await makingFolder(runtime, root);
  await mkdir(folder);
  // It is an estimate: what is half as large may do.
  await pauseWithoutRoom(folder, foreseen / 2);
  const base = makingName(id, attempt);
  const part = joinPath(folder, `${base}.${recipe.container}`);
  await mkdir(makingStills(runtime));
  const stills = stillsAt(runtime, base);
  try {
    const name = clipName(original, row.original);
    const beside = await writeBeside(runtime, { clip, name, statements: stated }, recipe, folder, base);
    const { speed, seen } = await withFile(runtime, clip, 'original', async (file) => {
      for (const at of [part, stills.filmstrip, stills.poster]) await rm(at, { force: true });
      return makeProxy([file, ...(await soundsOf(runtime, clip))], part, recipe, source, {
        signal,
        ...{ beside, part: of, cut, ...(of ? {} : { stills }) },
        onProgress: (p) => progress(p.done, 1, p.speed),
      });
    });
    const handle = await open(part, 'r+');
    await handle.sync();
    await handle.close();
    const pictures = () => (seen ? Promise.resolve(seen.sampled) : samplesOf(runtime, clip, all, of, signal));
    const by: ProvenBy = {
      ...{ recipe, wanted, part: of, pictures, signal },
      original: () => inputsOf(runtime, clip),
    };
    const proof = await proveMade(by, part);
    if (proof.state === 'mismatched')
      throw new Unreadable(
        `The ${recipe.purpose} of ${row.original} does not match and was thrown away: ${pairReason(proof.checks)}`,
      );
    signal.throwIfAborted();
    const { size } = await modifiedOf(part);
    // It is of the original, whatever becomes of what is made; where it cannot be kept it is missing.
    if (seen)
      await keepAll(runtime, clip, stateOf(original), seen, stills).catch((e: unknown) =>
        console.error('analysis:', messageOf(e)),
      );
    const changes = [...changesOf(recipe, source), ...(beside.look ? ['look applied'] : [])];
    await runtime.exclusively(() =>
      nameMade(runtime, row, { part, root, code, recipe, by, proof, changes, of }),
    );
    return { speed, result: { recipe: recipe.name, bytes: size, foreseen } satisfies Made };
  } finally {
    for (const end of [`.${recipe.container}`, ...BESIDE_ENDS])
      await rm(joinPath(folder, `${base}${end}`), { force: true });
    for (const at of [stills.filmstrip, stills.poster]) await rm(at, { force: true });
  }
}

/** Keeps what was seen of a clip while something was made of it. A picture that could not be made is left out: it can be made later. */
export async function keepAll(
  runtime: InJob,
  clip: string,
  of: string,
  seen: Seen,
  stills: Stills,
): Promise<void> {
  await keepSeen(runtime, clip, of, seen);
  const kept = await keepFilmstrip(runtime, clip, stills.filmstrip).then(
    () => true,
    () => false,
  );
  // Behind the filmstrip, which takes the poster of the one before away.
  await making(runtime, 'posters', clip);
  await rename(stills.poster, cached(runtime, 'posters', clip)).catch(() => undefined);
  if (kept) await hasFilmstrip(runtime.db, clip);
}

/** Throws where a recipe cannot be followed here, or of this clip: before any work is done. */
export async function refuseUnable(
  clip: ClipRow,
  recipe: Recipe,
  stated: readonly Statement[],
): Promise<void> {
  const { width, height } = foreseenOf(stated, 0);
  const sound = text(chooseFacts(stated), 'audioCodec');
  const why = (await cannot(recipe)) ?? sizeFault(recipe, width, height) ?? soundFault(recipe, sound);
  if (why !== null)
    throw new Refused(`No ${recipe.purpose} can be made of ${clip.original} by “${recipe.name}”: ${why}`, {
      next: 'Choose another recipe.',
    });
}

/** What a recipe made of a clip before. */
async function sameMade(runtime: InJob, clip: ClipRow, recipe: Recipe) {
  const made = await runtime.db
    .select({
      ...{ path: files.path, role: files.role, size: files.size },
      ...{ recipe: pairs.recipe, state: pairs.state, part: pairs.part },
    })
    .from(files)
    .leftJoin(pairs, eq(pairs.file, files.id))
    .where(and(eq(files.clip, clip.id), inArray(files.role, [...MADE_ROLES])));
  return made.find((m) =>
    m.recipe === null
      ? m.role === recipe.purpose && m.path.endsWith(tailOf(recipe))
      : m.recipe.name === recipe.name,
  );
}

/** Throws where a clip has what a recipe makes already. */
async function refuseSecond(runtime: InJob, clip: ClipRow, recipe: Recipe): Promise<void> {
  const same = await sameMade(runtime, clip, recipe);
  if (same)
    throw new Refused(`${clip.original} has a ${recipe.purpose} by “${recipe.name}” already.`, {
      file: same.path,
      next: 'Remove that one first, to make it anew.',
    });
}

/** Where what a recipe makes of a clip goes, below its root. */
const placeFor = async (runtime: InJob, code: string, clip: ClipRow, recipe: Recipe): Promise<string> =>
  proxyPlace(code, clip, await originalOf(runtime, clip.id), {
    tail: tailOf(recipe),
    folder: fixedFolder(recipe),
  });

const taken = (place: string): Clash =>
  new Clash(`${place} is there already.`, {
    file: place,
    next: 'Give the recipe words of its own for the name, or remove that file first.',
  });

/** Throws where a file of a job is at the place already: before the work, and once more after it. */
async function refuseTaken(runtime: InJob, root: string, place: string): Promise<void> {
  const [owner] = await runtime.db
    .select({ id: files.id })
    .from(files)
    .where(and(eq(files.root, root), eq(files.path, place)));
  if (owner) throw taken(place);
}

/** Gives what was made and proven its name, never over another file, and stores it with its pair. */
async function nameMade(
  runtime: InJob,
  clip: ClipRow,
  made: {
    part: string;
    root: string;
    code: string;
    recipe: Followed;
    by: ProvenBy;
    proof: ReturnType<typeof provePair>;
    changes: string[];
    /** The part of the clip that it is. */
    of: Part | null;
  },
): Promise<void> {
  const { part, root, code, recipe, by, proof, changes } = made;
  await refuseSecond(runtime, clip, recipe);
  const place = await placeFor(runtime, code, clip, recipe);
  await refuseTaken(runtime, root, place);
  const to = await resolveIn(await rootById(runtime, root), place);
  await renameExclusively(part, to).catch(async (e: unknown) => {
    if (!(e instanceof Clash)) throw e;
    // A server killed between naming a file and storing it leaves a whole, proven one there: that one is taken.
    if ((await proveMade(by, to)).state !== 'proven') throw taken(place);
  });
  const id = randomUUID();
  const stat = await modifiedOf(to);
  const state = pairState(await originalOf(runtime, clip.id), stat);
  const sample = await sampleOf(to, stat.size);
  await runtime.db.transaction(async (tx) => {
    await standsNew(tx, {
      ...{ id, clip: clip.id, role: recipe.purpose, root, path: place, suffix: recipe.words },
      ...{ ...stat, sample },
    });
    await tx.insert(pairs).values({
      ...{ file: id, clip: clip.id, ...proof, changes },
      ...{ recipe, of: state, part: made.of, checkedAt: new Date() },
    });
  });
}

/**
 * Removes what a killed server of this data folder left half made, ending an FFmpeg that still writes to it (told by the unguessable name in
 * its arguments; Linux only, elsewhere such a leftover ends by itself and is removed at the next start).
 */
export async function clearHalfMade(runtime: Pick<Ports, 'db' | 'home'>): Promise<void> {
  await clearMaking(makingStills(runtime));
  for (const root of await listRoots(runtime))
    if (isMovable(root.kind)) await clearMaking(await makingFolder(runtime, root.id).catch(() => null));
}

async function clearMaking(folder: string | null): Promise<void> {
  const left = folder === null ? [] : (await namesIn(folder).catch(() => [])).filter(isOurs);
  if (folder === null || left.length === 0) return;
  for (const pid of (await namesIn('/proc').catch(() => [])).filter((n) => /^\d+$/.test(n))) {
    const command = await readText(`/proc/${pid}/cmdline`).catch(() => '');
    if (left.some((name) => command.includes(joinPath(folder, name)))) process.kill(Number(pid), 'SIGKILL');
  }
  for (const name of left) await rm(joinPath(folder, name), { force: true });
}
