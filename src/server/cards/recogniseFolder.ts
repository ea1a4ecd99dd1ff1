import PQueue from 'p-queue';
import { join, type DiskPath } from '../../core/platform/names';
import { plural } from '../../core/platform/words';
import {
  type FoundEntry,
  type Recognised,
  type RecognisedCard,
  type RecogniseOptions,
  ofClips,
  type TakeEvidence,
  typeOf,
} from '../../core/intake';
import { chooseFacts, count, rateOf } from '../../core/facts';
import { isCode, NotFound } from '../platform/errors';
import { unreadWhy } from '../platform/files/faults';
import { OWN_FOLDER } from '../platform/files/journal';
import { resolveIn } from '../platform/files/paths';
import { type Walked, walkWhole } from '../platform/files/walk';
import { kindOnDisk, lookLimits, sniff } from '../platform/media/probe';
import type { InJob } from './ports';
import { type Job, requireJob } from '../jobs';
import { readStatements, recogniseInThread } from '../reading';
import { rootById, type Root } from '../places';
import { joinPath } from '../platform/files/names';

/** How the rules of a folder are kept: by its root and path. */
export const ruleKey = (root: string, folder: DiskPath): string => `${root}/${folder}`;

/** Files of unlisted types that are smaller are not looked into. Bytes. */
const SMALLEST_VIDEO = 64 << 10;

export interface LookedAt {
  root: Root;
  /** The folder that was looked at, below the root. */
  folder: DiskPath;
  at: DiskPath;
  found: Recognised;
  walked: Walked;
  /** What is wrong with files that are footage all the same, by path. */
  faults: Map<string, string>;
}

/** What is known of a folder from a walk a moment ago: then only the files named in `fresh` are looked into, and what became of others, or of what is of no clip, is not said. */
export interface JustWalked {
  walked: Walked;
  fresh: ReadonlySet<string>;
}

/** A folder as it is on the disk, and the rules by which it is recognised. */
async function rulesAndWalk(
  runtime: InJob,
  rootId: string,
  folder: DiskPath,
  singles: readonly string[],
  known?: Walked,
) {
  const job = await requireJob(runtime);
  const root = await rootById(runtime, rootId);
  const at = await resolveIn(root, folder);
  let walked: Walked;
  try {
    walked = known ?? (await walkWhole(at));
  } catch (e) {
    if (isCode(e, 'ENOENT'))
      throw new NotFound(`The folder “${folder || root.name}” is no longer there.`, {
        file: at,
        next: 'Go up a level and choose again, or connect the volume.',
      });
    if (isCode(e, 'ENOTDIR')) throw new NotFound(`“${folder}” is a file, not a folder.`, { file: at });
    throw e;
  }
  const rule = job.intake.folders[ruleKey(rootId, folder)];
  const options: RecogniseOptions = {
    rules: job.intake,
    ...(rule ? { folder: rule } : {}),
    singles: new Set(singles),
  };
  const entries: FoundEntry[] = walked.entries.filter((e) => !e.path.startsWith(`${OWN_FOLDER}/`));
  return { job, root, at, walked, entries, options };
}

/** The cards in a folder by the names in it alone, which is soon known: some may turn out to be none, or clips to be one. */
export async function recogniseNames(
  runtime: InJob,
  rootId: string,
  folder: DiskPath,
  singles: readonly string[],
): Promise<Recognised> {
  const { entries, options } = await rulesAndWalk(runtime, rootId, folder, singles);
  return recogniseInThread(entries, options);
}

/** Walks a folder and recognises the cards in it by the job's rules. Reads the few files whose contents decide. */
export async function recogniseFolder(
  runtime: InJob,
  rootId: string,
  folder: DiskPath,
  singles: readonly string[] = [],
  just?: JustWalked,
): Promise<LookedAt> {
  const { job, root, at, walked, options, ...all } = await rulesAndWalk(
    runtime,
    rootId,
    folder,
    singles,
    just?.walked,
  );
  const { types } = job.intake;
  const entries = just ? ofClips(all.entries, job.intake) : all.entries;
  const isAsked = (p: string) => just === undefined || just.fresh.has(p);
  const faults = await lookInto(
    entries.filter((e) => isAsked(e.path)),
    at,
    types,
  );
  const first = await recogniseInThread(entries, options);
  const told = new Set(
    first.cards.flatMap((c) =>
      c.mayFollow
        .map((pair) => pair.map((p) => join(c.folder, p)))
        .filter((pair) => pair.some(isAsked))
        .flat(),
    ),
  );
  const { evidence, unread } = await readEvidence(
    entries.filter((e) => told.has(e.path)),
    at,
    job,
  );
  const found = told.size === 0 ? first : await recogniseInThread(entries, { ...options, evidence });
  for (const card of found.cards) card.doubts.push(...ofNoTakeKnown(card, unread));
  return { root, folder, at, found, walked, faults };
}

/**
 * Looks at the first bytes of what may be footage. Writes to an entry why it is none, or what it holds although its type is not
 * listed; returns what is wrong with files that are footage all the same, by path.
 */
async function lookInto(
  entries: readonly FoundEntry[],
  at: DiskPath,
  types: Job['intake']['types'],
): Promise<Map<string, string>> {
  const faults = new Map<string, string>();
  const queue = new PQueue({ concurrency: 8 });
  const files = entries.filter((e) => e.kind === 'file' && e.size > 0);
  await queue.addAll(
    files
      .filter((e) => e.size >= SMALLEST_VIDEO && typeOf(e.path, types) === null)
      .map((e) => async () => {
        const kind = await kindOnDisk(joinPath(at, e.path)).catch(() => null);
        if (kind?.holds === 'video' || kind?.holds === 'sound') e.holds = kind.holds;
      }),
  );
  await queue.addAll(
    files
      .filter((e) => typeOf(e.path, types) === 'video')
      .map((e) => async () => {
        const fault = await sniff(joinPath(at, e.path), e.size).catch((err: unknown) => ({
          footage: true,
          fault: `cannot be read: ${unreadWhy(err)}`,
        }));
        if (!fault) return;
        if (fault.footage) faults.set(e.path, fault.fault);
        else e.fault = fault.fault;
      }),
  );
  return faults;
}

/** What is to be said of files of a card that may be parts of one take, are clips of their own, and could not be read; by their paths. */
function ofNoTakeKnown({ folder, families, mayFollow }: RecognisedCard, unread: ReadonlyMap<string, string>) {
  if (unread.size === 0) return [];
  const familyOf = new Map(families.flatMap((f) => f.files.map((m) => [m.path, f])));
  const apart = mayFollow.filter(([a, b]) => familyOf.get(a) !== familyOf.get(b)).flat();
  const faults = [...new Set(apart)].flatMap((p) => unread.get(join(folder, p)) ?? []);
  const [first, ...others] = faults;
  if (first === undefined) return [];
  return [
    others.length === 0
      ? `${first}. It is not known whether it is part of a longer take, so it stays a clip of its own`
      : `${first} (${plural(others.length, 'other')} likewise). It is not known whether they are parts of longer takes, so each stays a clip of its own`,
  ];
}

/** What tells whether files belong to one take: their rate, length, start and clock, by path; and why others were not read. */
async function readEvidence(
  entries: readonly FoundEntry[],
  at: DiskPath,
  job: Job,
): Promise<{ evidence: Map<string, TakeEvidence>; unread: Map<string, string> }> {
  const evidence = new Map<string, TakeEvidence>();
  const unread = new Map<string, string>();
  const reading = new PQueue({ concurrency: 2 });
  await reading.addAll(
    entries.map(({ path, size, modified }) => async () => {
      const read = await readStatements(
        {
          kind: typeOf(path, job.intake.types) === 'sound' ? 'sound' : 'video',
          files: [{ role: 'original', file: joinPath(at, path), size, modified }],
        },
        { zoneMinutes: job.zoneMinutes, stillsRate: 25, limit: lookLimits.take },
      );
      if (read.fault !== null) unread.set(path, read.fault);
      const facts = chooseFacts(
        read.statements.filter((s) => s.source !== 'clock' && s.source !== 'fileTime'),
      );
      const start = facts.get('start')?.chosen.value;
      const began = facts.get('recordedAt')?.chosen.value;
      evidence.set(path, {
        rate: rateOf(facts),
        frames: count(facts, 'frames'),
        start: start?.type === 'timecode' ? start.timecode.frame : null,
        began: began?.type === 'moment' ? Date.parse(`${began.moment.local}Z`) / 1000 : null,
      });
    }),
  );
  return { evidence, unread };
}
