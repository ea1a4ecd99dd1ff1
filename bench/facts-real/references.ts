import { execFileSync } from 'node:child_process';
import type { FieldId } from '../../src/core/facts/catalogue';
import { codecName } from '../../src/core/facts/codecs';
import { pixelFormat } from '../../src/core/facts/probe';

// What three programs of others say of a file, by our fields. Where a program states a field under several names, the first counts:
// that is the standard's own.

/** What a reference states: numbers as numbers, words as they are. */
export type Stated = Partial<Record<FieldId, string | number>>;

export const PROGRAMS = ['ExifTool', 'Exiv2', 'ffprobe', 'MediaInfo'] as const;
export type Program = (typeof PROGRAMS)[number];

const run = (program: string, args: readonly string[]): string => {
  try {
    return execFileSync(program, args, {
      encoding: 'utf8',
      maxBuffer: 1 << 28,
      timeout: 60_000,
      stdio: ['ignore', 'pipe', 'ignore'],
    });
  } catch (e) {
    // Programs that complain of a file still say what they found in it.
    return String((e as { stdout?: string }).stdout ?? '');
  }
};

/** A program's JSON; nothing where it gave up before the end of it. */
const parsed = (json: string): unknown => {
  try {
    return JSON.parse(json) as unknown;
  } catch {
    return {};
  }
};

const TURN: Record<string, number> = { 1: 0, 2: 0, 3: 180, 4: 180, 5: 90, 6: 90, 7: 270, 8: 270 };
const positive = (v: unknown): number | undefined => (Number(v) > 0 ? Number(v) : undefined);
/** What programs write for a value, several of a list with it. */
type Raw = string | number | readonly (string | number)[] | undefined;
type Tags = Record<string, Raw>;
const textOf = (v: Raw): string =>
  Array.isArray(v) ? v.join('; ') : String((v as string | number | undefined) ?? '');
const words = (v: Raw): string | undefined => (textOf(v).trim() === '' ? undefined : textOf(v));
/** "2026:05:06 14:22:05" as "2026-05-06T14:22:05"; nothing for what is no date. */
const moment = (v: Raw): string | undefined => {
  const m = /^(\d{4})[:-](\d\d)[:-](\d\d)[ T](\d\d:\d\d:\d\d)/.exec(textOf(v));
  return m && Number(m[2]) > 0 ? `${m[1]}-${m[2]}-${m[3]}T${m[4]}` : undefined;
};
const stated = (all: Record<string, string | number | undefined>): Stated =>
  Object.fromEntries(Object.entries(all).filter(([, v]) => v !== undefined && !Number.isNaN(v)));

/** ExifTool's tags of many files at once, by path: `-json -n`, with words where a number is a code. */
export function exiftool(program: string, files: readonly string[]): Map<string, Stated> {
  const ask = (args: readonly string[]) =>
    new Map<string, Tags>(
      (parsed(run(program, ['-json', '-api', 'StructFormat=JSONQ', '-q', ...args, ...files])) as Tags[]).map(
        (t) => [textOf(t.SourceFile), t],
      ),
    );
  const [numbers, said] = [ask(['-n']), ask([])];
  return new Map(
    files.map((f) => {
      const [t, w]: [Tags, Tags] = [numbers.get(f) ?? {}, said.get(f) ?? {}];
      const firmware = Object.entries(t).find(([k]) =>
        /^(?!Lens|Flash)\w*Firmware(?:Version)?$/.test(k),
      )?.[1];
      return [
        f,
        stated({
          maker: words(w.Make),
          model: words(w.Model),
          serial: words(t.SerialNumber ?? t.InternalSerialNumber),
          firmware: words(
            firmware === undefined ? firmware : textOf(firmware).replace(/^Firmware(?: Version)?\s+/, ''),
          ),
          operator: words(t.Artist ?? t.OwnerName),
          lensModel: words(w.LensModel ?? w.Lens ?? w.LensType),
          lensSerial: words(t.LensSerialNumber),
          focalLength: positive(t.FocalLength),
          focalLength35: positive(t.FocalLengthIn35mmFormat),
          focusDistance: positive(t.SubjectDistance),
          aperture: positive(t.FNumber),
          iso: positive(t.ISO),
          shutter: positive(t.ExposureTime),
          exposureBias: t.ExposureCompensation === undefined ? undefined : Number(t.ExposureCompensation),
          whiteBalanceMode: words(w.WhiteBalance),
          whiteBalance: positive(t.ColorTemperature),
          latitude: t.GPSLatitude === undefined ? undefined : Number(t.GPSLatitude || NaN),
          longitude: t.GPSLongitude === undefined ? undefined : Number(t.GPSLongitude || NaN),
          altitude: t.GPSAltitude === undefined ? undefined : Number(t.GPSAltitude),
          heading: t.GPSImgDirection === undefined ? undefined : Number(t.GPSImgDirection),
          title: words(t.Title ?? t.ObjectName),
          description: words(t.Description ?? t.ImageDescription ?? t['Caption-Abstract']),
          comment: words(t.UserComment ?? t.Comment),
          uniqueId: words(t.ImageUniqueID),
          software: words(t.Software),
          width: positive(t.ImageWidth),
          height: positive(t.ImageHeight),
          rotation: t.Orientation === undefined ? positive(t.Rotation) : TURN[textOf(t.Orientation)],
          recordedAt: moment(t.DateTimeOriginal ?? t.CreateDate),
          rate: positive(t.VideoFrameRate),
          sampleRate: positive(t.AudioSampleRate),
          audioBits: positive(t.AudioBitsPerSample),
          length: positive(t.Duration),
        }),
      ];
    }),
  );
}

/** Exiv2's keys of one file: Exif as the standard names it, then IPTC and XMP. */
export function exiv2(file: string): Stated {
  const raw = new Map<string, string>();
  const shown = new Map<string, string>();
  for (const [flags, into] of [
    ['-PEIXkv', raw],
    ['-PEIXkt', shown],
  ] as const)
    for (const entry of run('exiv2', [flags, file]).split(/\n(?=(?:Exif|Iptc|Xmp)\.)/)) {
      const m = /^(\S+)\s+([^]*)$/.exec(entry);
      if (m && !into.has(m[1]!)) into.set(m[1]!, m[2]!.replace(/^lang="[^"]*" /, '').trimEnd());
    }
  const v = (...keys: string[]) =>
    keys.map((k) => raw.get(k)).find((x) => x !== undefined && x.trim() !== '');
  const ratio = (...keys: string[]): number | undefined => {
    const m = /^(-?\d+)(?:\/(-?\d+))?/.exec(v(...keys) ?? '');
    const n = m ? Number(m[1]) / Number(m[2] ?? 1) : NaN;
    return Number.isFinite(n) ? n : undefined;
  };
  const degrees = (key: string): number | undefined => {
    const parts = (raw.get(key) ?? '').split(' ').map((p) => {
      const [a, b = '1'] = p.split('/');
      return Number(a) / Number(b);
    });
    const n = (parts[0] ?? NaN) + (parts[1] || 0) / 60 + (parts[2] || 0) / 3600;
    if (!Number.isFinite(n) || n === 0) return undefined;
    return /^[SW]/.test(raw.get(`${key}Ref`) ?? '') ? -n : n;
  };
  const below = (n: number | undefined) =>
    n !== undefined && raw.get('Exif.GPSInfo.GPSAltitudeRef') === '1' ? -n : n;
  const size = /^Image size\s*:\s*(\d+) x (\d+)/m.exec(run('exiv2', ['-ps', file]));
  return stated({
    maker: words(v('Exif.Image.Make')),
    model: words(v('Exif.Image.Model')),
    serial: words(v('Exif.Photo.BodySerialNumber')),
    operator: words(v('Exif.Image.Artist')),
    lensModel: words(v('Exif.Photo.LensModel')),
    lensSerial: words(v('Exif.Photo.LensSerialNumber')),
    focalLength: positive(ratio('Exif.Photo.FocalLength', 'Exif.Image.FocalLength')),
    focalLength35: positive(ratio('Exif.Photo.FocalLengthIn35mmFilm')),
    focusDistance: positive(ratio('Exif.Photo.SubjectDistance')),
    aperture: positive(ratio('Exif.Photo.FNumber', 'Exif.Image.FNumber')),
    iso: positive(ratio('Exif.Photo.ISOSpeedRatings', 'Exif.Image.ISOSpeedRatings')),
    shutter: positive(ratio('Exif.Photo.ExposureTime', 'Exif.Image.ExposureTime')),
    exposureBias: ratio('Exif.Photo.ExposureBiasValue', 'Exif.Image.ExposureBiasValue'),
    whiteBalanceMode: words(shown.get('Exif.Photo.WhiteBalance')),
    latitude: degrees('Exif.GPSInfo.GPSLatitude'),
    longitude: degrees('Exif.GPSInfo.GPSLongitude'),
    altitude: below(ratio('Exif.GPSInfo.GPSAltitude')),
    heading: ratio('Exif.GPSInfo.GPSImgDirection'),
    title: words(v('Xmp.dc.title', 'Iptc.Application2.ObjectName')),
    description: words(v('Xmp.dc.description', 'Exif.Image.ImageDescription', 'Iptc.Application2.Caption')),
    comment: words(v('Exif.Photo.UserComment')?.replace(/^charset="?\w+"?\s*/, '')),
    uniqueId: words(v('Exif.Photo.ImageUniqueID')),
    software: words(v('Exif.Image.Software')),
    width: size ? positive(size[1]) : undefined,
    height: size ? positive(size[2]) : undefined,
    rotation: TURN[v('Exif.Image.Orientation') ?? ''],
    recordedAt: moment(
      v('Exif.Photo.DateTimeOriginal', 'Exif.Image.DateTimeOriginal', 'Exif.Photo.DateTimeDigitized'),
    ),
  });
}

interface ProbeStreams {
  format?: { duration?: string; tags?: Record<string, string> };
  streams?: (Record<string, string | number | undefined> & {
    tags?: Record<string, string>;
    disposition?: Record<string, number>;
  })[];
}

/** ffprobe's answer of one file. A still has no rate and no length of its own. */
export function ffprobe(program: string, file: string, still: boolean): Stated {
  const out = parsed(
    run(program, ['-v', 'error', '-show_format', '-show_streams', '-of', 'json', `file:${file}`]),
  ) as ProbeStreams;
  const video = out.streams?.find((s) => s.codec_type === 'video' && s.disposition?.attached_pic !== 1);
  const audio = (still ? [] : out.streams?.filter((s) => s.codec_type === 'audio')) ?? [];
  const ratio = (v: Raw): number | undefined => {
    const [a, b = '1'] = textOf(v).split(/[/:]/);
    return positive(Number(a) / Number(b));
  };
  const known = (v: Raw) =>
    v === 'unknown' || v === 'unspecified' || v === 'reserved' ? undefined : words(v);
  const format = video?.pix_fmt ? pixelFormat(String(video.pix_fmt)) : null;
  return stated({
    codec: video?.codec_name ? codecName(String(video.codec_name)) : undefined,
    width: positive(video?.width),
    height: positive(video?.height),
    pixelAspect: ratio(video?.sample_aspect_ratio),
    chroma: format?.chroma ?? undefined,
    bitDepth: format?.bitDepth ?? undefined,
    primaries: known(video?.color_primaries),
    transfer: known(video?.color_transfer),
    matrix: known(video?.color_space),
    rate: still ? undefined : ratio(video?.avg_frame_rate),
    frames: still ? undefined : positive(video?.nb_frames),
    length: still ? undefined : positive(out.format?.duration),
    start: still
      ? undefined
      : words(out.streams?.map((s) => s.tags?.timecode).find((t) => t) ?? out.format?.tags?.timecode),
    recordedAt: still ? undefined : moment(out.format?.tags?.creation_time),
    audioStreams: audio.length || undefined,
    channels: audio.reduce((n, s) => n + Number(s.channels ?? 0), 0) || undefined,
    sampleRate: positive(audio[0]?.sample_rate),
    audioCodec: audio[0]?.codec_name ? codecName(String(audio[0].codec_name)) : undefined,
  });
}

/** MediaInfo's answer of one file. */
export function mediainfo(file: string, still: boolean): Stated {
  const out = parsed(run('mediainfo', ['--Output=JSON', file])) as {
    media?: { track: Record<string, string | undefined>[] };
  };
  const tracks = out.media?.track ?? [];
  const of = (type: string) => tracks.filter((t) => t['@type'] === type);
  const general = of('General')[0] ?? {};
  const video = of('Video')[0] ?? of('Image')[0] ?? {};
  const audio = still ? [] : of('Audio');
  return stated({
    width: positive(video.Width),
    height: positive(video.Height),
    bitDepth: positive(video.BitDepth),
    chroma: /^4:\d:\d$/.test(video.ChromaSubsampling ?? '') ? video.ChromaSubsampling : undefined,
    pixelAspect: positive(video.PixelAspectRatio),
    rotation: still ? undefined : positive(video.Rotation),
    rate: still ? undefined : positive(video.FrameRate),
    frames: still ? undefined : positive(video.FrameCount),
    scan: still ? undefined : words(video.ScanType),
    length: still ? undefined : positive(general.Duration),
    start: still ? undefined : words(tracks.map((t) => t.TimeCode_FirstFrame).find((t) => t)),
    recordedAt: still ? undefined : moment((general.Encoded_Date ?? '').replace(/^UTC /, '')),
    channels: audio.reduce((n, t) => n + Number(t.Channels ?? 0), 0) || undefined,
    sampleRate: positive(audio[0]?.SamplingRate),
    audioBits: positive(audio[0]?.BitDepth),
    title: words(general.Title),
  });
}
