import FFT from 'fft.js';

// How far apart two recordings of the same sound begin, found from the sound alone.

/** Samples a second that are listened to, and of the curve of loudness that is made of them. */
export const [LISTENED, CURVE] = [8000, 500] as const;
const IN_ONE = LISTENED / CURVE;
/** Seconds over which loudness is compared with what is around it. */
const AROUND = 0.5;
/** Seconds two recordings share at least, to be looked at there. */
const LEAST = 2;
/**
 * How sure it is to be at least, and how much surer than at any other place: the correlation times the root of the seconds that are shared, as
 * a chance agreement falls with how much there is to agree. Chosen by trials: of recordings that have nothing to do with each other the surest
 * place came to 1.2, of those of one scene under noise three times as loud to 1.9.
 */
const [SURE, CLEAR] = [1.6, 1.25] as const;
/** Seconds around the best place that count as the same place. */
const SAME = 0.06;

/**
 * How loud sound is against what is around it, `CURVE` values a second, without a mean. `samples` are of one channel, `LISTENED` a second.
 * Levels count by their logarithm: two microphones hear the same rise at quite another level.
 */
export function loudnessCurve(samples: ArrayLike<number>): Float64Array {
  const n = Math.floor(samples.length / IN_ONE);
  const levels = new Float64Array(n);
  let all = 0;
  for (let i = 0; i < n; i++) {
    let energy = 0;
    for (let k = i * IN_ONE; k < (i + 1) * IN_ONE; k++) energy += samples[k]! * samples[k]!;
    levels[i] = energy / IN_ONE;
    all += levels[i]!;
  }
  // What is far below the mean is silence, however deep.
  const floor = n === 0 ? 1 : (all / n) * 1e-3 + 1e-9;
  for (let i = 0; i < n; i++) levels[i] = Math.log10(levels[i]! + floor);
  const sums = new Float64Array(n + 1);
  for (let i = 0; i < n; i++) sums[i + 1] = sums[i]! + levels[i]!;
  const half = Math.round((AROUND * CURVE) / 2);
  const curve = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    const [from, to] = [Math.max(0, i - half), Math.min(n, i + half + 1)];
    curve[i] = levels[i]! - (sums[to]! - sums[from]!) / (to - from);
  }
  return curve;
}

/** Where two curves lie over each other best. */
export interface SoundOffset {
  /** Seconds from the beginning of the first to that of the second. */
  seconds: number;
  /** From 0 to 1. */
  alike: number;
}

/**
 * How long after the first recording the second begins, by the correlation of their curves over every shift at which they share two seconds
 * at least; null where they are not alike at any, or as much alike at several, as of a regular beat.
 */
export function soundOffset(a: Float64Array, b: Float64Array): SoundOffset | null {
  const least = LEAST * CURVE;
  if (a.length < least || b.length < least) return null;
  const raw = crossCorrelation(a, b);
  const [energyA, energyB] = [energies(a), energies(b)];
  const shared = (shift: number): [number, number] => [
    Math.max(0, shift),
    Math.min(a.length, b.length + shift),
  ];
  /** At a shift of so many values: how much alike what they share is. */
  const alike = (shift: number): number => {
    const [from, to] = shared(shift);
    if (to - from < least) return -1;
    const e = (energyA[to]! - energyA[from]!) * (energyB[to - shift]! - energyB[from - shift]!);
    return e <= 0 ? -1 : raw(shift) / Math.sqrt(e);
  };
  /** The surest shift, of those that are not near another. */
  const surest = (not: number | null): { shift: number; sure: number } => {
    const found = { shift: 0, sure: -1 };
    for (let shift = -b.length + least; shift <= a.length - least; shift++) {
      if (not !== null && Math.abs(shift - not) <= SAME * CURVE) continue;
      const [from, to] = shared(shift);
      const sure = alike(shift) * Math.sqrt((to - from) / CURVE);
      if (sure > found.sure) Object.assign(found, { shift, sure });
    }
    return found;
  };
  const { shift, sure } = surest(null);
  if (sure < SURE || sure < surest(shift).sure * CLEAR) return null;
  const [before, here, after] = [alike(shift - 1), alike(shift), alike(shift + 1)];
  const bend = before - 2 * here + after;
  const between = bend < 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (before - after)) / bend)) : 0;
  return { seconds: (shift + between) / CURVE, alike: Math.min(1, here) };
}

function energies(curve: Float64Array): Float64Array {
  const sums = new Float64Array(curve.length + 1);
  for (let i = 0; i < curve.length; i++) sums[i + 1] = sums[i]! + curve[i]! * curve[i]!;
  return sums;
}

/** Sums of products at every shift, by way of their spectra. */
function crossCorrelation(a: Float64Array, b: Float64Array): (shift: number) => number {
  const size = 2 ** Math.ceil(Math.log2(a.length + b.length));
  const fft = new FFT(size);
  const spectrum = (curve: Float64Array): number[] => {
    const padded = new Array<number>(size).fill(0);
    for (let i = 0; i < curve.length; i++) padded[i] = curve[i]!;
    const out = fft.createComplexArray();
    fft.realTransform(out, padded);
    fft.completeSpectrum(out);
    return out;
  };
  const [x, y] = [spectrum(a), spectrum(b)];
  const product = fft.createComplexArray();
  for (let i = 0; i < size * 2; i += 2) {
    product[i] = x[i]! * y[i]! + x[i + 1]! * y[i + 1]!;
    product[i + 1] = x[i + 1]! * y[i]! - x[i]! * y[i + 1]!;
  }
  const sums = fft.createComplexArray();
  fft.inverseTransform(sums, product);
  return (shift) => sums[2 * (shift < 0 ? shift + size : shift)]!;
}
