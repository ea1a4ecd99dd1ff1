import * as z from 'zod';
import { isPlausible, parseRate, type Rate } from '../platform/timecode/rate';
import { canDrop, parseTimecode } from '../platform/timecode/timecode';
import { Said, type Statement, timeOfDayValue } from './catalogue';
import { codecName, displayOf, layoutName, pcmBits } from './codecs';
import { parseMoment } from './moments';
import { sayTags } from './userTags';

/** The part of `ffprobe -show_format -show_streams -of json` that is read. Numbers are as ffprobe prints them, many as text. */
export const ProbeStream = z.object({
  index: z.int(),
  codec_type: z.string().optional(),
  codec_name: z.string().optional(),
  codec_tag_string: z.string().optional(),
  profile: z.union([z.string(), z.number()]).transform(String).optional(),
  level: z.number().optional(),
  field_order: z.string().optional(),
  sample_aspect_ratio: z.string().optional(),
  display_aspect_ratio: z.string().optional(),
  bit_rate: z.string().optional(),
  bits_per_sample: z.number().optional(),
  width: z.int().optional(),
  height: z.int().optional(),
  pix_fmt: z.string().optional(),
  bits_per_raw_sample: z.string().optional(),
  color_range: z.string().optional(),
  color_space: z.string().optional(),
  color_transfer: z.string().optional(),
  color_primaries: z.string().optional(),
  r_frame_rate: z.string().optional(),
  avg_frame_rate: z.string().optional(),
  time_base: z.string().optional(),
  duration_ts: z.number().optional(),
  nb_frames: z.string().optional(),
  nb_read_packets: z.string().optional(),
  channels: z.int().optional(),
  sample_rate: z.string().optional(),
  side_data_list: z
    .array(
      z.object({
        max_content: z.number().optional(),
        max_average: z.number().optional(),
        min_luminance: z.string().optional(),
        max_luminance: z.string().optional(),
      }),
    )
    .optional(),
  disposition: z.record(z.string(), z.number()).optional(),
  tags: z.record(z.string(), z.string()).optional(),
});
export type ProbeStream = z.infer<typeof ProbeStream>;

export const ProbeOutput = z.object({
  format: z.object({
    format_name: z.string(),
    duration: z.string().optional(),
    size: z.string().optional(),
    tags: z.record(z.string(), z.string()).optional(),
  }),
  streams: z.array(ProbeStream),
});
export type ProbeOutput = z.infer<typeof ProbeOutput>;

/** The picture stream: the first video stream that is not an attached still. */
export function pictureStream(p: ProbeOutput): ProbeStream | null {
  return p.streams.find((s) => s.codec_type === 'video' && s.disposition?.attached_pic !== 1) ?? null;
}

const NOT_TOLD = { chroma: null, bitDepth: null };
/** Bits of a sample by those of a pixel, of packed RGB. */
const PACKED: Record<string, number> = {
  '24': 8,
  '32': 8,
  '48': 16,
  '64': 16,
  '10': 10,
  '65': 5,
  '55': 5,
  '44': 4,
};
const P: Record<string, string> = { '0': '4:2:0', '2': '4:2:2', '4': '4:4:4' };
const NV: Record<string, { chroma: string; bitDepth: number }> = {
  '12': { chroma: '4:2:0', bitDepth: 8 },
  '21': { chroma: '4:2:0', bitDepth: 8 },
  '16': { chroma: '4:2:2', bitDepth: 8 },
  '24': { chroma: '4:4:4', bitDepth: 8 },
  '42': { chroma: '4:4:4', bitDepth: 8 },
  '20': { chroma: '4:2:2', bitDepth: 10 },
};

/** Pixel formats of red, green and blue: H.273 calls their matrix identity, FFmpeg "gbr". */
const RGB = /^(?:gbr|rgb|bgr|argb|abgr|0rgb|0bgr|x2rgb|x2bgr|pal8)/;

/** Chroma sampling and bit depth from a pixel format's name ("yuv422p10le"); `null` each where the name does not tell. */
export function pixelFormat(name: string): { chroma: string | null; bitDepth: number | null } {
  const plain = name.replace(/(?:le|be)$/, '');
  const grey = /^(?:gray|ya|mono)f?(\d{1,2})?/.exec(plain);
  if (grey) return { chroma: '4:0:0', bitDepth: /^mono/.test(plain) ? 1 : Number(grey[1] ?? 8) };
  if (RGB.test(plain)) {
    // Planes say the bits of a sample ("gbrp10"), packed ones those of a pixel ("rgb48", "rgba64"), but for float ("rgbaf16").
    const planes = /pf?(\d{1,2})$/.exec(plain)?.[1] ?? /f(\d{1,2})$/.exec(plain)?.[1];
    const packed = PACKED[/\d{2}$/.exec(plain)?.[0] ?? ''];
    return { chroma: '4:4:4', bitDepth: planes !== undefined ? Number(planes) : (packed ?? 8) };
  }
  const semi = /^(?:p([024])|nv)(\d{2})$/.exec(plain);
  if (semi)
    return semi[1] === undefined
      ? (NV[semi[2]!] ?? NOT_TOLD)
      : { chroma: P[semi[1]]!, bitDepth: Number(semi[2]) };
  if (/^(?:yuyv|uyvy|yvyu)422$/.test(plain)) return { chroma: '4:2:2', bitDepth: 8 };
  const m = /^yuva?j?(4[124][0124])p?(\d{1,2})?$/.exec(plain);
  if (!m?.[1]) return NOT_TOLD;
  return { chroma: m[1].split('').join(':'), bitDepth: m[2] ? Number(m[2]) : 8 };
}

const known = (v: string | undefined): string | null =>
  v && v !== 'unknown' && v !== 'unspecified' && v !== 'reserved' ? v : null;

/**
 * The rate of a video stream. Cameras write constant rates: the average is exact there, and r_frame_rate (the smallest
 * step of the clock) is used where no average is given.
 */
export function streamRate(s: ProbeStream): Rate | null {
  const stated = [s.avg_frame_rate, s.r_frame_rate].map((r) => (r ? parseRate(r) : null));
  return stated.find((r) => r !== null && isPlausible(r)) ?? null;
}

/** Frames in a stream: counted packets where they were counted, the container's own count, or its duration times the rate. `null` where none is stated. */
export function streamFrames(s: ProbeStream, rate: Rate | null): number | null {
  for (const stated of [s.nb_read_packets, s.nb_frames]) {
    if (stated && /^\d+$/.test(stated) && Number(stated) > 0) return Number(stated);
  }
  const base = /^(\d+)\/(\d+)$/.exec(s.time_base ?? '');
  if (s.duration_ts === undefined || !base || !rate || s.duration_ts <= 0) return null;
  return Math.round((s.duration_ts * Number(base[1]) * rate.num) / (Number(base[2]) * rate.den));
}

/**
 * Everything a container says about a clip, by ffprobe. `zoneMinutes` is the job's offset from UTC, for container
 * times, which are UTC; `modified` the file's own time of last change.
 */
export function statementsFromProbe(
  p: ProbeOutput,
  options: { zoneMinutes: number; modified?: Date },
): Statement[] {
  const said = new Said('container');
  const video = pictureStream(p);
  said.text('container', containerName(p)).text('brand', p.format.tags?.major_brand);
  const rate = video ? streamRate(video) : null;
  if (video) sayPicture(said, video, rate);
  const seconds = Number(p.format.duration ?? NaN);
  if (seconds > 0 && seconds < 1e7) said.number('length', Math.round(seconds * 1000) / 1000);
  saySound(said, p, video === null);
  const created = p.format.tags?.creation_time ?? video?.tags?.creation_time;
  const moment = created ? parseMoment(created, options.zoneMinutes) : null;
  said.value('recordedAt', moment && { type: 'moment', moment });
  said.text('software', p.format.tags?.encoder);
  const tags = new Said('tags');
  // What FFmpeg puts among the tags itself is no word of the camera's.
  const own = Object.entries(p.format.tags ?? {}).filter(([k]) => !FFMPEGS_OWN.test(k));
  sayTags(
    tags,
    own.map(([key, text]) => ({ key, text })),
    options.zoneMinutes,
  );
  if (options.modified) {
    // A file is last written when the recording ends: its length before that it began (common practice).
    const length = seconds > 0 && seconds < 172_800 ? seconds * 1000 : 0;
    said.value(
      'recordedAt',
      fileMoment(options.modified.getTime() - length, options.zoneMinutes),
      'fileTime',
    );
  }
  if (rate) {
    const address = (tags: Record<string, string> | undefined) => tags?.timecode ?? tags?.TIMECODE;
    const track =
      p.streams.find((s) => s.codec_type === 'data' && address(s.tags)) ??
      (address(video?.tags) ? video : undefined);
    const stated = address(track?.tags) ?? address(p.format.tags);
    // An address whose frames do not fit the picture's rate is none, and is not taken.
    const tc = stated ? parseTimecode(stated, rate) : null;
    if (tc)
      said
        .value('start', { type: 'timecode', timecode: tc }, 'timecodeTrack')
        .value('drop', { type: 'flag', flag: tc.drop && canDrop(rate) }, 'timecodeTrack');
    if (moment) {
      const [h, m, s] = moment.local.slice(11).split(':').map(Number) as [number, number, number];
      said.value('start', timeOfDayValue(h * 3600 + m * 60 + s, rate), 'clock');
    }
  }
  return [...said.statements, ...tags.statements];
}

const FFMPEGS_OWN =
  /^(?:major_brand|minor_version|compatible_brands|creation_time|encoder|timecode|date|time_reference|creation_date)$/i;

/** A file's time as a moment of the job's zone. Milliseconds since 1970. */
export const fileMoment = (at: number, zoneMinutes: number) => ({
  type: 'moment' as const,
  moment: { local: new Date(at + zoneMinutes * 60_000).toISOString().slice(0, 19), offset: zoneMinutes },
});

const FIELD_ORDER: Record<string, string> = {
  progressive: 'progressive',
  tt: 'interlaced, top field first',
  tb: 'interlaced, top field first',
  bb: 'interlaced, bottom field first',
  bt: 'interlaced, bottom field first',
};

/**
 * DV of 480 or 576 lines is of two fields, the lower first (IEC 61834-2, from memory); FFmpeg says so of its frames only. Of 1080 lines it
 * says the same, where others begin with the upper field: nothing is taken for them.
 */
const isFieldDv = ({ codec_name: codec, height = 0 }: ProbeStream): boolean =>
  codec === 'dvvideo' && height <= 576;

function sayPicture(said: Said, video: ProbeStream, rate: Rate | null): void {
  const { chroma, bitDepth } = pixelFormat(video.pix_fmt ?? '');
  // H.264 writes its level in tenths, HEVC in thirtieths.
  const level =
    video.level === undefined || video.level <= 0
      ? null
      : video.codec_name === 'h264'
        ? video.level / 10
        : video.codec_name === 'hevc'
          ? video.level / 30
          : null;
  said
    .text('codec', video.codec_name && codecName(video.codec_name))
    .text('codecTag', /^\[/.test(video.codec_tag_string ?? '[') ? null : video.codec_tag_string)
    .text('profile', known(video.profile))
    .number('level', level);
  said
    .count('width', video.width || null)
    .count('height', video.height || null)
    .text('chroma', chroma)
    .count('bitDepth', bitDepth)
    .text('sampleFormat', /f(?:16|32)(?:le|be)?$/.test(video.pix_fmt ?? '') ? 'float' : null)
    .text('scan', FIELD_ORDER[video.field_order ?? ''] ?? (isFieldDv(video) ? FIELD_ORDER.bb : null));
  const aspect = /^(\d+):(\d+)$/.exec(video.sample_aspect_ratio ?? '');
  if (aspect && Number(aspect[1]) > 0 && Number(aspect[2]) > 0)
    said.value('pixelAspect', { type: 'fraction', num: Number(aspect[1]), den: Number(aspect[2]) });
  said
    .text(
      'displayAspect',
      /^0|:0$/.test(video.display_aspect_ratio ?? '0') ? null : video.display_aspect_ratio,
    )
    .count('bitRate', video.bit_rate ? Number(video.bit_rate) : null);
  said.value('rate', rate && { type: 'rate', rate }).count('frames', streamFrames(video, rate));
  said.text('range', video.color_range === 'pc' ? 'full' : video.color_range === 'tv' ? 'limited' : null);
  said
    .text('primaries', known(video.color_primaries))
    .text('transfer', known(video.color_transfer))
    .text('matrix', known(video.color_space) ?? (RGB.test(video.pix_fmt ?? '') ? 'gbr' : null));
  said.text('reel', video.tags?.reel_name);
  for (const d of video.side_data_list ?? []) {
    said.count('maxCll', d.max_content || null).count('maxFall', d.max_average || null);
    const [low, high] = [fraction(d.min_luminance), fraction(d.max_luminance)];
    if (low !== null && high !== null && high > 0) said.text('masteringDisplay', displayOf(low, high));
  }
}

/** The reel a file says it is of, by its timecode track, its picture or its container; `null` where it says none. */
export function reelIn({ streams, format }: ProbeOutput): string | null {
  const said = new Said('container');
  for (const { tags } of [...streams, format]) said.text('reel', tags?.reel_name);
  const [reel] = said.statements;
  return reel?.value.type === 'text' ? reel.value.text : null;
}

/** "10000000/10000" as a number; `null` for anything else. */
const fraction = (text: string | undefined): number | null => {
  const m = /^(\d{1,12})\/(\d{1,12})$/.exec(text ?? '');
  return m && Number(m[2]) > 0 ? Number(m[1]) / Number(m[2]) : null;
};

/** Bits of a sound's samples. What DV has of twelve bits is decoded to sixteen, and is not stated; lossless coding keeps what there was. */
const depthOf = (s: ProbeStream, format: string): number | null =>
  format === 'dv'
    ? null
    : ((s.codec_name ? pcmBits(s.codec_name) : null) ?? (Number(s.bits_per_raw_sample ?? 0) || null));

function saySound(said: Said, p: ProbeOutput, alone: boolean): void {
  const sound = p.streams.filter((s) => s.codec_type === 'audio');
  said
    .count(
      'channels',
      sound.reduce((n, s) => n + (s.channels ?? 0), 0),
    )
    .count('audioStreams', sound.length);
  const [first] = sound;
  if (!first) return;
  said
    .text('audioCodec', first.codec_name && codecName(first.codec_name))
    .count('sampleRate', first.sample_rate ? Number(first.sample_rate) : null)
    .count('audioBits', depthOf(first, p.format.format_name));
  said
    .text('channelLayout', first.channels ? layoutName(first.channels) : null)
    .count('audioBitRate', first.bit_rate ? Number(first.bit_rate) : null);
  const soundRate = Number(first.sample_rate ?? 0);
  if (!alone || soundRate <= 0) return;
  const length = Number(first.duration_ts);
  said.count('samples', Number.isSafeInteger(length) && length > 0 ? length : null);
  // Broadcast Wave (EBU Tech 3285): the origination date, and the start as samples since midnight.
  const stated = Number(p.format.tags?.time_reference ?? NaN);
  const date = /^\d{4}-\d\d-\d\d$/.exec(p.format.tags?.date ?? '')?.[0];
  const since = stated / soundRate;
  const moment =
    date && since >= 0 && since < 86_400
      ? parseMoment(`${date}T${new Date(Math.floor(since) * 1000).toISOString().slice(11, 19)}`, 0)
      : null;
  said.value('recordedAt', moment && { type: 'moment', moment });
}

function containerName(p: ProbeOutput): string {
  const brand = p.format.tags?.major_brand?.trim();
  if (p.format.format_name.includes('mp4')) return brand === 'qt' ? 'MOV' : 'MP4';
  return p.format.format_name.split(',')[0]!.toUpperCase();
}
