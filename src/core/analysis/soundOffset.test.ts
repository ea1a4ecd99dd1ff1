import { describe, expect, test } from '@jest/globals';
import { LISTENED, loudnessCurve, soundOffset } from './soundOffset';

// Sound made here with offsets that are known: hammering, calls and steps at uneven times, heard by two microphones.

// A test's own global names are slow to look up.
const { exp, floor, imul, round } = Math;

/** Numbers from 0 to 1, always the same ones (mulberry32, a public-domain generator). */
function numbers(seed: number): () => number {
  let a = seed;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = imul(a ^ (a >>> 15), 1 | a);
    t = (t + imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** A scene of so many seconds, at four times the rate that is listened to, so that it can be heard from any moment on. */
const FINE = 4;
function scene(seconds: number, seed = 1): Float32Array {
  const next = numbers(seed);
  const sound = new Float32Array(seconds * LISTENED * FINE);
  for (let at = 0.2; at < seconds - 1; at += 0.15 + next() * 0.9) {
    const [from, long, loud] = [at * LISTENED * FINE, (0.03 + next() * 0.25) * LISTENED * FINE, 0.1 + next()];
    for (let i = 0; i < long; i++) sound[floor(from) + i]! += loud * (next() * 2 - 1) * exp((-4 * i) / long);
  }
  return sound;
}

/** What a microphone hears of it from a moment on: at a level of its own, with noise of its own. */
function heard(
  sound: Float32Array,
  {
    from,
    seconds,
    level = 1,
    noise = 0,
    seed = 7,
  }: { from: number; seconds: number; level?: number; noise?: number; seed?: number },
): Float32Array {
  const next = numbers(seed);
  const out = new Float32Array(seconds * LISTENED);
  for (let i = 0; i < out.length; i++) {
    let sum = 0;
    const at = round(from * LISTENED * FINE) + i * FINE;
    for (let k = 0; k < FINE; k++) sum += sound[at + k] ?? 0;
    out[i] = (sum / FINE) * level + (next() * 2 - 1) * noise;
  }
  return out;
}

const rms = (of: Float32Array): number => Math.sqrt(of.reduce((n, x) => n + x * x, 0) / of.length);
const offsetOf = (a: Float32Array, b: Float32Array) => soundOffset(loudnessCurve(a), loudnessCurve(b));

const whole = scene(60);
const loud = rms(heard(whole, { from: 0, seconds: 60 }));

describe('two recordings of one scene', () => {
  test.each([0.0, 0.0125, 1.2345, 3.3667, -2.7183, 11.0071, -14.5])(
    'the second begins %d seconds after the first',
    (seconds) => {
      const a = heard(whole, { from: 20, seconds: 20 });
      const b = heard(whole, { from: 20 + seconds, seconds: 25, level: 0.1 });
      const found = offsetOf(a, b)!;
      // A frame at 59.94 lasts 16.7 ms: less than an eighth of it.
      expect(Math.abs(found.seconds - seconds)).toBeLessThan(0.002);
      expect(found.alike).toBeGreaterThan(0.6);
    },
  );

  test('with noise as loud as the sound, at each of several seeds', () => {
    for (let seed = 1; seed <= 8; seed++) {
      const seconds = -6 + seed * 1.0371;
      const a = heard(whole, { from: 18, seconds: 30, noise: loud * Math.sqrt(3), seed });
      const b = heard(whole, {
        from: 18 + seconds,
        seconds: 22,
        level: 0.5,
        noise: loud * 0.5 * Math.sqrt(3),
        seed: seed + 100,
      });
      const found = offsetOf(a, b);
      expect(Math.abs(found!.seconds - seconds)).toBeLessThan(0.004);
    }
  });
});

describe('where the sound does not tell', () => {
  test('two scenes that have nothing to do with each other', () => {
    for (let seed = 2; seed < 14; seed++) {
      const [a, b] = [scene(30, seed), scene(30, seed + 50)];
      expect(offsetOf(heard(a, { from: 0, seconds: 28 }), heard(b, { from: 0, seconds: 28 }))).toBeNull();
    }
  });

  test('a regular beat, which fits at every beat', () => {
    const beat = new Float32Array(30 * LISTENED);
    for (let at = 0; at < beat.length; at += LISTENED / 2) beat.fill(0.5, at, at + 400);
    expect(offsetOf(beat, beat.slice(3000))).toBeNull();
  });

  test('silence, noise alone, and less than two seconds', () => {
    const silence = new Float32Array(10 * LISTENED);
    expect(offsetOf(silence, silence)).toBeNull();
    const noise = (seed: number) => heard(silence, { from: 0, seconds: 10, noise: 0.5, seed });
    expect(offsetOf(noise(1), noise(2))).toBeNull();
    const short = heard(whole, { from: 5, seconds: 1 });
    expect(offsetOf(short, heard(whole, { from: 0, seconds: 20 }))).toBeNull();
    expect(offsetOf(new Float32Array(0), new Float32Array(0))).toBeNull();
  });
});
