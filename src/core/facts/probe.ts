import { z } from 'zod';
import { parseRate, type Rate } from '../timecode/rate';
import { fromTimeOfDay, parseTimecode } from '../timecode/timecode';
import type { FieldId, Moment, Source, Statement, Value } from './catalogue';

/** The part of `ffprobe -show_format -show_streams -of json` that is read. Numbers are as ffprobe prints them, many as text. */
export const ProbeStream = z.object({
  index: z.int(),
  codec_type: z.string().optional(),
  codec_name: z.string().optional(),
  profile: z.union([z.string(), z.number()]).transform(String).optional(),
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

/** Trade names of the published codecs; anything else keeps the reader's own short name. */
const CODECS: Record<string, string> = {
  h264: 'H.264', hevc: 'HEVC', prores: 'ProRes', dnxhd: 'VC-3', mpeg2video: 'MPEG-2', mpeg4: 'MPEG-4', mjpeg: 'Motion JPEG', av1: 'AV1', vp9: 'VP9',
  aac: 'AAC', pcm_s16le: 'PCM 16 bit', pcm_s24le: 'PCM 24 bit', pcm_s16be: 'PCM 16 bit', pcm_s24be: 'PCM 24 bit', pcm_s32le: 'PCM 32 bit', ac3: 'AC-3', opus: 'Opus',
};

/** Chroma sampling and bit depth from a pixel format's name ("yuv422p10le"); `null` each where the name does not tell. */
export function pixelFormat(name: string): { chroma: string | null; bitDepth: number | null } {
  const m = /^(?:yuva?j?|p|nv)?(4[124][0124])?p?(\d{1,2})?(?:le|be)?$/.exec(name.replace(/^(?:nv12|nv21)$/, 'yuv420p'));
  if (/^gray/.test(name)) return { chroma: '4:0:0', bitDepth: Number(/^gray(\d+)/.exec(name)?.[1] ?? 8) };
  if (/^(?:gbr|rgb|bgr|argb|rgba)/.test(name)) return { chroma: '4:4:4', bitDepth: Number(/p(\d+)/.exec(name)?.[1] ?? 8) };
  if (!m?.[1]) return { chroma: null, bitDepth: null };
  return { chroma: m[1].split('').join(':'), bitDepth: m[2] ? Number(m[2]) : 8 };
}

const known = (v: string | undefined): string | null => (v && v !== 'unknown' && v !== 'unspecified' && v !== 'reserved' ? v : null);

/** A creation time in a container: UTC by the QuickTime and ISO formats; dates before 1990 are a clock that was never set. */
export function parseMoment(text: string, zoneMinutes: number): Moment | null {
  const m = /^(\d{4}-\d\d-\d\d)[T ](\d\d:\d\d:\d\d)(?:\.\d+)?(Z|[+-]\d\d:?\d\d)?$/.exec(text.trim());
  if (!m) return null;
  const [date, time, zone] = [m[1]!, m[2]!, m[3]];
  const asUtc = Date.parse(`${date}T${time}Z`);
  if (Number.isNaN(asUtc) || Number(date.slice(0, 4)) < 1990) return null;
  if (zone === undefined) return { local: `${date}T${time}`, offset: null };
  if (zone === 'Z') return { local: new Date(asUtc + zoneMinutes * 60_000).toISOString().slice(0, 19), offset: zoneMinutes };
  const sign = zone.startsWith('-') ? -1 : 1;
  const digits = zone.replace(/\D/g, '');
  return { local: `${date}T${time}`, offset: sign * (Number(digits.slice(0, 2)) * 60 + Number(digits.slice(2, 4))) };
}

/**
 * The rate of a video stream. Cameras write constant rates: the average is exact there, and r_frame_rate (the smallest
 * step of the clock) stands in where no average is given.
 */
export function streamRate(s: ProbeStream): Rate | null {
  return (s.avg_frame_rate ? parseRate(s.avg_frame_rate) : null) ?? (s.r_frame_rate ? parseRate(s.r_frame_rate) : null);
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
 * Everything a container says about a clip, as statements. `zoneMinutes` is the job's offset from UTC, for container
 * times, which are UTC; `modified` the file's own time of last change.
 */
export function statementsFromProbe(p: ProbeOutput, options: { zoneMinutes: number; modified?: Date }): Statement[] {
  const out: Statement[] = [];
  const say = (field: FieldId, value: Value | null, source: Source = 'container') => {
    if (value) out.push({ field, value, source });
  };
  const words = (s: string | null | undefined): Value | null => (s ? { type: 'text', text: s } : null);
  const number = (n: number | null | undefined): Value | null => (n !== null && n !== undefined && Number.isSafeInteger(n) ? { type: 'count', count: n } : null);

  const video = pictureStream(p);
  say('container', words(containerName(p)));
  const rate = video ? streamRate(video) : null;
  if (video) {
    const { chroma, bitDepth } = pixelFormat(video.pix_fmt ?? '');
    say('codec', words(CODECS[video.codec_name ?? ''] ?? video.codec_name));
    say('profile', words(known(video.profile)));
    say('width', number(video.width));
    say('height', number(video.height));
    say('chroma', words(chroma));
    say('bitDepth', number(bitDepth));
    say('rate', rate ? { type: 'rate', rate } : null);
    say('frames', number(streamFrames(video, rate)));
    say('range', words(video.color_range === 'pc' ? 'full' : video.color_range === 'tv' ? 'limited' : null));
    say('primaries', words(known(video.color_primaries)));
    say('transfer', words(known(video.color_transfer)));
    say('matrix', words(known(video.color_space)));
  }
  const sound = p.streams.filter((s) => s.codec_type === 'audio');
  say('channels', number(sound.reduce((n, s) => n + (s.channels ?? 0), 0)));
  if (sound[0]) {
    say('audioCodec', words(CODECS[sound[0].codec_name ?? ''] ?? sound[0].codec_name));
    say('sampleRate', number(sound[0].sample_rate ? Number(sound[0].sample_rate) : null));
  }
  const soundRate = Number(sound[0]?.sample_rate ?? 0);
  if (!video && soundRate > 0) {
    const length = Number(sound[0]?.duration_ts);
    say('samples', number(Number.isSafeInteger(length) && length > 0 ? length : null));
    // Broadcast Wave (EBU Tech 3285): the origination date, and the start as samples since midnight.
    const stated = Number(p.format.tags?.time_reference ?? NaN);
    const date = /^\d{4}-\d\d-\d\d$/.exec(p.format.tags?.date ?? '')?.[0];
    const since = stated / soundRate;
    if (date && since >= 0 && since < 86_400) say('recordedAt', { type: 'moment', moment: { local: `${date}T${new Date(Math.floor(since) * 1000).toISOString().slice(11, 19)}`, offset: null } });
  }
  const created = p.format.tags?.creation_time ?? video?.tags?.creation_time;
  const moment = created ? parseMoment(created, options.zoneMinutes) : null;
  say('recordedAt', moment ? { type: 'moment', moment } : null);
  if (options.modified) {
    // A file is last written when the recording ends: its length before that it began (common practice).
    const stated = Number(p.format.duration ?? 0) * 1000;
    const length = stated > 0 && stated < 172_800_000 ? stated : 0;
    const local = new Date(options.modified.getTime() - length + options.zoneMinutes * 60_000).toISOString().slice(0, 19);
    say('recordedAt', { type: 'moment', moment: { local, offset: options.zoneMinutes } }, 'fileTime');
  }
  if (rate) {
    const track = p.streams.find((s) => s.codec_type === 'data' && s.tags?.timecode) ?? (video?.tags?.timecode ? video : undefined);
    const stated = track?.tags?.timecode ?? p.format.tags?.timecode;
    // An address whose frames do not fit the picture's rate is none, and is not taken.
    const tc = stated ? parseTimecode(stated, rate) : null;
    say('start', tc ? { type: 'timecode', timecode: tc } : null, 'timecodeTrack');
    if (moment) {
      const [h, m, s] = moment.local.slice(11).split(':').map(Number) as [number, number, number];
      say('start', { type: 'timecode', timecode: fromTimeOfDay(h * 3600 + m * 60 + s, rate) }, 'clock');
    }
  }
  return out;
}

function containerName(p: ProbeOutput): string {
  const brand = p.format.tags?.major_brand?.trim();
  if (p.format.format_name.includes('mp4')) return brand === 'qt' ? 'MOV' : 'MP4';
  return p.format.format_name.split(',')[0]!.toUpperCase();
}
