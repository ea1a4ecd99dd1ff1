import {
  copyFileSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { ClipKind, FileRole } from '../src/core/intake/shape';
import { randomFrom } from '../src/core/platform/random';
import { readStatements } from '../src/server/reading/readFamily';
import { endReaders } from '../src/server/reading/readPool';
import { endTagReader } from '../src/server/reading/tagReader';
import { makeMatrix, matrixOf } from '../src/server/testing/matrix';

// Damaged files of every kind that is read, one after another: cut short, bytes flipped, lengths made absurd, parts taken out
// or doubled, named as something else. Each must be answered in time, with facts or with a reason; the next is read all the same.

const count = Number(process.argv[2] ?? 2000);
/** The longest one file may take, seconds: the readers' own limits are below it. */
const LIMIT = 90;
const dir = mkdtempSync(path.join(tmpdir(), 'shelf-fuzz-'));
const random = randomFrom(20_260_506);
const int = (n: number): number => Math.floor(random() * n);

const made = path.join(dir, 'made');
await makeMatrix(made, matrixOf(12));
const footage = process.env.SORT_SHELF_FOOTAGE!;
const sound = path.join(footage, 'drawer', 'S001');
for (const f of readdirSync(sound).filter((n) => n.endsWith('.WAV')))
  copyFileSync(path.join(sound, f), path.join(made, f));
const still = path.join(footage, 'drawer', 'D001', 'DCIM', '101WHIMB');
for (const f of readdirSync(still)
  .filter((n) => /\.(?:SRT|JPG)$/.test(n))
  .slice(0, 5))
  copyFileSync(path.join(still, f), path.join(made, f));
const clip = path.join(footage, 'offloaded', 'Day 1', 'B001', 'CLIP');
copyFileSync(path.join(clip, 'T0001.XML'), path.join(made, 'T0001.XML'));
const look = path.join(footage, 'offloaded', 'Day 1', 'A001', 'A001_C001', 'A001_C001.cdl');
copyFileSync(look, path.join(made, 'A001_C001.cdl'));
writeFileSync(path.join(made, 'day.cube'), `TITLE "day"\nLUT_3D_SIZE 2\n${'0 0 0\n'.repeat(8)}`);
const bases = readdirSync(made).map((name) => ({ name, bytes: readFileSync(path.join(made, name)) }));

function damage(original: Buffer): Buffer {
  let b = Buffer.from(original);
  for (let times = 1 + int(3); times > 0 && b.length > 0; times--) {
    const at = int(b.length);
    const head = int(Math.min(b.length, 4096));
    const kind = int(9);
    if (kind === 0) b = b.subarray(0, at);
    else if (kind === 1) for (let i = 1 + int(64); i > 0; i--) b[int(b.length)] = int(256);
    else if (kind === 2) b.fill(int(2) === 0 ? 0 : 255, at, Math.min(b.length, at + 1 + int(4096)));
    else if (kind === 3 && b.length >= 4)
      b.writeUInt32BE([0, 1, 7, 0x7fffffff, 0xffffffff][int(5)]!, Math.min(head, b.length - 4));
    else if (kind === 4)
      b = Buffer.concat([b.subarray(0, at), b.subarray(Math.min(b.length, at + 1 + int(2000)))]);
    else if (kind === 5)
      b = Buffer.concat([b.subarray(0, at), b.subarray(head, head + 1 + int(2000)), b.subarray(at)]);
    else if (kind === 6) b = Buffer.concat([b, Buffer.alloc(1 + int(5000), int(256))]);
    else if (kind === 7) {
      // In the index itself, where it hurts most.
      const moov = b.indexOf('moov');
      if (moov > 0)
        for (let i = 1 + int(8); i > 0; i--) b[Math.min(b.length - 1, moov + int(1500))] = int(256);
    } else b = b.subarray(int(Math.min(64, b.length)));
  }
  return b;
}

const WRONG = ['.MP4', '.MOV', '.WAV', '.JPG', '.MXF', '.MKV'];
const kindOf = (name: string): ClipKind =>
  /\.wav$/i.test(name) ? 'sound' : /\.jpg$/i.test(name) ? 'still' : 'video';
const beside = (name: string): FileRole | null =>
  /\.(?:xml|srt)$/i.test(name) ? 'sidecar' : /\.(?:cdl|cube)$/i.test(name) ? 'look' : null;
const whole = path.join(made, bases.find((b) => b.name.endsWith('.mp4'))!.name);
const wholeBytes = readFileSync(whole).length;
const tally = { read: 0, refused: 0, crashes: 0, slow: 0, silent: 0, after: 0 };
let next = 0;
const folder = path.join(dir, 'damaged');
mkdirSync(folder);
const begun = Date.now();

async function one(n: number): Promise<void> {
  const base = bases[int(bases.length)]!;
  const role = beside(base.name);
  const bytes = damage(base.bytes);
  const file = path.join(
    folder,
    `${n}${role === null && int(8) === 0 ? WRONG[int(WRONG.length)]! : path.extname(base.name)}`,
  );
  writeFileSync(file, bytes);
  const damaged = { role: role ?? ('original' as const), file, size: bytes.length, modified: 1.7e12 };
  const family =
    role === null
      ? [damaged]
      : [{ role: 'original' as const, file: whole, size: wholeBytes, modified: 1.7e12 }, damaged];
  const at = Date.now();
  try {
    const r = await readStatements(
      { kind: role === null ? kindOf(file) : 'video', files: family },
      { zoneMinutes: 0, stillsRate: 25 },
    );
    const facts = r.statements.filter((s) => s.source !== 'fileTime' && s.source !== 'name').length;
    if (r.fault !== null) {
      tally.refused++;
      if (r.fault.trim() === '') tally.silent++;
    } else if (facts === 0 && r.notes.length === 0) {
      tally.silent++;
      console.log(`nothing was said of ${path.basename(file)}, made of ${base.name}`);
    } else tally.read++;
  } catch (e) {
    tally.crashes++;
    console.log(`${path.basename(file)}, made of ${base.name}: ${e instanceof Error ? e.stack : String(e)}`);
  }
  if (Date.now() - at > LIMIT * 1000) tally.slow++;
  rmSync(file);
}

await Promise.all(
  Array.from({ length: 3 }, async () => {
    while (next < count) await one(next++);
  }),
);
// The readers still read: a whole file after all the damaged ones.
const last = await readStatements(
  { kind: 'video', files: [{ role: 'original', file: whole, size: wholeBytes, modified: 1.7e12 }] },
  { zoneMinutes: 0, stillsRate: 25 },
);
if (last.fault !== null || last.statements.length < 10) tally.after = 1;
await Promise.all([endReaders(), endTagReader()]);
rmSync(dir, { recursive: true, force: true });
console.log(
  `${count} damaged files in ${Math.round((Date.now() - begun) / 1000)} s: ${tally.read} read as far as they go, ${tally.refused} refused with a reason`,
);
console.log(`figure facts.damaged_files ${tally.read + tally.refused} floor ${count}`);
console.log(`figure facts.crashes ${tally.crashes} bound 0`);
console.log(`figure facts.hangs ${tally.slow} bound 0`);
console.log(`figure facts.without_a_reason ${tally.silent} bound 0`);
console.log(`figure facts.readers_dead_at_the_end ${tally.after} bound 0`);
process.exit(0);
