import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { eq } from 'drizzle-orm';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { Change, FindQuery, type RollingView } from '../../core/choose';
import type { Changed } from '../../core/platform/shapes';
import { clipViews } from '../cards';
import { look, takeIn } from '../intake';
import { beginJob } from '../jobs';
import { alone } from '../platform/work/context';
import { FFMPEG } from '../platform/media/tools';
import { makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { changeChoice, undoChoice } from './change';
import { chosenClip, findClips } from './find';
import { listen } from './listen';
import { loadMarks, marksOf } from './marks';

// Two cameras and a recorder at one scene, at 25, 29.97 drop and 59.94 drop: footage made here with offsets that are known. Each timecode is
// wrong by so many frames on purpose; the sound says how many.

let s: TestShelf;
const ids = new Map<string, string>();

// A test's own global names are slow to look up.
const { exp, floor, imul, max, min, random, round } = Math;

const RATE = 48_000;
/** Steps, hammering and calls at uneven times: 70 seconds of it, always the same. */
function scene(): Float32Array {
  let a = 12345;
  const next = () => (a = (imul(a, 1103515245) + 12345) & 0x7fffffff) / 0x7fffffff;
  const sound = new Float32Array(70 * RATE);
  for (let at = 0.3; at < 69; at += 0.15 + next() * 0.9) {
    const [from, long, loud] = [floor(at * RATE), (0.03 + next() * 0.25) * RATE, 0.1 + next() * 0.6];
    for (let i = 0; i < long; i++) sound[from + i]! += loud * (next() * 2 - 1) * exp((-4 * i) / long);
  }
  return sound;
}

/** Part of it as 16-bit samples, at a level and with noise of its own. */
function heard(
  sound: Float32Array,
  { from, seconds, level = 1, noise = 0 }: { from: number; seconds: number; level?: number; noise?: number },
): Buffer {
  const out = Buffer.alloc(round(seconds * RATE) * 2);
  for (let i = 0; i < out.length / 2; i++) {
    const x = (sound[round(from * RATE) + i] ?? 0) * level + (random() * 2 - 1) * noise;
    out.writeInt16LE(max(-32_768, min(32_767, round(x * 32_767))), i * 2);
  }
  return out;
}

const ffmpeg = (args: string[], input?: Buffer) =>
  execFileSync(FFMPEG(), ['-v', 'error', '-y', ...args], { input, stdio: ['pipe', 'ignore', 'inherit'] });
const PCM = ['-f', 's16le', '-ar', String(RATE), '-ac', '1', '-i', 'pipe:0'];

/** A clip of a camera: pictures at a rate, and the scene's sound from a moment on. */
function shoot(file: string, of: { rate: string; start: string; frames: number; sound: Buffer }): void {
  mkdirSync(path.dirname(file), { recursive: true });
  ffmpeg(
    [
      ...['-f', 'lavfi', '-i', `testsrc2=size=192x108:rate=${of.rate}`, ...PCM],
      ...['-frames:v', String(of.frames), '-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p'],
      ...[
        '-c:a',
        'pcm_s16le',
        '-timecode',
        of.start,
        '-metadata',
        `creation_time=2026-05-06T${of.start.slice(0, 2)}:00:00Z`,
        file,
      ],
    ],
    of.sound,
  );
}

/** A recording of sound, its first sample so many seconds after midnight. */
function record(file: string, of: { since: number; sound: Buffer }): void {
  mkdirSync(path.dirname(file), { recursive: true });
  ffmpeg(
    [
      ...[
        ...PCM,
        '-c:a',
        'pcm_s16le',
        '-write_bext',
        '1',
        '-metadata',
        `time_reference=${Math.round(of.since * RATE)}`,
      ],
      ...[
        '-metadata',
        'origination_date=2026-05-06',
        '-metadata',
        `origination_time=${Math.round(of.since / 3600)}:00:00`,
        file,
      ],
    ],
    of.sound,
  );
}

/** Seconds since midnight of an hour as timecode counts it: drop-frame counting is 2 × 54 frames an hour behind thirty a second (SMPTE ST 12-1). */
const hourAt = (hour: number, fps: number): number => {
  const whole = Math.round(fps);
  return (hour * (3600 * whole - (whole === 25 ? 0 : (54 * whole) / 15))) / fps;
};

/** Scenes, an hour apart: the rate, what a timecode at a whole second is, and frames by which the second camera's is wrong. */
const SCENES = [
  { name: '25', rate: '25', fps: 25, hour: 10, late: 3, sep: ':' },
  { name: '29.97 drop', rate: '30000/1001', fps: 30_000 / 1001, hour: 11, late: -5, sep: ';' },
  { name: '59.94 drop', rate: '60000/1001', fps: 60_000 / 1001, hour: 12, late: 11, sep: ';' },
] as const;

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const sound = scene();
  const at = (folder: string, name: string) => path.join(s.shelf, 'In', folder, 'CLIP', name);
  for (const [i, { rate, fps, hour, late, sep }] of SCENES.entries()) {
    // The recorder at the hour, the first camera 4 seconds later, the second 9; its own timecode says some frames more or less.
    const stated = Math.round(9 * fps) + late;
    const [second, frame] = [Math.floor(stated / Math.round(fps)), stated % Math.round(fps)];
    const two = (n: number) => String(n).padStart(2, '0');
    shoot(at('A001', `A00${i}.MOV`), {
      ...{ rate, frames: Math.round(20 * fps), start: `${hour}:00:04${sep}00` },
      sound: heard(sound, { from: 4, seconds: 20, level: 0.6 }),
    });
    shoot(at('B001', `B00${i}.MOV`), {
      ...{ rate, frames: Math.round(25 * fps), start: `${hour}:00:${two(second)}${sep}${two(frame)}` },
      sound: heard(sound, { from: 9, seconds: 25, level: 0.3, noise: 0.02 }),
    });
    record(at('S001', `S00${i}.WAV`), {
      since: hourAt(hour, fps),
      sound: heard(sound, { from: 0, seconds: 60 }),
    });
  }
  // At another time: nothing rolls with it.
  makeClip(at('A001', 'A009.MOV'), { frames: 10, start: '16:00:00:00', created: '2026-05-06T16:00:00Z' });
  await look(s.runtime, 'shelf', 'In');
  await takeIn(s.runtime, {
    ...{ root: 'shelf', path: 'In' },
    cards: ['A', 'B', 'S'].map((camera) => ({
      ...{ folder: `${camera}001`, camera, cardId: `${camera}001`, day: 1, date: '2026-05-06' },
    })),
  });
  await s.runtime.queue.drainKind('read');
  await s.runtime.queue.drainKind('rest');
  for (const c of await clipViews(s.runtime)) ids.set(c.name, c.id);
}, 120_000);
afterAll(() => s.close());

const id = (name: string): string => ids.get(name)!;
const rolling = async (name: string): Promise<RollingView | null> =>
  (await chosenClip(s.runtime, id(name))).rolling;
const stands = (view: RollingView | null) =>
  view?.clips.map((c) => `${c.name} ${c.offset.toFixed(3)} ${c.by}`);
const found = async (query: string, more: object = {}) =>
  findClips(s.runtime, FindQuery.parse({ query, limit: 100, ...more }));
const names = async (query: string) => (await found(query)).tiles.map((t) => String(t.name)).sort();
async function change(c: object): Promise<Changed> {
  await marksOf(s.runtime);
  const changed = await changeChoice(s.runtime, Change.parse(c));
  const [held, loaded] = [await marksOf(s.runtime), await loadMarks(s.runtime)];
  const members = (of: typeof held) =>
    [...of.rolling.values()]
      .flat()
      .map((m) => JSON.stringify(m))
      .sort();
  expect(members(held)).toEqual(members(loaded));
  expect(held.together).toEqual(loaded.together);
  return changed;
}

describe('rolling together', () => {
  test('clips that ran at once are one group by their timecodes, and are found and grouped by it', async () => {
    const view = await rolling('A000');
    expect(stands(view)).toEqual(['S000 0.000 timecode', 'A000 4.000 timecode', 'B000 9.120 timecode']);
    expect(view).toMatchObject({ id: null, reference: id('S000'), rate: { num: 25, den: 1 }, more: 0 });
    expect(await rolling('A009')).toBeNull();
    expect(await names('no rolling')).toEqual(['A009']);
    expect(await names('rolling is sound')).toEqual(['A000', 'A001', 'A002', 'B000', 'B001', 'B002']);
    expect(await names('rolling is "camera A" kind is sound')).toEqual(['S000', 'S001', 'S002']);
    expect(await names('rolling is B001')).toEqual(['A001', 'S001']);
    const { groups } = await found('', { by: 'rolling' });
    expect(groups.map((g) => g.clips)).toEqual([3, 3, 3, 1]);
    expect(groups[0]!.name).toBe('S000 with A000 and 1 more');
  });

  test.each(SCENES)(
    'the sound says by how many frames a timecode is wrong, at $name',
    async ({ fps, hour, late }) => {
      const n = hour - 10;
      const heardOf = await listen(s.runtime, id(`A00${n}`), alone());
      expect(heardOf).toEqual({ compared: 2, told: 2, faults: [] });
      const view = (await rolling(`B00${n}`))!;
      const [recorder, first, second] = view.clips;
      expect(recorder!.sound).toBeNull();
      // A quarter of a frame, whatever the rate.
      expect(Math.abs(first!.sound!.offset! - 4) * fps).toBeLessThan(0.25);
      expect(Math.abs(second!.sound!.offset! - 9) * fps).toBeLessThan(0.25);
      expect(Math.round((second!.offset - second!.sound!.offset!) * fps)).toBe(late);
      // Compared once, it is not again.
      expect(await listen(s.runtime, id(`A00${n}`), alone())).toEqual({ compared: 0, told: 0, faults: [] });
    },
  );

  test('a group is confirmed as the sound has it, one clip is taken out, all are told apart; each is undone', async () => {
    const view = (await rolling('A000'))!;
    const heardAt = view.clips.map((c) => ({ clip: c.clip, offset: c.sound?.offset ?? c.offset }));
    const confirmed = await change({ do: 'rollTogether', clips: heardAt, was: null });
    expect(confirmed.text).toBe('3 clips roll together');
    const now = (await rolling('B000'))!;
    expect(now.id).not.toBeNull();
    expect(now.clips[2]!.offset).toBeCloseTo(9, 2);
    expect(now.clips.map((c) => c.by)).toEqual(['person', 'person', 'person']);
    // Of two who change it at once the second is told.
    await expect(change({ do: 'rollTogether', clips: heardAt, was: null })).rejects.toThrow(
      /with others by now/,
    );
    const out = await change({
      do: 'rollTogether',
      clips: now.clips.slice(0, 2).map((c) => ({ clip: c.clip, offset: c.offset })),
      was: now.id,
    });
    expect(stands(await rolling('A000'))).toEqual([
      'S000 0.000 person',
      expect.stringMatching(/^A000 4\.00\d person$/),
    ]);
    expect(await rolling('B000')).toBeNull();
    await undoChoice(s.runtime, out.undo!);
    expect((await rolling('B000'))!.clips.length).toBe(3);
    const apart = await change({ do: 'takeApart', clips: now.clips.map((c) => c.clip), was: now.id });
    expect(await rolling('A000')).toBeNull();
    expect(await names('with rolling')).not.toContain('S000');
    // Together after all: what was told apart is forgotten.
    const again = await change({
      do: 'rollTogether',
      clips: [
        { clip: id('A000'), offset: 2 },
        { clip: id('B000'), offset: 0 },
      ],
      was: null,
    });
    expect(stands(await rolling('A000'))).toEqual(['B000 0.000 person', 'A000 2.000 person']);
    await undoChoice(s.runtime, again.undo!);
    await undoChoice(s.runtime, apart.undo!);
    await undoChoice(s.runtime, confirmed.undo!);
    expect(stands(await rolling('A000'))).toEqual([
      'S000 0.000 timecode',
      'A000 4.000 timecode',
      'B000 9.120 timecode',
    ]);
  });

  test('clips that are put together by hand stand as their timecodes or clocks have it', async () => {
    const clips = ['A000', 'A009'].map((name) => ({ clip: id(name), offset: null }));
    const made = await change({ do: 'rollTogether', clips, was: null });
    // Six hours, less the four seconds after ten.
    expect(stands(await rolling('A009'))).toEqual(['A000 0.000 person', 'A009 21596.000 person']);
    await undoChoice(s.runtime, made.undo!);
  });

  test('one clip alone is no group; clips of nobody are refused', async () => {
    const one = { clip: id('A000'), offset: 0 };
    await expect(change({ do: 'rollTogether', clips: [one, one], was: null })).rejects.toThrow(/Two clips/);
    await expect(
      change({ do: 'rollTogether', clips: [one, { clip: 'nobody', offset: 0 }], was: null }),
    ).rejects.toThrow(/Two clips/);
  });

  test('a file that cannot be listened to is named, and the others are compared', async () => {
    writeFileSync(path.join(s.shelf, 'In/B001/CLIP/B001.MOV'), 'no clip any more');
    const { soundChecks } = await import('./tables');
    await s.runtime.db.delete(soundChecks);
    const heardOf = await listen(s.runtime, null, alone());
    expect(heardOf).toMatchObject({ compared: 5, told: 5 });
    expect(heardOf.faults.join()).toContain('B001.MOV');
  });

  test('so is one that is gone, and one whose place is offline', async () => {
    const { soundChecks } = await import('./tables');
    await s.runtime.db.delete(soundChecks);
    rmSync(path.join(s.shelf, 'In/B001/CLIP/B001.MOV'));
    expect(await listen(s.runtime, null, alone())).toMatchObject({
      ...{ compared: 5, told: 5 },
      faults: [expect.stringContaining('B001.MOV')],
    });
    const { files } = await import('../cards/tables');
    const { roots } = await import('../places/tables');
    await s.runtime.db.delete(soundChecks);
    await s.runtime.db.insert(roots).values({ id: 'far', kind: 'source', name: 'Far', path: '/nowhere/far' });
    await s.runtime.db
      .update(files)
      .set({ root: 'far' })
      .where(eq(files.clip, id('B001')));
    expect(await listen(s.runtime, null, alone())).toMatchObject({
      ...{ compared: 5, told: 5 },
      faults: [expect.stringContaining('“Far”')],
    });
  });
});
