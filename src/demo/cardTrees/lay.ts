import { execFileSync } from 'node:child_process';
import {
  closeSync,
  copyFileSync,
  ftruncateSync,
  mkdirSync,
  openSync,
  statSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import path from 'node:path';
import { formatTimecode, timecode } from '../../core/platform/timecode/timecode';
import { extensionOf } from '../../core/intake';
import { makeClip } from '../../server/testing/media';
import { FFMPEG } from '../../server/platform/media/tools';
import { entriesOf, tableOfTrees } from './describe';
import { CARD_TREES, type CardTree } from './trees';

// Lays the card trees on disk with small media in them, and writes the table of how they are read:
// npm run card-trees -- FOLDER; without a folder only the table is written.

const BOXES = ['mp4', 'mov'];
const STILLS = ['jpg', 'heic', 'dng'];

/** Bytes that a file of this name holds, made once a kind. */
function media(
  kept: string,
  extension: string,
  start: number | undefined,
  frames: number | undefined,
): string {
  const at = path.join(kept, `${extension}-${start ?? ''}-${frames ?? ''}.${extension}`);
  if (BOXES.includes(extension) || extension === 'mxf')
    return makeClip(at, {
      frames: frames ?? 25,
      start: start === undefined ? null : formatTimecode(timecode(start, { num: 25, den: 1 }, false)),
      ...(extension === 'mxf'
        ? { codec: ['-c:v', 'mpeg2video', '-pix_fmt', 'yuv422p'], size: '720x576', audio: [] }
        : {}),
    });
  if (extension === 'mts') ffmpeg(at, ['-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=25:d=1', '-f', 'mpegts']);
  else if (extension === 'wav')
    ffmpeg(at, [
      '-f',
      'lavfi',
      '-i',
      `sine=d=${(frames ?? 25) / 25}`,
      '-metadata',
      `time_reference=${((start ?? 0) * 44100) / 25}`,
      '-write_bext',
      '1',
    ]);
  else if (STILLS.includes(extension))
    ffmpeg(at, ['-f', 'lavfi', '-i', 'testsrc2=s=640x360', '-frames:v', '1', '-f', 'mjpeg']);
  else writeFileSync(at, extension === 'xml' ? '<clip/>' : 'made up');
  return at;
}

function ffmpeg(to: string, args: readonly string[]): string {
  execFileSync(FFMPEG(), ['-v', 'error', '-y', ...args, `file:${to}`]);
  return to;
}

/** Makes a file as large as the tree says; what is added holds nothing and takes no room on disk. */
function grow(file: string, size: number): void {
  const { size: now } = statSync(file);
  if (now + 8 >= size) return;
  const handle = openSync(file, 'r+');
  if (BOXES.includes(extensionOf(file))) {
    const box = Buffer.alloc(16);
    box.writeUInt32BE(1, 0);
    box.write('free', 4, 'latin1');
    box.writeBigUInt64BE(BigInt(size - now), 8);
    writeSync(handle, box, 0, 16, now);
  }
  ftruncateSync(handle, size);
  closeSync(handle);
}

function lay(tree: CardTree, folder: string, kept: string): void {
  for (const { path: at, size, holds } of entriesOf(tree)) {
    const file = path.join(folder, tree.id, at);
    const [start, frames] = tree.evidence?.[at] ?? [];
    mkdirSync(path.dirname(file), { recursive: true });
    copyFileSync(media(kept, holds ? 'mp4' : extensionOf(at), start, frames), file);
    grow(file, size);
  }
}

const [folder] = process.argv.slice(2);
if (folder) {
  const kept = path.join(path.resolve('.cache'), 'card-trees');
  mkdirSync(kept, { recursive: true });
  for (const tree of CARD_TREES) lay(tree, path.resolve(folder), kept);
  console.log(`${CARD_TREES.length} cards are in ${folder}`);
}
writeFileSync(
  'docs/cards.md',
  `# How cards are read

Made-up cards by their structure (\`src/demo/cardTrees/trees.ts\`), and what is recognised in each. \`npm run card-trees -- FOLDER\` lays them on disk with small media in them and writes this table; a test compares it.

${tableOfTrees()}
`,
);
