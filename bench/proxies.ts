import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import path from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { statementsFromProbe } from '../src/core/facts/probe';
import { recipeArguments } from '../src/core/proxies/arguments';
import { LIGHT } from '../src/core/proxies/recipe';
import { channelsOf, type ProxySource } from '../src/core/proxies/source';
import { probe } from '../src/server/platform/media/probe';
import { FFMPEG, keepFrames } from '../src/server/platform/media/tools';
import { pairFactsOf, proveMade } from '../src/server/proxies/provePairs';
import { makeProxy } from '../src/server/proxies/proxy';
import { sourceOf } from '../src/server/proxies/source';
import { audioStreams } from '../src/server/reading/readFamily';
import { frameAsJpeg } from '../src/server/viewing/frames';
import { copying, makeCard } from './workers/card';

// A proxy with its filmstrip, poster, waveform, pictures to be compared and checks of picture and sound, against the bare FFmpeg command
// that makes the same proxy and nothing else: the same clips, in turns, each way three times, the best of each counts. Then how long
// proving takes, whether two at once are faster, what making does to a copy beside it, and how soon the viewer shows a picture.

const dir = mkdtempSync(path.join(process.env.BENCH_DIR ?? tmpdir(), 'shelf-bench-'));
const at = (name: string): string => path.join(dir, name);
const TURNS = Number(process.env.BENCH_TURNS ?? 3);
const ffmpeg = (...args: string[]): void =>
  void execFileSync(FFMPEG(), ['-v', 'error', '-y', '-nostdin', ...args], { stdio: 'pipe' });
const signal = new AbortController().signal;
const timed = async (work: () => unknown): Promise<number> => {
  const begun = performance.now();
  await work();
  return (performance.now() - begun) / 1000;
};

/** Clips as cameras make them, of made-up pictures with some grain, long enough that starting weighs little. */
const CLIPS: readonly { name: string; args: string[] }[] = [
  {
    name: 'hevc.mp4',
    args: [
      '-c:v',
      'libx265',
      '-preset',
      'ultrafast',
      '-x265-params',
      'log-level=none:keyint=25',
      '-pix_fmt',
      'yuv422p10le',
      '-c:a',
      'aac',
    ],
  },
  {
    name: 'h264.mov',
    args: ['-c:v', 'libx264', '-preset', 'veryfast', '-g', '25', '-pix_fmt', 'yuv420p', '-c:a', 'pcm_s24le'],
  },
  {
    name: 'prores.mov',
    args: ['-c:v', 'prores_ks', '-profile:v', 'lt', '-pix_fmt', 'yuv422p10le', '-c:a', 'pcm_s24le'],
  },
];
/** Larger clips, and shorter ones, where they are asked for: `BENCH_SIZE=3840x2160`. */
const SIZE = process.env.BENCH_SIZE ?? '1920x1080';
const SECONDS = Number(process.env.BENCH_SECONDS ?? 12);
for (const { name, args } of CLIPS)
  ffmpeg(
    ...['-f', 'lavfi', '-i', `testsrc2=size=${SIZE}:rate=25:duration=${SECONDS},noise=alls=8:allf=t`],
    ...['-f', 'lavfi', '-i', `anoisesrc=r=48000:a=0.1:duration=${SECONDS},aformat=channel_layouts=stereo`],
    ...['-frames:v', String(SECONDS * 25), ...args, '-timecode', '10:00:00:00', at(name)],
  );

interface Clip {
  file: string;
  source: ProxySource;
  wanted: ReturnType<typeof pairFactsOf>;
}
const clips: Clip[] = [];
for (const { name } of CLIPS) {
  const output = await probe(at(name));
  const about = { clip: null, reel: null, zoneMinutes: 0 };
  const statements = statementsFromProbe(output, about);
  const source = sourceOf(statements, [audioStreams(output)], about)!;
  clips.push({
    file: at(name),
    source,
    wanted: { ...pairFactsOf(statements), channels: channelsOf(LIGHT, source) },
  });
}

let number = 0;
const bare = async ({ file, source }: Clip): Promise<void> => {
  ffmpeg('-i', file, ...recipeArguments(LIGHT, source, await keepFrames()), at(`${number++}.mp4`));
};
const ours = async ({ file, source }: Clip) => {
  const to = at(`${number++}.mp4`);
  const stills = { filmstrip: at(`${number++}.jpg`), poster: at(`${number++}.jpg`) };
  const { seen } = await makeProxy([file], to, LIGHT, source, {
    signal,
    onProgress: () => undefined,
    stills,
  });
  for (const f of Object.values(stills)) if (!existsSync(f)) throw new Error(`${f} was not made`);
  return { to, seen: seen! };
};

let [theirs, mine, proof] = [0, 0, 0];
for (const clip of clips) {
  const [a, b]: number[][] = [[], []];
  let made: Awaited<ReturnType<typeof ours>> | null = null;
  for (let n = 0; n < TURNS; n++) {
    a!.push(await timed(() => bare(clip)));
    b!.push(await timed(async () => (made = await ours(clip))));
  }
  const { to, seen } = made!;
  const proving = {
    recipe: LIGHT,
    part: null,
    wanted: clip.wanted,
    original: () => Promise.reject(new Error()),
    signal,
  };
  const pictures = () => Promise.resolve(seen.sampled);
  const p = await timed(async () => {
    const { state, checks } = await proveMade({ ...proving, pictures }, to);
    if (state !== 'proven') throw new Error(JSON.stringify(checks));
  });
  console.log(
    `${path.basename(clip.file)}: bare ${Math.min(...a!).toFixed(2)} s, with all that is seen ${Math.min(...b!).toFixed(2)} s, proof ${p.toFixed(2)} s`,
  );
  theirs += Math.min(...a!);
  mine += Math.min(...b!);
  proof += p;
}

/** The same clips, so many at once. */
const atOnce = (n: number): Promise<number> =>
  timed(async () => {
    const waiting = [...clips, ...clips];
    await Promise.all(
      Array.from({ length: n }, async () => {
        for (let clip = waiting.shift(); clip; clip = waiting.shift()) await ours(clip);
      }),
    );
  });
const one = await atOnce(1);
const two = await atOnce(2);
console.log(`${2 * clips.length} clips: one at a time ${one.toFixed(1)} s, two at once ${two.toFixed(1)} s`);

const memory = existsSync('/dev/shm') ? mkdtempSync('/dev/shm/shelf-bench-') : at('copy');
mkdirSync(memory, { recursive: true });
const source = path.join(memory, 'card');
makeCard(source, 20, 2 ** 30);
const { copy, close } = await copying(memory, source);
await copy();
const alone = Math.min(await copy(), await copy());
let making = true;
const beside = (async () => {
  while (making) for (const clip of clips) if (making) await ours(clip);
})();
const busy = Math.min(await copy(), await copy());
making = false;
await beside;
await close();
rmSync(memory, { recursive: true, force: true });
console.log(
  `1 GiB to two verified copies, ${cpus().length} cores: alone ${alone.toFixed(2)} s, beside proxies ${busy.toFixed(2)} s`,
);

// What a click on a clip shows first is its first frame; then a place in the middle, and steps from there on and back as fast as a person
// presses a key again and again.
let [first, step, jump] = [0, 0, 0];
for (const { file, source: s } of clips) {
  const frame = (n: number) => timed(() => frameAsJpeg(file, n, { rate: s.rate }, 960));
  const own = await frame(0);
  const there = await frame(130);
  const steps: number[] = [];
  for (let n = 0; n < 120; n++) {
    await setTimeout(120);
    steps.push(await frame(n < 60 ? 131 + n : 191 - (n - 60)));
  }
  steps.sort((x, y) => x - y);
  [first, step, jump] = [Math.max(first, own), Math.max(step, steps.at(-1)!), Math.max(jump, there)];
  console.log(
    `${path.basename(file)}: first picture ${(own * 1000).toFixed(0)} ms, one in the middle ${(there * 1000).toFixed(0)} ms, a step ${(steps[60]! * 1000).toFixed(0)} ms, the slowest of 120 ${(steps.at(-1)! * 1000).toFixed(0)} ms`,
  );
}
rmSync(dir, { recursive: true });
console.log(`figure proxies.time_ratio ${(mine / theirs).toFixed(2)} bound 1.05`);
console.log(`figure proxies.proof_ratio ${(proof / mine).toFixed(2)} bound 0.15`);
console.log(`figure proxies.two_at_once_ratio ${(two / one).toFixed(2)} bound 1.00`);
console.log(`figure proxies.copy_ratio ${(busy / alone).toFixed(2)} bound 1.25`);
console.log(`figure proxies.first_picture_ms ${(first * 1000).toFixed(0)} bound 300`);
console.log(`figure proxies.place_ms ${(jump * 1000).toFixed(0)} bound 700`);
console.log(`figure proxies.frame_step_ms ${(step * 1000).toFixed(0)} bound 250`);
