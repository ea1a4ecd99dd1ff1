import { execa, ExecaError } from 'execa';
import * as z from 'zod';
import type { DiskPath } from '../../../core/platform/names';
import {
  decodeText,
  type FileKind,
  HEAD,
  isReadHere,
  kindOf,
  noKind,
  ProbeOutput,
} from '../../../core/facts';
import type { KeyFrame } from '../../../core/proxies';
import { Unreadable } from '../errors';
import { lstat } from '../files/onDisk';
import { headOf, openPlain, readPlain } from '../files/plainFile';
import { type Footage, nameOf, withInput } from './input';
import { FFPROBE, lastWords, limited } from './tools';

/** How long ffprobe may take for what a file states, in milliseconds (shorter in tests), and how slow a pass over all of it may be, in bytes each. */
export const probeLimits = { milliseconds: 60_000, slowest: 5000 };
/**
 * The same while somebody waits for what a card is: for what tells whether files are one take, and for what only a suggestion follows from.
 * It looks through all of an MXF file that has zeros behind it, for one.
 */
export const lookLimits = { take: 20_000, suggestion: 5000 };

/** How long a pass over files may take, milliseconds. */
async function passLimit(files: readonly DiskPath[]): Promise<number> {
  const sizes = await Promise.all(files.map(async (f) => (await lstat(f)).size));
  return probeLimits.milliseconds + sizes.reduce((a, b) => a + b, 0) / probeLimits.slowest;
}

/**
 * What ffprobe says of a file. `count` has every stream's packets counted, one pass over the whole file; else the
 * container's own count stands. `limit`: milliseconds that it may take, else those of `probeLimits`. Throws Unreadable with ffprobe's
 * reason, also where it takes longer than its limit.
 */
export async function probe(
  file: DiskPath,
  options: { count?: boolean; limit?: number } = {},
): Promise<ProbeOutput> {
  const output = ProbeOutput.safeParse(
    parseJson(
      await ffprobe(
        file,
        ['-show_format', '-show_streams', ...(options.count ? ['-count_packets'] : []), '-of', 'json'],
        options.count ? await passLimit([file]) : (options.limit ?? probeLimits.milliseconds),
      ),
    ),
  );
  if (!output.success)
    throw new Unreadable(`${nameOf(file)}: ffprobe's answer was not understood.`, { file });
  return output.data;
}

/** What ffprobe prints of a file, at most so many milliseconds later. */
async function ffprobe(file: Footage | DiskPath, asked: readonly string[], limit: number): Promise<string> {
  try {
    return await withInput(file, async ({ args }) => {
      const { stdout } = await execa(...limited(FFPROBE(), ['-v', 'error', ...asked, ...args]), {
        timeout: limit,
        forceKillAfterDelay: 2000,
        maxBuffer: 64 << 20,
      });
      return stdout;
    });
  } catch (e) {
    if (e instanceof ExecaError) {
      const why = e.timedOut
        ? `it took longer than ${Math.ceil(limit / 100) / 10} s to read`
        : plainReason(lastWords(e.stderr));
      throw new Unreadable(`${nameOf(file)} cannot be read: ${why}`, {
        file: typeof file === 'string' ? file : (file.files[0] ?? ''),
        next: 'Copy it again from the card if you still have it.',
      });
    }
    throw e;
  }
}

/** A clip's first picture. */
export interface FirstPicture {
  /** When it is shown: seconds from the container's start, which is that of the stream that begins first. */
  at: number;
  /** By how many frames pictures are decoded before they are shown. */
  delay: number;
  /** Whether each picture says when it is shown: in some containers a few do, and of the others the decoder reckons it from where it began. */
  timed: boolean;
}
const FirstShown = z.object({
  frames: z.array(z.object({ best_effort_timestamp_time: z.coerce.number() })),
  streams: z.array(z.object({ has_b_frames: z.number().default(0) })),
  format: z.object({ start_time: z.coerce.number().default(0), format_name: z.string() }),
});
/** Containers in which pictures do not all say when they are shown, by FFmpeg's names: program streams (H.222.0), and of reordered ones AVI. */
const [UNTIMED, UNTIMED_REORDERED] = ['mpeg', 'avi'];
/** Packets that are decoded until a picture comes: the first may be left out by an edit list, or need what is not there. */
const PACKETS = [1, 100, 2000];

/** The first picture of a file as it is decoded. Throws Unreadable where there is none, or with ffprobe's reason. */
export async function firstPicture(file: DiskPath): Promise<FirstPicture> {
  for (const packets of PACKETS) {
    const said = await ffprobe(
      file,
      [
        ...['-select_streams', 'v:0', '-read_intervals', `%+#${packets}`, '-show_frames'],
        '-show_entries',
        'frame=best_effort_timestamp_time:stream=has_b_frames:format=start_time,format_name',
        ...['-of', 'json'],
      ],
      probeLimits.milliseconds,
    );
    const { data } = FirstShown.safeParse(parseJson(said));
    const [stream, frame] = [data?.streams[0], data?.frames[0]];
    if (!data || !stream || !frame) continue;
    const { start_time: start, format_name: container } = data.format;
    const delay = stream.has_b_frames;
    const timed = container !== UNTIMED && (container !== UNTIMED_REORDERED || delay === 0);
    return { at: frame.best_effort_timestamp_time - start, delay, timed };
  }
  throw new Unreadable(`${nameOf(file)}: no picture could be decoded`, { file });
}

const Counted = z.object({
  streams: z.array(
    z.object({
      nb_frames: z.coerce.number().int().positive(),
      duration: z.coerce.number(),
      r_frame_rate: z.string(),
    }),
  ),
});

/** How many frames a file has, as its index says; null where it has none, or shows less than what is in it. Throws Unreadable with ffprobe's reason. */
export async function framesInIndex(file: DiskPath): Promise<number | null> {
  const asked = ['-select_streams', 'v:0', '-show_entries', 'stream=nb_frames,duration,r_frame_rate'];
  const said = parseJson(await ffprobe(file, [...asked, '-of', 'json'], probeLimits.milliseconds));
  const stream = Counted.safeParse(said).data?.streams[0];
  if (!stream) return null;
  const [num, den] = stream.r_frame_rate.split('/').map(Number) as [number, number];
  return Math.abs((stream.duration * num) / den - stream.nb_frames) < 0.5 ? stream.nb_frames : null;
}

/**
 * When each frame of a file's picture is shown, seconds from the first, in the order they are shown: one pass over the file. Throws
 * Unreadable with ffprobe's reason.
 */
export async function frameTimes(file: Footage | DiskPath): Promise<number[]> {
  const times = (
    await ffprobe(
      file,
      ['-select_streams', 'v:0', '-show_entries', 'packet=pts_time,flags', '-of', 'csv=p=0'],
      await passLimit(typeof file === 'string' ? [file] : file.files),
    )
  )
    .split('\n')
    .flatMap((line) => {
      const [time = '', flags = ''] = line.split(',');
      // What an edit list leaves out is read and not shown.
      return time === '' || flags.includes('D') || Number.isNaN(Number(time)) ? [] : [Number(time)];
    })
    .sort((a, b) => a - b);
  return times.map((t) => Math.round((t - times[0]!) * 1e6) / 1e6);
}

/**
 * The frames at which a file can be cut without re-encoding it: key frames across which no frame refers to another. Those of an open group, after
 * which frames are decoded that are shown before them, are none. One pass over the file. Times in seconds from the file's start; throws
 * Unreadable with ffprobe's reason.
 */
export async function keyFrames(file: DiskPath): Promise<{ frames: number; keys: KeyFrame[] }> {
  const lines = (
    await ffprobe(
      file,
      [
        ...['-select_streams', 'v:0', '-show_entries', 'format=start_time:packet=pts_time,dts_time,flags'],
        ...['-of', 'csv=p=1'],
      ],
      await passLimit([file]),
    )
  ).split('\n');
  const start = Number(lines.find((l) => l.startsWith('format,'))?.split(',')[1]) || 0;
  const packets = lines.flatMap((line) => {
    const [what, pts = '', dts = '', flags = ''] = line.split(',');
    const at = Number(pts);
    if (what !== 'packet' || pts === '' || Number.isNaN(at) || flags.includes('D')) return [];
    const decoded = Number(dts);
    return [
      {
        ...{ at: at - start, decodedAt: (dts === '' || Number.isNaN(decoded) ? at : decoded) - start },
        isKey: flags.includes('K'),
      },
    ];
  });
  const numbers = new Map(
    packets
      .map((p) => p.at)
      .sort((a, b) => a - b)
      .map((at, n) => [at, n]),
  );
  const keys: KeyFrame[] = [];
  // From the last on: what is decoded after a key frame is shown after it.
  let earliest = Infinity;
  for (const p of packets.toReversed()) {
    if (p.isKey && earliest > p.at)
      keys.push({ frame: numbers.get(p.at)!, at: p.at, decodedAt: p.decodedAt });
    earliest = Math.min(earliest, p.at);
  }
  return { frames: packets.length, keys: keys.reverse() };
}

/** FFmpeg's words for damage, in plain ones; its own where they say more. */
const REASONS: readonly [RegExp, string][] = [
  [/^End of file$/i, 'it ends before its first picture or sound'],
  [/^Invalid argument$/i, 'its header makes no sense, it is damaged'],
  [/^Invalid data found when processing input$/i, 'it is damaged, or not what its name says'],
];
const plainReason = (words: string): string => REASONS.find(([re]) => re.test(words))?.[1] ?? words;

/** `null` for what is no JSON. */
function parseJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

/** A file's first bytes, as many as tell its kind. */
export async function headOnDisk(file: DiskPath): Promise<Buffer> {
  const handle = await openPlain(file);
  try {
    return await headOf(handle, HEAD);
  } finally {
    await handle.close();
  }
}

/** What a file is by its first bytes; `null` for no kind that is known. */
export const kindOnDisk = async (file: DiskPath): Promise<FileKind | null> => kindOf(await headOnDisk(file));

const CUT = 'is cut short: it ends inside its data, the copy was not finished';

/**
 * A quick look at a file whose name says video, without reading it all: is it that, and is it whole? `null` where
 * nothing is wrong, or where nothing here knows its format; else what is, in words. MP4 and MOV are boxes of stated lengths (ISO/IEC 14496-12): a last box that
 * reaches past the end, or no `moov`, means a copy cut short; so does an AVI that states more than there is.
 */
export async function sniff(
  file: DiskPath,
  size: number,
): Promise<{ footage: boolean; fault: string } | null> {
  const handle = await openPlain(file);
  try {
    const start = await headOf(handle, HEAD);
    const kind = kindOf(start);
    if (kind === null && !isReadHere(file))
      return start.every((b) => b === 0) ? { footage: true, fault: noKind(start) } : null;
    if (kind?.holds !== 'video')
      return {
        footage: false,
        fault: `${kind ? `is ${kind.holds === 'sound' ? 'sound' : 'a picture'}` : noKind(start)}, not video, whatever its name says`,
      };
    // RIFF states its length behind its name; a second part of a long file has one of its own. All zeros, or all ones, were never put right.
    const stated = start.length >= 8 ? start.readUInt32LE(4) + 8 : 0;
    if (kind.id === 'avi' && stated !== 8 && stated !== 0xffffffff + 8 && stated > size + 1)
      return { footage: true, fault: CUT };
    if (kind.id !== 'boxes') return null;
    const head = Buffer.alloc(16);
    let at = 0;
    let moov = false;
    for (let n = 0; n < 4096 && at + 8 <= size; n++) {
      const { bytesRead: got } = await handle.read(head, 0, 16, at);
      if (got < 8) break;
      const kind = head.toString('latin1', 4, 8);
      let length = head.readUInt32BE(0);
      if (length === 1 && got >= 16) length = Number(head.readBigUInt64BE(8));
      if (length === 0) length = size - at;
      if (length < 8) break;
      if (kind === 'moov') moov = true;
      if (at + length > size) return { footage: true, fault: CUT };
      at += length;
    }
    return moov
      ? null
      : { footage: true, fault: 'has no index (no moov box): the copy or the recording was cut short' };
  } finally {
    await handle.close();
  }
}

/** Text of a sidecar, at most a megabyte; larger ones are no sidecars. */
export async function readSidecar(file: DiskPath, size: number): Promise<string> {
  if (size > 1 << 20) throw new Unreadable(`${nameOf(file)} is too large for a sidecar.`, { file });
  return decodeText(await readPlain(file, 1 << 20));
}
