import { type Range, Ranges, shared } from './ranges';

/** Samples a second that sound is looked at with: what has others is made so. */
export const SAMPLES_A_SECOND = 48_000;
/** Samples of a window: 10 ms. */
const WINDOW = 480;
/** The highest and lowest value of 16 bits: sound that stands there was clipped. */
const FULL = 32_767;
/**
 * What counts as silence, of all channels at once (so far below full scale, so many seconds), and as clipped: so many samples one after
 * another at full scale, which what is recorded cleanly has by chance only. Common practice, no standard.
 */
export const SILENT = { decibels: -60, seconds: 5 } as const;
export const CLIPPED = { samples: 3, joined: 1 } as const;
const QUIET = 10 ** (SILENT.decibels / 20) * 32_768;

/** Peaks of a waveform at most, of each channel. */
const MOST = 4096;

/** The highest and mean level of a channel, decibels below full scale; null where there is nothing at all. */
export interface Level {
  peak: number | null;
  mean: number | null;
}

export interface SoundSeen {
  /** Seconds. */
  length: number;
  /** Of each channel: the highest value of each part of it, from 0 to 255, parts of the same length. */
  peaks: Uint8Array[];
  levels: Level[];
  /** Of each channel where it is silent, in seconds; of any length. */
  quiet: Range[][];
  /** Of each channel. */
  clipped: Range[][];
}

const decibels = (v: number): number | null => (v === 0 ? null : 20 * Math.log10(v / 32_768));

/** Takes the samples of one audio stream as they come: 16 bits, channel by channel, in pieces of any length. */
export class SoundReader {
  readonly #of;
  #carried = new Uint8Array(0);
  /** Samples of each channel so far, and windows of a part of the waveform. */
  #at = 0;
  #windows = 1;
  #inWindow = 0;
  #inPart = 0;

  constructor(private readonly channels: number) {
    this.#of = Array.from({ length: channels }, () => ({
      peaks: [] as number[],
      part: 0,
      window: 0,
      highest: 0,
      squares: 0,
      run: 0,
      quiet: new Ranges(0),
      clipped: new Ranges(0, CLIPPED.joined * SAMPLES_A_SECOND),
    }));
  }

  push(bytes: Uint8Array): void {
    const all = new Uint8Array(this.#carried.length + bytes.length);
    all.set(this.#carried);
    all.set(bytes, this.#carried.length);
    const whole = all.length - (all.length % (2 * this.channels));
    this.#carried = all.slice(whole);
    const view = new DataView(all.buffer);
    for (let at = 0; at < whole; at += 2 * this.channels) {
      for (let c = 0; c < this.channels; c++) this.#sample(c, view.getInt16(at + 2 * c, true));
      this.#at++;
      if (++this.#inWindow === WINDOW) this.#endWindow();
    }
  }

  #sample(channel: number, value: number): void {
    const of = this.#of[channel]!;
    const high = value < 0 ? -value : value;
    if (high > of.window) of.window = high;
    of.squares += value * value;
    if (high >= FULL) {
      if (++of.run === CLIPPED.samples) of.clipped.at(this.#at - CLIPPED.samples + 1, true);
    } else if (of.run > 0) {
      of.run = 0;
      of.clipped.at(this.#at, false);
    }
  }

  #endWindow(): void {
    const from = this.#at - this.#inWindow;
    for (const of of this.#of) {
      of.quiet.at(from, of.window < QUIET);
      of.part = Math.max(of.part, of.window);
      of.highest = Math.max(of.highest, of.window);
      of.window = 0;
    }
    this.#inWindow = 0;
    if (++this.#inPart === this.#windows) this.#endPart();
  }

  #endPart(): void {
    this.#inPart = 0;
    for (const of of this.#of) {
      of.peaks.push(Math.min(255, of.part >> 7));
      of.part = 0;
    }
    if ((this.#of[0]?.peaks.length ?? 0) < MOST) return;
    for (const of of this.#of)
      of.peaks = Array.from({ length: MOST / 2 }, (_, i) => Math.max(of.peaks[2 * i]!, of.peaks[2 * i + 1]!));
    this.#windows *= 2;
  }

  end(): SoundSeen {
    if (this.#inWindow > 0) this.#endWindow();
    if (this.#inPart > 0) this.#endPart();
    const seconds = (list: Range[]): Range[] =>
      list.map((r) => ({ from: r.from / SAMPLES_A_SECOND, to: r.to / SAMPLES_A_SECOND }));
    return {
      length: this.#at / SAMPLES_A_SECOND,
      peaks: this.#of.map((of) => Uint8Array.from(of.peaks)),
      levels: this.#of.map((of) => ({
        peak: decibels(of.highest),
        mean: decibels(Math.sqrt(of.squares / Math.max(1, this.#at))),
      })),
      quiet: this.#of.map((of) => seconds(of.quiet.of(this.#at))),
      clipped: this.#of.map((of) => seconds(of.clipped.of(this.#at))),
    };
  }
}

/** Where all channels of all streams are silent for long. Seconds. */
export const silences = (streams: readonly SoundSeen[]): Range[] =>
  shared(
    streams.flatMap((s) => s.quiet),
    SILENT.seconds,
  );
