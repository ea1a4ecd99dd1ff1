import { createHash } from 'node:crypto';
import path from 'node:path';
import PQueue from 'p-queue';
import { typeOf } from '../../core/intake/shape';
import { chooseFacts, count, matrixOf, rateOf, startOf, text } from '../../core/facts';
import { browserPlays } from '../../core/proxies';
import type { FileQuery } from '../../core/places';
import type { LookedFacts } from '../../core/intake/shapes';
import { formatTimecode, seconds } from '../../core/platform/timecode/timecode';
import { isCode, NotFound, Refused, Unreadable } from '../platform/errors';
import { resolveIn } from '../platform/files/paths';
import { withDecodable, writeFilmstrip } from '../analysis';
import { preview, type Source } from '../viewing';
import type { InJob } from './ports';
import { requireJob } from '../jobs';
import { readStatements } from '../reading';
import { kindOnDisk } from '../platform/media/probe';
import { rootById } from '../places';
import { joinPath } from '../platform/files/names';
import { mkdir, readFile, rename, stat } from '../platform/files/onDisk';

// What the person sees of a file before it is taken in. Nothing is stored but pictures, in the cache.

/** Cards are read by few at a time: a reader that must jump about is slow. */
const reading = new PQueue({ concurrency: 2 });

interface Found {
  file: string;
  kind: 'video' | 'still' | 'sound';
  size: number;
  modified: number;
}

async function find(runtime: InJob, { root, path: at }: FileQuery): Promise<Found> {
  const job = await requireJob(runtime);
  const listed = typeOf(at, job.intake.types);
  const file = await resolveIn(await rootById(runtime, root), at);
  const s = await stat(file).catch((e: unknown) => {
    if (isCode(e, 'ENOENT', 'ENOTDIR', 'ENODEV', 'EIO'))
      throw new NotFound(`${path.basename(at)} is no longer there.`, {
        file,
        next: 'Put the card back, or look at the folder again.',
      });
    throw e;
  });
  // A camera's own proxy may be of a type that is not on the list: its contents tell.
  const type = listed ?? ((await kindOnDisk(file))?.holds === 'video' ? 'video' : null);
  if (type === null)
    throw new Refused(`${path.basename(at)} is not footage according to the list of file types.`, {
      file: at,
    });
  return { file, kind: type === 'raw' ? 'still' : type, size: s.size, modified: s.mtimeMs };
}

async function read(
  runtime: InJob,
  found: Found,
): Promise<{ facts: ReturnType<typeof chooseFacts>; fault: string | null }> {
  const { zoneMinutes, intake } = await requireJob(runtime);
  const { statements, fault } = await readStatements(
    { kind: found.kind, files: [{ ...found, role: 'original' }] },
    { zoneMinutes, stillsRate: intake.stillsRate },
  );
  return { facts: chooseFacts(statements), fault };
}

const plays = (facts: ReturnType<typeof chooseFacts>): boolean =>
  browserPlays({
    container: text(facts, 'container'),
    codec: text(facts, 'codec'),
    chroma: text(facts, 'chroma'),
    bitDepth: count(facts, 'bitDepth'),
    audioCodec: text(facts, 'audioCodec'),
  });

/** Length, rate and the like of one file. */
export const factsOf = (runtime: InJob, query: FileQuery): Promise<LookedFacts> =>
  reading.add(async () => {
    const found = await find(runtime, query);
    const { facts, fault } = await read(runtime, found);
    const [rate, frames, start] = [rateOf(facts), count(facts, 'frames'), startOf(facts)];
    const [samples, sampleRate] = [count(facts, 'samples'), count(facts, 'sampleRate')];
    const recorded = facts.get('recordedAt')?.chosen.value;
    return {
      seconds:
        rate && frames !== null
          ? seconds(frames, rate)
          : samples !== null && sampleRate
            ? samples / sampleRate
            : null,
      rate,
      start: start ? formatTimecode(start) : null,
      recordedAt: recorded?.type === 'moment' ? recorded.moment.local : null,
      codec: text(facts, 'codec') ?? text(facts, 'audioCodec'),
      width: count(facts, 'width'),
      height: count(facts, 'height'),
      channels: count(facts, 'channels'),
      fault,
    };
  });

/** The filmstrip of a video, or the picture of a still, as a JPEG; kept in the cache under what the file is now. */
export const stripOf = (runtime: InJob, query: FileQuery): Promise<Uint8Array> =>
  reading.add(async () => {
    const found = await find(runtime, query);
    if (found.kind === 'sound') throw new Refused('A sound recording has no picture.', { file: found.file });
    const key = createHash('sha1').update([found.file, found.size, found.modified].join('\0')).digest('hex');
    const kept = joinPath(runtime.home, 'cache', 'looks', `${key}.jpg`);
    const there = await readFile(kept).catch(() => null);
    if (there) return there;
    const { facts, fault } = await read(runtime, found);
    if (fault !== null) throw new Unreadable(fault, { file: found.file });
    const [rate, frames] = [rateOf(facts), count(facts, 'frames')];
    await mkdir(path.dirname(kept));
    const part = `${kept}.part.jpg`;
    const pictures = found.kind === 'video' && frames ? frames : 1;
    const matrix = found.kind === 'video' ? matrixOf(facts) : 'auto';
    await withDecodable(found.file, (shown) =>
      writeFilmstrip(shown, { frames: pictures, rate: rate ?? { num: 25, den: 1 }, matrix }, part),
    );
    await rename(part, kept);
    return readFile(kept);
  });

/** A file that the browser plays as it is, or else what makes a light stream of it while it plays. */
export async function playable(
  runtime: InJob,
  query: FileQuery,
): Promise<{ file: string; type: string } | { preview: () => Promise<Source> }> {
  const found = await find(runtime, query);
  if (found.kind === 'sound') return { file: found.file, type: 'audio/wav' };
  if (found.kind === 'still') throw new Refused('A still cannot be played.', { file: found.file });
  const { facts, fault } = await read(runtime, found);
  if (fault !== null) throw new Unreadable(fault, { file: found.file });
  if (plays(facts)) return { file: found.file, type: 'video/mp4' };
  return { preview: () => preview(found.file, matrixOf(facts)) };
}
