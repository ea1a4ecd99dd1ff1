import {
  countWays,
  type Finding,
  Mend,
  type Mended,
  type MendRequest,
  rehearse,
  type RehearsalQuery,
  type RehearsalView,
  rewrapWithTimecode,
  Verdict,
} from '../../core/handover';
import { and, inArray } from 'drizzle-orm';
import { addWork, grouped, splitPath } from '../cards';
import { files } from '../cards/tables';
import { among } from '../platform/db/among';
import { actOnPair } from '../proxies';
import { Refused, ShelfError } from '../platform/errors';
import { whyAway } from './away';
import type { InJob } from './ports';
import { clipsToConnect, FILES_CHANGED, type Placed } from './sides';

/** The rehearsal of all clips, kept until clips or their files change. */
const rehearsed = (runtime: InJob) =>
  runtime.viewCache.get(
    `rehearsal of ${runtime.job}`,
    async () => {
      const { clips: tried, unread } = await clipsToConnect(runtime);
      return { tried, unread, findings: rehearse(tried) };
    },
    FILES_CHANGED,
  );

/** How an edit made with each clip meets its original, by the clips' ids. */
export const findingsOf = async (runtime: InJob): Promise<ReadonlyMap<string, Finding>> =>
  new Map((await rehearsed(runtime)).findings.map((f) => [f.clip, f]));

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

/** Removes the proxies that were made here of clips, and queues new ones; what is not ours stays beside them, and so does what cannot be made again now. */
async function makeAgain(runtime: InJob, mine: readonly Placed[]): Promise<Mended> {
  const refused: Mended['refused'] = [];
  const ready: string[] = [];
  const away = await awayOf(
    runtime,
    mine.filter((m) => m.made).map((m) => m.clip),
  );
  for (const { clip, edit, file, made } of mine)
    try {
      const why = away.get(clip);
      if (why !== undefined)
        throw new Refused(`${edit.name} was kept, for it cannot be made again now: ${why}.`);
      if (made) await actOnPair(runtime, { action: 'remove', file: file! });
      ready.push(clip);
    } catch (e) {
      if (!(e instanceof ShelfError)) throw e;
      refused.push({ name: edit.name, why: e.message });
    }
  return { begun: (await addWork(runtime, 'proxy', ready)).added, refused };
}

/** Of clips of which not every file that they are made from can be had: why. */
async function awayOf(runtime: InJob, ids: readonly string[]): Promise<Map<string, string>> {
  const needed = await runtime.db
    .select()
    .from(files)
    .where(and(among(files.clip, ids), inArray(files.role, ['original', 'segment', 'still', 'sound'])));
  const whys = await whyAway(runtime, needed);
  return new Map(
    needed.flatMap((f, i) => {
      const why = whys[i] ?? null;
      return why === null ? [] : [[f.clip, why] as const];
    }),
  );
}
