import { execa } from 'execa';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { sourceOf } from '../src/server/proxies/source';
import { statementsFromProbe } from '../src/core/facts/probe';
import { provePair } from '../src/core/proxies/prove';
import { LIGHT } from '../src/core/proxies/recipe';
import { CARDS } from '../src/demo/footage/scenario';
import { probe } from '../src/server/platform/media/probe';
import { makeProxy } from '../src/server/proxies/proxy';
import { FFMPEG } from '../src/server/platform/media/tools';
import { pairFactsOf, proxyFacts } from '../src/server/proxies/provePairs';
import { audioStreams } from '../src/server/reading/readFamily';

// The clips last 1 to 4 s, so that the fixed cost of reading and proving weighs much.
// A proxy made and proven, against the plain FFmpeg command a person would type for the same size, which proves nothing.

const footage = process.env.SORT_SHELF_FOOTAGE!;
const dir = mkdtempSync(path.join(tmpdir(), 'shelf-bench-'));
const clips = CARDS.flatMap((c) =>
  c.clips
    .filter((clip) => clip.proxyPath === null)
    .map((clip) => path.join(footage, 'offloaded', c.folder, clip.path)),
);
let [ours, theirs] = [0, 0];
for (const [i, from] of clips.entries()) {
  let begun = performance.now();
  await execa(FFMPEG(), [
    '-v',
    'error',
    '-i',
    from,
    '-vf',
    'scale=960:540',
    '-c:v',
    'libx264',
    '-preset',
    'veryfast',
    '-crf',
    '23',
    '-pix_fmt',
    'yuv420p',
    '-c:a',
    'aac',
    path.join(dir, `${i}-typed.mp4`),
  ]);
  theirs += performance.now() - begun;
  begun = performance.now();
  const output = await probe(from);
  const statements = statementsFromProbe(output, { zoneMinutes: 0 });
  const original = pairFactsOf(statements);
  const to = path.join(dir, `${i}-ours.mp4`);
  await makeProxy([from], to, LIGHT, sourceOf(statements, [audioStreams(output)])!, {
    signal: new AbortController().signal,
    onProgress: () => undefined,
  });
  if (provePair(original, await proxyFacts(to)).state !== 'proven') throw new Error(`${from} was not proven`);
  ours += performance.now() - begun;
}
rmSync(dir, { recursive: true });
console.log(
  `${clips.length} clips: typed command ${(theirs / 1000).toFixed(1)} s, made and proven ${(ours / 1000).toFixed(1)} s`,
);
console.log(`figure proxies.time_ratio ${(ours / theirs).toFixed(2)} bound 2.00`);
