import { closeSync, fstatSync, readSync } from 'node:fs';
import {
  CustomSource,
  Input,
  type InputVideoTrack,
  Logging,
  LogLevel,
  MATROSKA,
  MP4,
  QTFF,
  WEBM,
} from 'mediabunny';
import type { DiskPath } from '../../core/platform/names';
import {
  type Movie,
  readMovie,
  Bytes,
  readMatroska,
  readBext,
  readFormat,
  type Wave,
  type ContainerSays,
  type OpenedContainer,
  statementsFromContainer,
  statementsFromWave,
  ixmlRate,
  statementsFromIxml,
} from '../../core/facts';
import type { Rate } from '../../core/platform/timecode/rate';
import { parseXml } from '../platform/media/xml';
import { openPlainSync } from '../platform/files/plainFile';

// What it does not know is left to ffprobe; it need not be printed.
Logging.level = LogLevel.Silent;

/** The largest index that is read into memory, bytes: some 10 hours at 60 fps have 20 MB. */
const MAX_INDEX = 128 << 20;
const MAX_CHUNK = 4 << 20;

export interface ContainerOptions {
  zoneMinutes: number;
  /** What timecode of a sound recording counts at, where it does not say so itself. */
  jobRate: Rate;
}

/**
 * The first pass: what a file says, read in this process. `null` for formats that are read by ffprobe only. Throws what
 * the file system throws. Damage is no error here: what could not be understood is left to ffprobe, which says why.
 */
export async function readContainer(
  file: DiskPath,
  options: ContainerOptions,
): Promise<ContainerSays | null> {
  const disk = new Disk(file);
  try {
    const head = disk.part(0, 16);
    const kind = head.latin(0, 4);
    if (/^(?:RIFF|RF64)$/.test(kind) && head.latin(8, 12) === 'WAVE') return readWave(disk, options);
    if (kind === '\x1aE\xdf\xa3') {
      const matroska = readMatroska(disk.part(0, 1 << 20));
      return statementsFromContainer(
        { opened: await opened(disk, false), movie: null, matroska, timecodeFrame: null },
        options.zoneMinutes,
      );
    }
    if (!/^(?:ftyp|moov|mdat|free|skip|wide|pnot|uuid)$/.test(head.latin(4, 8))) return null;
    const movie = readIndex(disk);
    const at = movie?.tracks.find((t) => t.timecode)?.timecode?.sampleAt ?? null;
    const frame = at !== null && at + 4 <= disk.size ? disk.part(at, 4).u32(0) : null;
    return statementsFromContainer(
      {
        opened: await opened(disk, movie !== null && movie.tracks.some((t) => t.samples > 0)),
        movie,
        timecodeFrame: frame,
      },
      options.zoneMinutes,
    );
  } finally {
    disk.close();
  }
}

/** A file read piece by piece. It waits for the disk: this runs in threads of its own, where waiting is cheaper than being called back. */
class Disk {
  readonly #fd: number;
  readonly size: number;
  constructor(file: DiskPath) {
    this.#fd = openPlainSync(file);
    this.size = fstatSync(this.#fd).size;
  }

  part(at: number, length: number): Bytes {
    return new Bytes(this.read(at, at + length));
  }

  /** Bytes from one place up to another, as far as there are any. */
  read(from: number, to: number): Uint8Array {
    const buffer = new Uint8Array(Math.max(0, Math.min(to, this.size) - from));
    return buffer.subarray(0, buffer.length > 0 ? readSync(this.#fd, buffer, 0, buffer.length, from) : 0);
  }

  close(): void {
    closeSync(this.#fd);
  }
}

/** Finds and reads the `moov` box, and what is beside it at the top. `null` where there is none of a size that can be. */
function readIndex(disk: Disk): Movie | null {
  const { size } = disk;
  let brand = '';
  let movie: Movie | null = null;
  const beside: string[] = [];
  for (let at = 0, n = 0; at + 8 <= size && n < 10_000; n++) {
    const head = disk.part(at, 32);
    let length = head.u32(0);
    const [type, body] = [head.latin(4, 8), length === 1 ? 16 : 8];
    if (length === 1) length = head.u64(8);
    if (length === 0) length = size - at;
    if (length < body || at + length > size) break;
    if (type === 'ftyp') brand = head.latin(8, 12).trim();
    else if (type === 'moov' && length <= MAX_INDEX)
      movie = readMovie(disk.part(at + body, length - body), brand);
    else if (type === 'moof') {
      if (movie) movie.fragmented = true;
    } else if (/^(?:uuid|meta|udta)$/.test(type)) beside.push(type);
    at += length;
  }
  if (movie) {
    movie.brand = brand || 'qt';
    movie.unread.push(...beside);
  }
  return movie;
}

const tagText = (v: unknown): string | null =>
  typeof v === 'string' ? v : typeof v === 'number' ? String(v) : null;

/**
 * What mediabunny says. With an `index` of ours, it is not asked for what is there: user data, durations, decoder
 * configurations; without, the rate is measured over the first packets. `null` where it cannot open the file.
 */
async function opened(disk: Disk, index: boolean): Promise<OpenedContainer | null> {
  const input = new Input({
    source: new CustomSource({
      getSize: () => disk.size,
      read: (from, to) => disk.read(from, to),
      prefetchProfile: 'fileSystem',
    }),
    formats: [MP4, QTFF, MATROSKA, WEBM],
  });
  try {
    const [video, audio, format] = [
      await input.getPrimaryVideoTrack(),
      await input.getAudioTracks(),
      await input.getFormat(),
    ];
    const raw = index ? {} : ((await input.getMetadataTags()).raw ?? {});
    return {
      format: format.name.toUpperCase(),
      duration: index ? 0 : await input.computeDuration(),
      picture: video && (await pictureOf(video, index)),
      sounds: await Promise.all(
        audio.map(async (a) => ({
          codec: await a.getCodec(),
          channels: await a.getNumberOfChannels(),
          sampleRate: await a.getSampleRate(),
        })),
      ),
      tags: Object.entries(raw).flatMap(([key, v]) => {
        const text = tagText(v);
        return text === null ? [] : [{ key, text }];
      }),
    };
  } catch {
    // Damaged, or of a kind it does not know: ffprobe is asked, and says what is wrong.
    return null;
  } finally {
    input.dispose();
  }
}

async function pictureOf(track: InputVideoTrack, index: boolean): Promise<OpenedContainer['picture']> {
  const codec = await track.getCodec();
  const config =
    index || codec === null || codec === 'prores' ? null : (await track.getDecoderConfig())?.description;
  return {
    codec,
    width: await track.getCodedWidth(),
    height: await track.getCodedHeight(),
    rotation: await track.getRotation(),
    colour: codec === 'prores' ? { fullRange: false } : await track.getColorSpace(),
    pixelAspect: codec === null || codec === 'prores' ? null : await track.getPixelAspectRatio(),
    rate: index ? null : (await track.computePacketStats(120)).averagePacketRate,
    config:
      config === undefined || config === null
        ? null
        : ArrayBuffer.isView(config)
          ? new Uint8Array(config.buffer, config.byteOffset, config.byteLength)
          : new Uint8Array(config),
  };
}

/** Walks the chunks of a WAVE file; of RF64 (EBU Tech 3306) the real length is in `ds64`. */
function readWave(disk: Disk, options: ContainerOptions): ContainerSays | null {
  const { size } = disk;
  const wave: { format: Wave['format'] | null; dataBytes: number; bext: Wave['bext']; ixml: string | null } =
    { format: null, dataBytes: 0, bext: null, ixml: null };
  let long = 0;
  for (let at = 12, n = 0; at + 8 <= size && n < 1000; n++) {
    const head = disk.part(at, 8);
    const [id, stated] = [head.latin(0, 4), head.u32(4, true)];
    // A writer that cannot go back leaves all ones: the sound goes on to the end.
    const length = id === 'data' && stated === 0xffffffff ? long || size - at - 8 : stated;
    const body = () => disk.part(at + 8, Math.min(length, MAX_CHUNK));
    if (id === 'ds64') long = body().u64(8, true);
    else if (id === 'fmt ') wave.format = readFormat(body());
    else if (id === 'data') {
      const there = size - at - 8;
      if (length > there)
        throw new Error(
          `it is cut short: of ${length} bytes of sound that it states ${there} are there, the copy or the recording was not finished`,
        );
      wave.dataBytes = length;
    } else if (id === 'bext') wave.bext = readBext(body());
    else if (id === 'iXML') {
      const text = body();
      wave.ixml = text.text(0, text.length);
    }
    at += 8 + length + (length % 2);
  }
  if (!wave.format) return null;
  if (wave.dataBytes === 0) throw new Error('it states no sound: the recording was not finished');
  const node = wave.ixml ? parseXml(wave.ixml.trim()) : null;
  const says = statementsFromWave(
    { ...wave, format: wave.format },
    (node && ixmlRate(node)) ?? options.jobRate,
  );
  return { ...says, statements: [...says.statements, ...(node ? statementsFromIxml(node) : [])] };
}
