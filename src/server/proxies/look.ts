import {
  type Analysis,
  findingsOf,
  FROZEN,
  type Level,
  PictureReader,
  type Range,
  type Sampled,
  sampledFrames,
  SAMPLES_A_SECOND,
  SoundReader,
  type SoundSeen,
  type Waveform,
} from '../../core/analysis';
import { fps, type Rate } from '../../core/platform/timecode/rate';
import { isRgb, type ProxySource } from '../../core/proxies/source';
import { posterFit, selected, SMALL_FIT, stripFit } from '../analysis';
import { asInput } from '../platform/media/tools';
import { FIRST_PIPE } from './run';

/** Audio streams that are listened to at most: each has a pipe of its own. */
const STREAMS = 32;

/** What was seen of a clip while a file was made of it. */
export interface Seen {
  analysis: Analysis;
  sampled: Sampled;
  waveform: Waveform | null;
  /** How many pictures there were. */
  frames: number;
}

/** Where the pictures go that are made in the same run. */
export interface Stills {
  filmstrip: string;
  poster: string;
}

/** What FFmpeg does besides making a file, with the same decoded pictures and sound. */
export interface Looking {
  /** Filters of the picture, once it has its size. */
  branches: string[];
  /** Arguments of the further outputs. */
  outputs: string[];
  pipes: ((bytes: Uint8Array) => void)[];
  /** What was seen, once all is read. */
  seen(): Seen;
}

/** What FFmpeg does to have sound listened to, and what was heard once all is read. */
export interface Hearing {
  /** Arguments of the outputs. */
  outputs: string[];
  pipes: ((bytes: Uint8Array) => void)[];
  heard(): { sound: SoundSeen[]; levels: Level[]; waveform: Waveform | null };
}

/** Listens to each stream of sound by a pipe of its own, from the pipe of this number on. `audio`: channels, by file and stream. */
export function hearing(audio: ProxySource['audio'], first: number): Hearing {
  const streams = audio
    .flatMap((of, file) =>
      of.map((channels, stream) => ({ file, stream, reader: new SoundReader(channels) })),
    )
    .slice(0, STREAMS);
  return {
    outputs: streams.flatMap(({ file, stream }, i) => [
      ...['-map', `${file}:a:${stream}`, '-ar', String(SAMPLES_A_SECOND)],
      ...['-c:a', 'pcm_s16le', '-f', 's16le', `pipe:${first + i}`],
    ]),
    pipes: streams.map(
      ({ reader }) =>
        (bytes) =>
          reader.push(bytes),
    ),
    heard() {
      const sound = streams.map((s) => s.reader.end());
      const waveform = {
        length: Math.max(...sound.map((s) => s.length)),
        channels: sound.flatMap((s) => s.peaks.map((p) => [...p])),
      };
      return {
        sound,
        levels: sound.flatMap((s) => s.levels),
        waveform: sound.length === 0 ? null : waveform,
      };
    },
  };
}

/** What was heard of a recording of sound. */
export interface HeardAlone {
  analysis: Analysis;
  waveform: Waveform;
}

/** What of a recording of sound was heard, counted in so many frames of so many a second. Null where nothing was listened to. */
export function heardAlone(hearing: Hearing, frames: number, rate: Rate): HeardAlone | null {
  const { sound, levels, waveform } = hearing.heard();
  if (waveform === null) return null;
  const findings = findingsOf({ frames, black: [] }, [], sound, rate);
  return { analysis: { findings, levels }, waveform };
}

/** Looks at and listens to a clip of which a file is made. */
export function looking(source: ProxySource, keepFrames: readonly string[], stills: Stills): Looking {
  const { frames, rate } = source;
  // Of RGB it has become Y′CbCr on its way here.
  const matrix = isRgb(source) ? 'bt709' : source.matrix;
  const pictures = new PictureReader(frames, fps(rate));
  const marks = { freeze_start: [] as number[], freeze_end: [] as number[] };
  let line = '';
  const readMarks = (bytes: Uint8Array): void => {
    const lines = (line + Buffer.from(bytes).toString('latin1')).split('\n');
    line = lines.pop()!;
    for (const l of lines) {
      const m = /^lavfi\.freezedetect\.(freeze_start|freeze_end)=([\d.]+)/.exec(l);
      if (m) marks[m[1] as keyof typeof marks].push(Number(m[2]));
    }
  };
  const listening = hearing(source.audio, FIRST_PIPE + 2);
  const pipe = (n: number): string => `pipe:${FIRST_PIPE + n}`;
  const told = ['freeze_start', 'freeze_end']
    .map((key) => `metadata=mode=print:key=lavfi.freezedetect.${key}:file=pipe\\\\:${FIRST_PIPE + 1}`)
    .join(',');
  const still = ['-frames:v', '1', '-f', 'image2', '-update', '1'];
  return {
    branches: [
      `freezedetect=n=${FROZEN.decibels}dB:d=${FROZEN.seconds},${told},${SMALL_FIT}`,
      `${selected(sampledFrames(frames))},${stripFit(matrix)},tile=${sampledFrames(frames).length}x1`,
      `${selected([Math.floor(frames / 2)])},${posterFit(matrix)}`,
    ],
    outputs: [
      ...['-map', '[b0]', ...keepFrames, '-c:v', 'rawvideo', '-f', 'rawvideo', pipe(0)],
      ...['-map', '[b1]', ...keepFrames, '-q:v', '4', ...still, asInput(stills.filmstrip)],
      ...['-map', '[b2]', ...keepFrames, '-q:v', '3', ...still, asInput(stills.poster)],
      ...listening.outputs,
    ],
    pipes: [(bytes) => pictures.push(bytes), readMarks, ...listening.pipes],
    seen() {
      const seen = pictures.end();
      const { sound, levels, waveform } = listening.heard();
      const frame = (seconds: number): number => Math.min(seen.frames, Math.round(seconds * fps(rate)));
      const frozen = marks.freeze_start.map((from, i): Range => ({
        from: frame(from),
        to: marks.freeze_end[i] === undefined ? seen.frames : frame(marks.freeze_end[i]),
      }));
      return {
        analysis: { findings: findingsOf(seen, frozen, sound, rate), levels },
        sampled: seen.sampled,
        frames: seen.frames,
        waveform,
      };
    },
  };
}
