import { areAlike, compare, type Sampled, sampledFrames } from '../../core/analysis';
import { type Adoption, agreement, type Found, type Original } from '../../core/proxies/adopt';
import { samplePictures } from '../analysis';
import type { TaskContext } from '../platform/work/context';
import type { InJob } from './ports';
import { samplesOf } from './provePairs';

/** Originals that the pictures of one file are compared with at most. */
const MOST = 24;

/** How far from 1 the correlation of another one at least is, and how many times as far as that of the nearest, so that it is not in question. */
const NEAR = { off: 0.02, times: 4 };

/** Files that are of the same originals, as far as their pictures tell. */
function together(files: readonly string[], of: (file: string) => readonly string[]): string[][] {
  const groups = new Map<string, string[]>();
  for (const file of files) {
    const key = JSON.stringify(of(file));
    groups.set(key, [...(groups.get(key) ?? []), file]);
  }
  return [...groups.values()];
}

/** Pictures that say nothing, as of black, are like all others. */
const tells = (s: Sampled): boolean => {
  const own = compare(s, s);
  return own !== null && own.worst !== null;
};

/**
 * Decides by pictures what names and timecode left open: files of nobody that are as long and as fast as an original, and files that could be
 * of several. Certain is a file whose pictures are those of one original, which no other file's are; all else stays as it was.
 */
export async function decideByPictures(
  runtime: InJob,
  out: Adoption,
  of: { originals: readonly Original[]; found: readonly Found[]; place: (file: string) => string },
  task: TaskContext,
): Promise<Adoption> {
  const taken = new Set(out.pairs.map((p) => p.original));
  const originals = new Map(of.originals.filter((o) => !taken.has(o.id)).map((o) => [o.id, o]));
  const files = new Map(of.found.map((f) => [f.id, f]));
  const kept = new Map<string, Sampled | null>();
  const original = async (o: Original): Promise<Sampled | null> => {
    if (!kept.has(o.id))
      kept.set(o.id, await samplesOf(runtime, o.id, { ...o.facts, channels: null }, null).catch(() => null));
    return kept.get(o.id)!;
  };
  /** Which of some originals show what a file does; null where that cannot be told. */
  const alike = async (file: Found, some: readonly Original[]): Promise<string[] | null> => {
    const { frames, rate } = file.facts;
    if (frames === null || !rate || some.length === 0 || some.length > MOST) return null;
    const numbers = sampledFrames(frames).filter((_, i) => i % 2 === 0);
    const pictures = await samplePictures(of.place(file.path), numbers, { frames, rate }).catch(() => null);
    if (!pictures || !tells(pictures)) return null;
    const fit: { id: string; off: number }[] = [];
    for (const o of some) {
      const compared = compare((await original(o)) ?? { frames: [], pictures: [] }, pictures);
      if (!compared) return null;
      if (areAlike(compared)) fit.push({ id: o.id, off: 1 - (compared.worst?.correlation ?? 1) });
    }
    // Takes of one set-up are much alike: only one that is much nearer than all others is told from them.
    const near = Math.max(NEAR.off, NEAR.times * Math.min(...fit.map((f) => f.off)));
    return fit.filter((f) => f.off <= near).map((f) => f.id);
  };
  const fitting = (f: Found): Original[] =>
    [...originals.values()].filter((o) => agreement(o.facts, f.facts) === 'same');
  const asked = [
    ...out.rest.map((id) => ({ file: files.get(id)!, some: fitting(files.get(id)!) })),
    ...out.open.flatMap((o) =>
      o.found.map((id) => ({
        file: files.get(id)!,
        some: o.originals.flatMap((c) => originals.get(c) ?? []),
      })),
    ),
  ];
  const shown = new Map<string, string[]>();
  for (const [i, { file, some }] of asked.entries()) {
    if (task.stopped()) break;
    const fit = await alike(file, some);
    if (fit) shown.set(file.id, fit);
    task.progress(i + 1, asked.length);
  }
  const claims = new Map<string, number>();
  for (const fit of shown.values()) for (const id of fit) claims.set(id, (claims.get(id) ?? 0) + 1);
  const sure = new Map(
    [...shown].flatMap(([file, [only, ...more]]) =>
      only !== undefined && more.length === 0 && claims.get(only) === 1 ? [[file, only]] : [],
    ),
  );
  const undecided = (file: string): boolean => (shown.get(file)?.length ?? 0) > 0 && !sure.has(file);
  return {
    ...out,
    pairs: [
      ...out.pairs,
      ...[...sure].map(([found, id]) => ({ found, original: id, by: 'pictures' as const })),
    ],
    open: [
      ...out.open.flatMap((o) => {
        const found = o.found.filter((f) => !sure.has(f));
        return found.length === 0 ? [] : [{ ...o, found }];
      }),
      ...together(out.rest.filter(undecided), (file) => shown.get(file)!).map((found) => ({
        found,
        originals: shown.get(found[0]!)!,
        because: 'the same pictures are in several of these',
      })),
    ],
    rest: out.rest.filter((f) => !sure.has(f) && !undecided(f)),
  };
}
