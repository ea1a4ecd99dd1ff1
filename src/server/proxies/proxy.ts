import path from 'node:path';
import { type Beside, lookArguments, NOTHING_BESIDE, recipeArguments } from '../../core/proxies/arguments';
import { fps, type Rate } from '../../core/platform/timecode/rate';
import type { Cut } from '../../core/proxies/part';
import { LIGHT, type Recipe } from '../../core/proxies/recipe';
import type { Part } from '../../core/proxies/shapes';
import type { ProxySource } from '../../core/proxies/source';
import { formatBytes } from '../../core/platform/words';
import { Unreadable } from '../platform/errors';
import { freeBytes, LEAST_ROOM } from '../platform/files/onDisk';
import { nameOf } from '../platform/media/input';
import { asInput, keepFrames } from '../platform/media/tools';
import { sentTo } from '../platform/media/ways';
import { Halted } from '../platform/work/kinds';
import { type HeardAlone, heardAlone, hearing, looking, type Seen, type Stills } from './look';
import { counting, FfmpegFailed, findFrame, FIRST_PIPE, type Inputs, runFfmpeg, withInputs } from './run';

/** Throws where the volume of a folder has no room for so many bytes: the work is paused until a person has made some, and says so. */
export async function pauseWithoutRoom(folder: string, bytes: number): Promise<void> {
  const free = await freeBytes(folder);
  if (free >= bytes + LEAST_ROOM) return;
  const needed = bytes === 0 ? '' : `, and at least ${formatBytes(bytes)} are needed`;
  throw new Halted(
    'paused',
    `The volume of ${folder} is full: ${formatBytes(free)} are free${needed}. Make room there, then resume.`,
  );
}

export interface ProxyProgress {
  /** 0 to 1. */
  done: number;
  /** Seconds of footage per second of work so far. */
  speed: number;
}

/** Tells how far FFmpeg is, out of the lines it writes. */
function progressOf({ frames, rate }: ProxySource, tell: (p: ProxyProgress) => void) {
  const begun = performance.now();
  const length = (frames * rate.den) / rate.num;
  const speedAt = (share: number) => (length * share) / Math.max(0.001, (performance.now() - begun) / 1000);
  const onLine = (line: string): void => {
    const m = /^frame=\s*(\d+)/.exec(line);
    if (!m) return;
    const done = Math.min(1, Number(m[1]) / Math.max(1, frames));
    tell({ done, speed: speedAt(done) });
  };
  return { onLine, speedAt };
}

/**
 * Looks at and listens to a clip of which nothing is made; its filmstrip and poster are written. Throws Unreadable where not all of it can be
 * decoded.
 */
export async function watchThrough(
  inputs: Inputs,
  source: ProxySource,
  stills: Stills,
  { signal, onProgress }: { signal: AbortSignal; onProgress: (p: ProxyProgress) => void },
): Promise<Seen> {
  const keep = await keepFrames();
  const look = looking(source, keep, stills);
  const filters = lookArguments(LIGHT, source, look.branches);
  const { onLine } = progressOf(source, onProgress);
  try {
    await withInputs(inputs, (args) =>
      runFfmpeg(['-y', ...args, ...filters, ...look.outputs], { signal, onLine, pipes: look.pipes }),
    );
  } catch (e) {
    if (!(e instanceof FfmpegFailed)) throw e;
    await pauseWithoutRoom(path.dirname(stills.filmstrip), 0);
    throw new Unreadable(`${nameOf(inputs[0])} could not be checked: ${e.message}`);
  }
  const seen = look.seen();
  if (seen.frames < source.frames)
    throw new Unreadable(`Of ${nameOf(inputs[0])} ${seen.frames} of ${source.frames} frames can be decoded.`);
  return seen;
}

/** A recording of sound: its channels by file and stream, the frames its stretches are counted in, and its seconds where they are known to the sample. */
export interface SoundSource {
  audio: ProxySource['audio'];
  frames: number;
  rate: Rate;
  exact: number | null;
}

/** Listens to a recording of sound. Throws Unreadable where not all of it can be decoded. */
export async function listenThrough(
  inputs: Inputs,
  { audio, frames, rate, exact }: SoundSource,
  { signal, onProgress }: { signal: AbortSignal; onProgress: (p: ProxyProgress) => void },
): Promise<HeardAlone> {
  const listening = hearing(audio, FIRST_PIPE);
  const length = frames / fps(rate);
  const begun = performance.now();
  const onLine = (line: string): void => {
    const m = /^out_time_us=\s*(\d+)/.exec(line);
    if (!m) return;
    const heard = Number(m[1]) / 1e6;
    const speed = heard / Math.max(0.001, (performance.now() - begun) / 1000);
    onProgress({ done: Math.min(1, heard / length), speed });
  };
  const name = nameOf(inputs[0]);
  try {
    await withInputs(inputs, (args) =>
      runFfmpeg([...args, ...listening.outputs], { signal, onLine, pipes: listening.pipes }),
    );
  } catch (e) {
    if (!(e instanceof FfmpegFailed)) throw e;
    throw new Unreadable(`${name} could not be checked: ${e.message}`);
  }
  const seen = heardAlone(listening, frames, rate);
  if (seen === null) throw new Unreadable(`${name} has no sound that can be listened to.`);
  // Of what is not kept sample by sample the length that is stated may be an estimate.
  const heard = seen.waveform.length;
  if (exact !== null && heard < exact - 1 / fps(rate))
    throw new Unreadable(`Of ${name} ${heard.toFixed(1)} of ${exact.toFixed(1)} seconds can be decoded.`);
  return seen;
}

/** A source whose picture is read from an input of its own, before all those that its sound is in. */
const soundApart = (source: ProxySource): ProxySource => ({ ...source, audio: [[], ...source.audio] });

/** What of an input is taken without re-encoding it: of the first its picture, of the others their sound. */
const taken = ({ from, pictures, sound }: Cut, input: number): string[] => {
  const length = input === 0 ? pictures : sound;
  return ['-ss', from.toFixed(6), ...(length === null ? [] : ['-t', length.toFixed(6)])];
};

/**
 * Makes what a recipe says at `to` (which must not exist); what it needs beside lies in the folder of `to`. Reports progress about twice a
 * second. With `stills` the clip is looked at and listened to in the same run, and its filmstrip and poster are written there; nothing is
 * seen in a rewrap, which decodes nothing. Aborting the signal ends FFmpeg and rejects; what it wrote so far is left for the caller to remove.
 */
export async function makeProxy(
  inputs: Inputs,
  to: string,
  recipe: Recipe,
  source: ProxySource,
  options: {
    signal: AbortSignal;
    onProgress: (p: ProxyProgress) => void;
    beside?: Beside;
    stills?: Stills;
    /** Only so much of it; `source` is that of the part. */
    part?: Part | null;
    /** Where that is cut, of what is not re-encoded. */
    cut?: Cut | null;
    /** Whether a person waits for it. */
    waitedFor?: boolean;
  },
): Promise<{ speed: number; seen: Seen | null }> {
  const { beside = NOTHING_BESIDE, signal, part = null, cut = null, waitedFor = false } = options;
  const keep = await keepFrames();
  const copied = recipe.video.codec === 'copy';
  const look = options.stills && !copied ? looking(source, keep, options.stills) : null;
  const place = part && !copied ? await findFrame(inputs[0], part.from, source, { signal, waitedFor }) : null;
  const making = recipeArguments(
    recipe,
    cut ? soundApart(source) : source,
    keep,
    beside,
    look?.branches,
    place?.shown,
  );
  const counts = part !== null && place?.sent === 0;
  const end = cut
    ? ['-copypriorss:v', '0']
    : part && copied
      ? ['-frames:v', String(source.frames), '-t', String(source.frames / fps(source.rate))]
      : [];
  const seek = (input: number): string[] => (cut ? taken(cut, input) : sentTo(place?.sent ?? 0));
  const folder = path.dirname(to);
  const { onLine, speedAt } = progressOf(source, options.onProgress);
  try {
    await withInputs(
      cut ? [inputs[0], ...inputs] : inputs,
      (args) =>
        runFfmpeg(
          [
            '-n',
            ...args,
            ...making,
            ...end,
            asInput(to),
            ...(look?.outputs ?? []),
            ...(counts ? counting.args(part.to, keep) : []),
          ],
          {
            ...{ cwd: folder, signal, onLine, waitedFor },
            ...(look ? { pipes: look.pipes } : counts ? { pipes: counting.pipes } : {}),
          },
        ),
      seek,
    );
  } catch (e) {
    if (!(e instanceof FfmpegFailed)) throw e;
    const what = `No ${recipe.purpose} could be made of ${nameOf(inputs[0])}`;
    await pauseWithoutRoom(folder, 0);
    throw new Unreadable(`${what}: ${e.message}`);
  }
  return { speed: speedAt(1), seen: look?.seen() ?? null };
}
