import { eq } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { type Analysis, KeptSampled, packSampled, type Sampled, Waveform } from '../../core/analysis';
import { joinPath } from '../platform/files/names';
import { mkdir, readText, rename, writeFile } from '../platform/files/onDisk';
import type { Ports } from './ports';
import { analyses } from './tables';

/** What of a clip is kept in the cache, from which it can be made again. */
const CACHED = {
  filmstrips: 'jpg',
  first: 'jpg',
  middle: 'jpg',
  last: 'jpg',
  posters: 'jpg',
  waveforms: 'json',
  samples: 'json',
} as const;

/** Where it is kept. */
export const cached = (runtime: Pick<Ports, 'home'>, what: keyof typeof CACHED, clip: string): string =>
  joinPath(runtime.home, 'cache', what, `${clip}.${CACHED[what]}`);

/** Makes the folder of what is kept, and gives a name beside it under which it is made. */
export async function making(
  runtime: Pick<Ports, 'home'>,
  what: keyof typeof CACHED,
  clip: string,
): Promise<string> {
  const to = cached(runtime, what, clip);
  await mkdir(joinPath(to, '..'));
  return to.replace(/\.[a-z]+$/, '.part$&');
}

async function keep(
  runtime: Pick<Ports, 'home'>,
  what: keyof typeof CACHED,
  clip: string,
  contents: unknown,
): Promise<void> {
  // Two files may be made of one clip at once.
  const part = `${await making(runtime, what, clip)}-${randomUUID()}`;
  await writeFile(part, JSON.stringify(contents));
  await rename(part, cached(runtime, what, clip));
}

async function kept(
  runtime: Pick<Ports, 'home'>,
  what: 'waveforms' | 'samples',
  clip: string,
): Promise<unknown> {
  try {
    return JSON.parse(await readText(cached(runtime, what, clip)));
  } catch {
    return null;
  }
}

/** What a file was when it was looked at: it is another once this is. */
export const stateOf = ({ size, modified }: { size: number; modified: number }): string =>
  `${size}-${modified}`;

/** Keeps what was seen of a clip, and heard of it. `of`: the state of its original. `sampled`: null of sound alone. */
export async function keepSeen(
  runtime: Ports,
  clip: string,
  of: string,
  seen: { analysis: Analysis; sampled: Sampled | null; waveform: Waveform | null },
): Promise<void> {
  if (seen.sampled) await keepSamples(runtime, clip, of, seen.sampled);
  if (seen.waveform) await keepWaveform(runtime, clip, seen.waveform);
  const row = { of, seen: seen.analysis, at: new Date() };
  await runtime.db
    .insert(analyses)
    .values({ clip, ...row })
    .onConflictDoUpdate({ target: analyses.clip, set: row });
}

/** Keeps the pictures a clip is known again by. */
export const keepSamples = (
  runtime: Pick<Ports, 'home'>,
  clip: string,
  of: string,
  sampled: Sampled,
): Promise<void> => keep(runtime, 'samples', clip, packSampled(sampled, of));

/** The pictures a clip is known again by, where they are kept, and of its original as it is now. */
export async function keptSamples(
  runtime: Pick<Ports, 'home'>,
  clip: string,
  of: string,
): Promise<Sampled | null> {
  const { data } = KeptSampled.safeParse(await kept(runtime, 'samples', clip));
  return data?.of === of ? { frames: data.frames, pictures: data.pictures } : null;
}

/** Keeps how loud a clip is from its beginning to its end. */
export const keepWaveform = (runtime: Pick<Ports, 'home'>, clip: string, waveform: Waveform): Promise<void> =>
  keep(runtime, 'waveforms', clip, waveform);

/** A clip's waveform, where one is kept. */
export async function waveformOf(runtime: Pick<Ports, 'home'>, clip: string): Promise<Waveform | null> {
  return Waveform.safeParse(await kept(runtime, 'waveforms', clip)).data ?? null;
}

/** What was seen of a clip whose original is as it was then. */
export async function analysisOf(
  runtime: Pick<Ports, 'db'>,
  clip: string,
  of: string,
): Promise<Analysis | null> {
  const [row] = await runtime.db.select().from(analyses).where(eq(analyses.clip, clip));
  return row?.of === of ? row.seen : null;
}
