import { and, eq, inArray } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { NO_BRIEF } from '../../core/facts';
import { shownPath } from '../../core/platform/names';
import { parseTimecode } from '../../core/platform/timecode/timecode';
import { plural } from '../../core/platform/words';
import { agreement, type Found, matchFound, type Original, VIDEO } from '../../core/proxies/adopt';
import type { Adopt, AdoptionView, AdoptSearch } from '../../core/proxies/shapes';
import { clipName, clipsOf, standsNew } from '../cards';
import { clips, files } from '../cards/tables';
import { shown } from '../facts/tables';
import { writeLog } from '../logbook';
import { NotFound, Refused } from '../platform/errors';
import { unreadWhy } from '../platform/files/faults';
import { sampleOf } from '../platform/files/hash';
import { OWN_FOLDER } from '../platform/files/journal';
import { modifiedOf } from '../platform/files/move';
import { joinPath } from '../platform/files/names';
import { lstat } from '../platform/files/onDisk';
import { resolveIn } from '../platform/files/paths';
import { walk } from '../platform/files/walk';
import { alone, type TaskContext } from '../platform/work/context';
import { rootById } from '../places';
import type { InJob } from './ports';
import { decideByPictures } from './adoptByPictures';
import { provePairsOf, proxyFacts } from './provePairs';

/** The job's clips that were read, as files are matched with them. */
async function originalsOf(runtime: InJob): Promise<(Original & { name: string; size: number })[]> {
  const rows = await runtime.db
    .select({
      id: clips.id,
      card: clips.card,
      original: clips.original,
      brief: shown.brief,
      path: files.path,
      suffix: files.suffix,
      size: files.size,
    })
    .from(clips)
    .innerJoin(shown, eq(shown.clip, clips.id))
    .innerJoin(files, and(eq(files.clip, clips.id), eq(files.role, 'original')))
    .where(and(eq(clips.job, runtime.job), eq(clips.state, 'read'), eq(clips.kind, 'video')));
  return rows.map(({ id, card, original, brief, path, suffix, size }) => {
    const { rate, frames, start, startFrame } = brief ?? NO_BRIEF;
    const name = clipName({ path, suffix }, original);
    return {
      id,
      card,
      name,
      size,
      names: [name, original],
      facts: {
        frames,
        rate,
        // The time of day that stands in for a timecode is none.
        start: rate && start !== null && startFrame !== null ? parseTimecode(start, rate) : null,
      },
    };
  });
}

/** Safe copies hold originals, and nothing else is looked for in them. */
async function rootForAdopting(runtime: InJob, id: string) {
  const root = await rootById(runtime, id);
  if (root.kind === 'safe')
    throw new Refused(`“${root.name}” holds safe copies: there are no proxies to adopt.`, {
      next: 'Choose another place.',
    });
  return root;
}

/** Looks below a folder for proxies of the job's clips: reads every video file that is of no clip yet, and matches it. Nothing is changed. */
export async function lookForProxies(
  runtime: InJob,
  { root: id, path: at }: AdoptSearch,
  task: TaskContext = alone(),
): Promise<AdoptionView> {
  const root = await rootForAdopting(runtime, id);
  const folder = await resolveIn(root, at);
  const known = new Set(
    (await runtime.db.select({ path: files.path }).from(files).where(eq(files.root, id))).map((f) => f.path),
  );
  const below = (path: string) => (at === '' ? path : `${at}/${path}`);
  const { entries } = await walk(folder);
  const candidates = entries
    .filter((e) => e.kind === 'file' && VIDEO.test(e.path) && !e.path.split('/').includes(OWN_FOLDER))
    .map((e) => ({ path: below(e.path), size: e.size }))
    .filter((f) => !known.has(f.path));
  const found: Found[] = [];
  const none: AdoptionView['none'] = [];
  const fileOf = new Map(candidates.map((f) => [f.path, { ...f, shown: shownPath(f.path) }]));
  for (const [i, { path }] of candidates.entries()) {
    if (task.stopped()) throw new Refused('Looking for proxies was stopped.');
    try {
      found.push({ id: path, path, facts: await proxyFacts(joinPath(root.path, path)) });
    } catch (e) {
      none.push({ file: fileOf.get(path)!, because: unreadWhy(e) });
    }
    task.progress(i + 1, candidates.length);
  }
  const originals = await originalsOf(runtime);
  const clipOf = new Map(originals.map((o) => [o.id, { clip: o.id, name: shownPath(o.name), card: o.card }]));
  // A file as large as an original that it could be a proxy of is that original once more, whatever it is called.
  const bySize = new Map<number, Original[]>();
  for (const o of originals) bySize.set(o.size, [...(bySize.get(o.size) ?? []), o]);
  const isCopy = ({ path, facts }: Found): boolean =>
    (bySize.get(fileOf.get(path)!.size) ?? []).some((o) => agreement(o.facts, facts) !== 'differs');
  for (const f of found.filter(isCopy))
    none.push({ file: fileOf.get(f.path)!, because: 'it is as large as the original: a copy of it' });
  const own = found.filter((f) => !isCopy(f));
  const out = await decideByPictures(
    runtime,
    matchFound(originals, own),
    { originals, found: own, place: (file) => joinPath(root.path, file) },
    task,
  );
  return {
    looked: candidates.length,
    rules: out.rules,
    pairs: out.pairs.map((p) => ({ file: fileOf.get(p.found)!, of: clipOf.get(p.original)!, by: p.by })),
    open: out.open.map((o) => ({
      files: o.found.map((f) => fileOf.get(f)!),
      of: o.originals.map((c) => clipOf.get(c)!),
      because: o.because,
    })),
    none: [
      ...out.differs.map((d) => ({ file: fileOf.get(d.found)!, because: d.because })),
      ...out.rest.map((f) => ({
        file: fileOf.get(f)!,
        because: 'no clip of the job has this name, timecode or pictures',
      })),
      ...none,
    ],
  };
}

/** Takes files as proxies of clips: they stay where they are, and each pair is proven. One that is a clip's already is refused, and nothing is taken. */
export async function adopt(runtime: InJob, { root: id, pairs }: Adopt): Promise<{ adopted: number }> {
  const root = await rootForAdopting(runtime, id);
  const mine = new Map(
    (
      await runtime.db
        .select({ id: clips.id, original: clips.original })
        .from(clips)
        .where(
          and(
            inArray(clips.id, clipsOf(runtime.db, runtime.job)),
            inArray(clips.id, [...new Set(pairs.map((p) => p.clip))]),
          ),
        )
    ).map((c) => [c.id, c.original]),
  );
  const rows: (Parameters<typeof standsNew>[1] & { path: string })[] = [];
  for (const { path, clip } of pairs) {
    if (!mine.has(clip)) throw new NotFound('The clip is no longer in the job.');
    const at = await resolveIn(root, path);
    if (!(await lstat(at)).isFile())
      throw new Refused(`${shownPath(path)} is not a regular file.`, { file: path });
    const stat = await modifiedOf(at);
    rows.push({
      id: randomUUID(),
      clip,
      role: 'proxy' as const,
      root: id,
      path,
      suffix: '',
      takenRoot: id,
      takenPath: path,
      ...stat,
      sample: await sampleOf(at, stat.size),
    });
  }
  await runtime.exclusively(() =>
    runtime.db.transaction(async (tx) => {
      for (const row of rows) {
        const [owner] = await tx
          .select({ id: files.id })
          .from(files)
          .where(and(eq(files.root, id), eq(files.path, row.path)));
        if (owner)
          throw new Refused(`${shownPath(row.path)} is a file of a clip already.`, {
            file: row.path,
            next: 'Look for proxies again.',
          });
        await standsNew(tx, row);
      }
    }),
  );
  for (const clip of mine.keys()) await provePairsOf(runtime, clip, { decoding: false });
  await runtime.queue.begin({ job: runtime.job, kind: 'prove', wanted: [...mine.keys()] });
  await writeLog(runtime, 'pair', `Adopted ${plural(rows.length, 'proxy', 'proxies')} in ${root.name}`);
  runtime.events.changed('clips', 'cards', 'log');
  return { adopted: rows.length };
}
