import type { Bext, Wave } from './containers/wave';
import type { Movie } from './containers/boxes';
import type { MatroskaHead } from './containers/matroska';
import { H273, PRORES, samplingOf } from './containers/coding';
import {
  countsTimecode,
  fps,
  isPlausible,
  rate as rateOfTicks,
  type Rate,
  STANDARD_RATES,
} from '../platform/timecode/rate';
import { atRate, canDrop, parseTimecode, timecode } from '../platform/timecode/timecode';
import { Said, type Statement, timeOfDayValue } from './catalogue';
import { codecName, displayOf, layoutName, pcmBits } from './codecs';
import { momentOf1904, parseMoment } from './moments';
import { sayTags, type UserTag } from './userTags';

/** What mediabunny says of a file, as plain values. */
export interface OpenedContainer {
  /** "MP4", "MOV", "MATROSKA", "WEBM". */
  format: string;
  /** Seconds. */
  duration: number;
  picture: {
    codec: string | null;
    width: number;
    height: number;
    rotation: number;
    colour: {
      primaries?: string | null;
      transfer?: string | null;
      matrix?: string | null;
      fullRange?: boolean | null;
    };
    pixelAspect: { num: number; den: number } | null;
    /** Packets a second, measured over the first; `null` where it was not asked for. */
    rate: number | null;
    config: Uint8Array | null;
  } | null;
  sounds: { codec: string | null; channels: number; sampleRate: number }[];
  tags: UserTag[];
}

export interface ContainerRead {
  opened: OpenedContainer | null;
  movie: Movie | null;
  matroska?: MatroskaHead | null;
  /** The 32-bit number in the timecode track's first sample; `null` where there is none. */
  timecodeFrame: number | null;
}

/** What a container said, and whether something of it was not understood here. */
export interface ContainerSays {
  statements: Statement[];
  /** Channels of each sound stream. */
  audio: number[];
  /** Whether ffprobe has to be asked for what every clip states. */
  askProbe: boolean;
  /** Whether ExifTool may know more of it. */
  askTags: boolean;
}

/** mediabunny's names for colour, where they are not FFmpeg's. */
const COLOUR: Record<string, string> = {
  pq: 'smpte2084',
  hlg: 'arib-std-b67',
  'bt2020-ncl': 'bt2020nc',
  rgb: 'gbr',
};
const colourName = (s: string | null | undefined): string | null => (s ? (COLOUR[s] ?? s) : null);

const CONFIG: Record<string, string> = { avc: 'avcC', hevc: 'hvcC', av1: 'av1C', vp9: 'vpcC' };

const divisor = (a: number, b: number): number => (b === 0 ? a : divisor(b, a % b));

type Picture = NonNullable<OpenedContainer['picture']>;
type Track = Movie['tracks'][number];

/** Everything an MP4, MOV or Matroska file says. `zoneMinutes` is the job's offset from UTC: container times are UTC. */
export function statementsFromContainer(read: ContainerRead, zoneMinutes: number): ContainerSays {
  const { opened, movie, matroska } = read;
  const said = new Said('container');
  const picture = opened?.picture ?? null;
  const track = movie?.tracks.find((t) => t.kind === 'picture') ?? null;
  said.text('container', movie ? (movie.brand === 'qt' ? 'MOV' : 'MP4') : opened?.format);
  said.text('brand', movie?.brand);
  const rate = track
    ? trackRate(track.timescale, track.delta, track.samples, track.duration)
    : nearRate(matroska?.frameNanoseconds ? 1e9 / matroska.frameNanoseconds : (picture?.rate ?? 0));
  const seen =
    picture || track
      ? sayPicture(said, { picture, track, rate, seconds: opened?.duration ?? null })
      : { known: false, fields: false };
  const soundTracks = movie?.tracks.filter((t) => t.kind === 'sound') ?? [];
  const sounds = opened?.sounds ?? [];
  const audio =
    soundTracks.length > sounds.length
      ? soundTracks.map((t) => t.sound?.channels ?? 0)
      : sounds.map((s) => s.channels);
  saySound(said, audio, sounds[0], soundTracks[0]);
  const moment = momentOf1904(
    matroska?.date ? matroska.date / 1e9 + SECONDS_1904_TO_2001 : movie?.created || track?.created || 0,
    zoneMinutes,
  );
  said.value('recordedAt', moment && { type: 'moment', moment });
  const length = movie && movie.timescale > 0 ? movie.duration / movie.timescale : (opened?.duration ?? 0);
  if (length > 0 && length < 1e7) said.number('length', Math.round(length * 1000) / 1000);
  const tags = new Said('tags');
  const words = movie?.tags ?? [
    ...(opened?.tags ?? []),
    ...(matroska?.title ? [{ key: 'title', text: matroska.title }] : []),
  ];
  sayTags(tags, words, zoneMinutes);
  said.text(
    'software',
    words.find((t) => /(?:^|\.)(?:\u00a9swr|\u00a9too|software|encoder)$/i.test(t.key))?.text ??
      matroska?.writer,
  );
  const stated = words.find((t) => /^timecode$/i.test(t.key))?.text;
  if (rate) sayStart(said, { read, stated, local: (moment ?? tagMoment(tags))?.local ?? null }, rate);
  const unsure = movie?.tracks.some((t) => t.kind === 'sound') && sounds.length < soundTracks.length;
  return {
    statements: [...said.statements, ...tags.statements.filter((t) => t.field !== 'software')],
    audio,
    askProbe:
      opened === null ||
      (picture ?? track) === null ||
      !seen.known ||
      movie?.fragmented === true ||
      // Its tags may be those of a track, and H.264 may be of fields: FFmpeg looks.
      (matroska && !stated) ||
      (seen.fields && !track?.fields) ||
      unsure === true,
    askTags: movie ? movie.unread.length > 0 : false,
  };
}

/**
 * What is said of a picture: its coding, size, scan, length in frames and colour. `seconds` is how long the file is.
 * Returns whether its coding is all known, and whether it may be of fields.
 */
function sayPicture(
  said: Said,
  {
    picture,
    track,
    rate,
    seconds,
  }: { picture: Picture | null; track: Track | null; rate: Rate | null; seconds: number | null },
): { known: boolean; fields: boolean } {
  const prores = track ? PRORES[track.tag] : undefined;
  const config =
    track?.config ??
    (picture?.config && picture.codec && CONFIG[picture.codec]
      ? { type: CONFIG[picture.codec]!, data: picture.config }
      : null);
  const coding = config ? samplingOf(config) : null;
  const { chroma, bitDepth } = prores ?? coding ?? { chroma: null, bitDepth: null };
  const codec = picture?.codec ?? (prores ? 'prores' : null);
  said
    .text('codec', codec && codecName(codec))
    .text('codecTag', track?.tag)
    .text('profile', prores?.profile ?? coding?.profile)
    .number('level', coding?.level);
  saySize(said, picture, track);
  said.text('chroma', chroma).count('bitDepth', bitDepth);
  const scan = track?.fields
    ? scanOf(track.fields)
    : prores === undefined && coding?.progressive
      ? 'progressive'
      : null;
  said.text('scan', scan);
  if (track) sayTrack(said, track);
  said.value('rate', rate && { type: 'rate', rate });
  if (track?.varies && track.timescale > 0)
    said
      .number('rateLeast', perSecond(track.timescale, track.varies.most))
      .number('rateMost', perSecond(track.timescale, track.varies.least));
  const frames = track ? track.samples : rate && seconds !== null ? Math.round(seconds * fps(rate)) : 0;
  said.count('frames', frames > 0 ? frames : null);
  sayColour(said, picture, track, prores !== undefined);
  return {
    known: codec !== null && chroma !== null && bitDepth !== null && rate !== null,
    fields: picture?.codec === 'avc' && coding?.progressive !== true,
  };
}

function saySize(said: Said, picture: Picture | null, track: Track | null): void {
  const [width, height] = [picture?.width || track?.width || 0, picture?.height || track?.height || 0];
  if (width > 0 && height > 0) {
    said.count('width', width).count('height', height);
    const aspect = track?.pixelAspect ?? picture?.pixelAspect ?? null;
    if (aspect) said.value('pixelAspect', { type: 'fraction', ...lowest(aspect.num, aspect.den) });
    const shown = lowest(width * (aspect?.num ?? 1), height * (aspect?.den ?? 1));
    said.text('displayAspect', `${shown.num}:${shown.den}`);
  }
  said.count('rotation', track?.rotation ?? picture?.rotation ?? 0);
}

/** What the samples of a picture's track say: bits a second, and whether each can be decoded by itself. */
function sayTrack(said: Said, track: Track): void {
  const seconds = track.timescale > 0 ? track.duration / track.timescale : 0;
  if (seconds > 0) said.count('bitRate', Math.floor((track.bytes * 8) / seconds));
  if (track.samples > 0)
    said.flag('allIntra', track.syncSamples === null || track.syncSamples === track.samples);
}

function sayColour(said: Said, picture: Picture | null, track: Track | null, isProRes: boolean): void {
  said.count('maxCll', track?.light?.brightest || null).count('maxFall', track?.light?.average || null);
  if (track?.mastering && track.mastering.most > 0)
    said.text('masteringDisplay', displayOf(track.mastering.least / 1e4, track.mastering.most / 1e4));
  const colour = track?.colour;
  const full = colour?.full ?? picture?.colour.fullRange;
  const names = colour
    ? {
        primaries: H273.primaries[colour.primaries],
        transfer: H273.transfer[colour.transfer],
        matrix: H273.matrix[colour.matrix],
      }
    : {
        primaries: colourName(picture?.colour.primaries),
        transfer: colourName(picture?.colour.transfer),
        matrix: colourName(picture?.colour.matrix),
      };
  // What does not say is limited by ITU-T H.265 (E.3.1) and SMPTE RDD 36. H.264 has the same rule, but there silence is kept as silence:
  // cameras that record full range and forget to say so write H.264.
  const stated = full === true || Object.values(names).some((n) => n);
  const byRule = isProRes || picture?.codec === 'hevc';
  said.text(
    'range',
    stated && full !== undefined && full !== null ? (full ? 'full' : 'limited') : byRule ? 'limited' : null,
  );
  said.text('primaries', names.primaries).text('transfer', names.transfer).text('matrix', names.matrix);
}

/** What is said of sound: `audio` are the channels of each stream, the rest is said of the first. */
function saySound(
  said: Said,
  audio: readonly number[],
  first: OpenedContainer['sounds'][number] | undefined,
  track: Track | undefined,
): void {
  said
    .count(
      'channels',
      audio.reduce((n, c) => n + c, 0),
    )
    .count('audioStreams', audio.length);
  if (audio[0]) said.text('channelLayout', layoutName(audio[0]));
  const pcm = first?.codec ? pcmBits(first.codec) : null;
  if (first)
    said
      .text('audioCodec', first.codec && codecName(first.codec))
      .count('sampleRate', Math.round(first.sampleRate))
      .count('audioBits', pcm);
  if (first && pcm) said.count('audioBitRate', pcm * (audio[0] ?? 0) * Math.round(first.sampleRate));
  else if (track && track.timescale > 0 && track.duration > 0 && track.bytes > 0)
    said.count('audioBitRate', Math.floor((track.bytes * 8) / (track.duration / track.timescale)));
}

/** The timecode of the first frame: of a timecode track or a tag (`stated`), and of the clock, where it has a `local` time. */
function sayStart(
  said: Said,
  { read, stated, local }: { read: ContainerRead; stated: string | undefined; local: string | null },
  rate: Rate,
): void {
  const tmcd = read.movie?.tracks.find((t) => t.timecode)?.timecode ?? null;
  if (tmcd && read.timecodeFrame !== null) sayTimecode(said, tmcd, read.timecodeFrame, rate);
  else sayAddress(said, stated, rate);
  if (local === null) return;
  const [h, m, s] = local.slice(11).split(':').map(Number) as [number, number, number];
  said.value('start', timeOfDayValue(h * 3600 + m * 60 + s, rate), 'clock');
}

/** From the epoch of MP4 and MOV to that of Matroska. */
const SECONDS_1904_TO_2001 = 3_061_152_000;

const tagMoment = (tags: Said) => {
  const v = tags.statements.find((s) => s.field === 'recordedAt')?.value;
  return v?.type === 'moment' ? v.moment : null;
};

const lowest = (num: number, den: number): { num: number; den: number } => {
  const d = divisor(num, den) || 1;
  return { num: num / d, den: den / d };
};

/** QuickTime File Format Specification, field/frame information: 1 field is progressive; orders 1 and 6 begin with the top field. */
const scanOf = (f: { count: number; order: number }): string | null =>
  f.count === 1
    ? 'progressive'
    : f.count !== 2
      ? null
      : f.order === 1 || f.order === 9
        ? 'interlaced, top field first'
        : f.order === 6 || f.order === 14
          ? 'interlaced, bottom field first'
          : 'interlaced';

/** The rate of a track from its ticks: exact where all samples last as long; the average where they do not. */
function trackRate(timescale: number, delta: number | null, samples: number, duration: number): Rate | null {
  if (timescale <= 0) return null;
  if (delta !== null && delta > 0) return plausible(near(rateOfTicks(timescale, delta)));
  if (samples > 1 && duration > 0 && Number.isSafeInteger(timescale * samples))
    return plausible(near(rateOfTicks(timescale * samples, duration)));
  return null;
}

/** Frames a second to three places, of a frame that lasts so many ticks. */
const perSecond = (timescale: number, ticks: number): number => Math.round((timescale / ticks) * 1000) / 1000;

const plausible = (r: Rate): Rate | null => (isPlausible(r) ? r : null);

/** A rate from a frame's duration or from packets, as the standard one where it is near, else to three places. */
const nearRate = (n: number): Rate | null =>
  n > 0 && n < 1e5 ? near(rateOfTicks(Math.max(1, Math.round(n * 1000)), 1000)) : null;
/** Coarse clocks state 2997/100: within 5 in 100 000 the standard rate is meant. */
const near = (r: Rate): Rate => STANDARD_RATES.find((s) => Math.abs(fps(s) / fps(r) - 1) < 5e-5) ?? r;

function sayTimecode(said: Said, track: NonNullable<Track['timecode']>, frame: number, picture: Rate): void {
  said.statements.push(...new Said('timecodeTrack').text('reel', track.reel).statements);
  if (track.timescale <= 0 || track.frameDuration <= 0) return;
  const counts = near(rateOfTicks(track.timescale, track.frameDuration));
  if (!countsTimecode(counts)) return;
  const drop = track.drop && canDrop(counts);
  const tc = timecode(frame, counts, drop);
  // An address counted at another rate names the same moment at the picture's, where it falls on a frame.
  said.value('start', { type: 'timecode', timecode: atRate(tc, picture) ?? tc }, 'timecodeTrack');
  said
    .value('timecodeRate', { type: 'rate', rate: counts }, 'timecodeTrack')
    .value('drop', { type: 'flag', flag: drop }, 'timecodeTrack');
}

function sayAddress(said: Said, stated: string | undefined, rate: Rate): void {
  const m = stated ? /^(\d\d):(\d\d):(\d\d)([:;.,])(\d{2,3})$/.exec(stated.trim()) : null;
  if (!m) return;
  const drop = m[4] !== ':' && canDrop(rate);
  const tc = parseTimecode(stated!, rate);
  said.value('start', tc && { type: 'timecode', timecode: tc }, 'timecodeTrack');
  if (tc) said.value('drop', { type: 'flag', flag: drop }, 'timecodeTrack');
}

/** Everything a sound file's header says: `fmt `, `data` and `bext` chunks. `rate` is what its timecode counts at: iXML says, or the job. */
export function statementsFromWave(wave: Wave, rate: Rate): ContainerSays {
  const said = new Said('container');
  const { format, dataBytes, bext } = wave;
  const short = format.kind === 3 ? `pcm_f${format.bits}` : format.kind === 1 ? `pcm_s${format.bits}` : null;
  said
    .text('container', 'WAV')
    .count('channels', format.channels)
    .count('audioStreams', 1)
    .text('channelLayout', layoutName(format.channels));
  said
    .text('audioCodec', short && codecName(short))
    .count('sampleRate', format.sampleRate)
    .count('audioBits', format.bits)
    .count('audioBitRate', format.bytesPerSecond * 8);
  if (format.blockAlign > 0) {
    const samples = Math.floor(dataBytes / format.blockAlign);
    said
      .count('samples', samples)
      .number(
        'length',
        format.sampleRate > 0 ? Math.round((samples / format.sampleRate) * 1000) / 1000 : null,
      );
  }
  return {
    statements: [...said.statements, ...(bext ? bextSays(bext, format.sampleRate, rate) : [])],
    audio: [format.channels],
    askProbe: short === null,
    askTags: false,
  };
}

function bextSays(bext: Bext, sampleRate: number, rate: Rate): Statement[] {
  const said = new Said('bext');
  // Recorders put lines like "sSCENE=12" into the description (common practice).
  const lines = new Map(
    [...bext.description.matchAll(/^[a-z]?([A-Z]{3,8}\d*)=(.*)$/gm)].map((m) => [m[1]!, m[2]!.trim()]),
  );
  const names = [...lines].filter(([k, v]) => /^TRK\d+$/.test(k) && v !== '').map(([, v]) => v);
  said
    .text('scene', lines.get('SCENE'))
    .text('take', lines.get('TAKE'))
    .text('reel', lines.get('TAPE'))
    .text('comment', lines.get('NOTE'))
    .text('trackNames', names.join(', '));
  said
    .text('description', lines.size > 0 ? null : bext.description)
    .text('model', bext.originator)
    .text('uniqueId', bext.umid || bext.originatorReference);
  const since = sampleRate > 0 ? bext.timeReference / sampleRate : NaN;
  const sound = since >= 0 && since < 86_400;
  // The origination time stamps the file, the time reference its first sample: the latter is when the recording began.
  const time = sound ? new Date(Math.floor(since) * 1000).toISOString().slice(11, 19) : bext.time;
  const moment = bext.date && time ? parseMoment(`${bext.date}T${time}`, 0) : null;
  said.value('recordedAt', moment && { type: 'moment', moment });
  if (sound) said.value('start', timeOfDayValue(since, rate)).count('timeReference', bext.timeReference);
  return said.statements;
}
