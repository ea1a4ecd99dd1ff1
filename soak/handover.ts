import { execFileSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { forkWorker } from './workers/fork';
import type { Said } from './workers/handover';

// A server that hands a card over to a drive, again and again while its files change, is killed (SIGKILL) at random moments and started
// again. After each kill every file under a final name must be whole: as its source is, or as it was when it was sent before. When a
// sending is finished, everything is there as its source is, and nothing else; and reading it again by its hash lists finds the same.

const kills = Number(process.argv[2] ?? 50);
const CLIPS = 40;
/** Of the film; `workers/handover.ts` selects as many. */
const FRAMES = 60;
const home = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-soak-')));
const card = path.join(home, 'home', 'shelf', 'Card');
const sent = path.join(home, 'drive', 'SLW');
mkdirSync(card, { recursive: true });
mkdirSync(path.join(home, 'drive'));
const hashOf = (bytes: Buffer): string => createHash('sha256').update(bytes).digest('hex');
/** Each version that a source had, the last one last. */
const versions = new Map<string, string[]>();
const write = (i: number): void => {
  const name = `T${String(i).padStart(4, '0')}.MP4`;
  // Large files alone and small ones together go different ways.
  const bytes = randomBytes(i % 4 === 0 ? 9_300_000 + i : 19_000 * i);
  bytes.write('\0\0\0\x08ftyp', 0, 'latin1');
  writeFileSync(path.join(card, name), bytes);
  versions.set(name, [...(versions.get(name) ?? []), hashOf(bytes)]);
};
for (let i = 1; i <= CLIPS; i++) write(i);

/** A film, of which every frame goes as an image as well; each version's pictures, as FFmpeg alone makes them. */
const FILM = 'F0001.MOV';
const pictures: string[][] = [];
/** An image's picture follows its headers, which are longer than those that FFmpeg writes. */
const [OURS, THEIRS] = [2048, 1664];
const originals = path.join(sent, 'Originals', 'B001');
const row = path.join(sent, 'Used frames', 'B001', 'F0001');
function film(): void {
  const at = path.join(card, FILM);
  const from = path.join(home, 'film.mov');
  const source = pictures.length % 2 === 0 ? 'testsrc2' : 'testsrc';
  const ffmpeg = (...args: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);
  const coded = ['-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', '-bf', '2'];
  ffmpeg('-f', 'lavfi', '-i', `${source}=s=320x180:r=25:d=${FRAMES / 25}`, ...coded, from);
  const rgb = 'scale=in_range=limited:in_color_matrix=smpte170m:out_range=full';
  const filter = `${rgb}:flags=bicubic+accurate_rnd+full_chroma_int,format=gbrp10be`;
  const images = mkdtempSync(path.join(home, 'images-'));
  ffmpeg('-i', from, '-vf', filter, '-c:v', 'dpx', path.join(images, '%07d.dpx'));
  const names = readdirSync(images).sort();
  pictures.push(names.map((n) => hashOf(readFileSync(path.join(images, n)).subarray(THEIRS))));
  rmSync(images, { recursive: true });
  renameSync(from, at);
  versions.set(FILM, [...(versions.get(FILM) ?? []), hashOf(readFileSync(at))]);
}
film();

const tally = { kills: 0, within: 0, withImages: 0, sendings: 0, wrong: 0, half: 0 };
const wrong = (what: string): void => {
  tally.wrong++;
  console.error(what);
};
/** When the sending that is under way began; a drive's clock may count coarsely. */
let begun = Date.now() - 100;
/** What this sending has brought under its final name. */
const brought = (folder: string): number =>
  existsSync(folder)
    ? readdirSync(folder).filter(
        (n) =>
          !/\.(?:part|claim)$/.test(n) &&
          (statSync(path.join(folder, n), { throwIfNoEntry: false })?.ctimeMs ?? 0) > begun,
      ).length
    : 0;
function lookAtImages(finished: boolean): number {
  const names = existsSync(row) ? readdirSync(row).filter((n) => n.endsWith('.dpx')) : [];
  for (const name of names) {
    const frame = Number(name.split('.')[1]) - 1;
    const hash = hashOf(readFileSync(path.join(row, name)).subarray(OURS));
    const known = finished ? pictures.slice(-1) : pictures;
    if (!known.some((of) => of[frame] === hash)) tally.half++;
  }
  if (finished && names.length !== FRAMES) wrong(`${names.length} of ${FRAMES} images are there in the end`);
  const fresh = brought(row);
  tally.withImages += fresh > 0 && fresh < FRAMES && !finished ? 1 : 0;
  return names.length;
}

/** Looks at every file under a final name; returns how many there are. */
function look(finished: boolean): number {
  if (!existsSync(originals)) return 0;
  const names = readdirSync(originals).filter((n) => !/\.(?:part|claim)$/.test(n));
  for (const name of names) {
    const known = versions.get(name);
    const hash = hashOf(readFileSync(path.join(originals, name)));
    if (!known) wrong(`${name} stands in the package, and has no source`);
    else if (finished ? known.at(-1) !== hash : !known.includes(hash)) tally.half++;
  }
  if (finished && names.length !== CLIPS + 1)
    wrong(`${names.length} of ${CLIPS + 1} files are there in the end`);
  return names.length + lookAtImages(finished);
}

/** When a server is killed: as soon as so many more images or files are there, at any time, or not at all, in turn. */
const MOMENTS = ['images', 'time', 'files', 'end'] as const;
/** Resolves when the moment has come; a machine that is never so far is not waited for. */
async function until(moment: (typeof MOMENTS)[number]): Promise<void> {
  if (moment === 'end') return new Promise(() => undefined);
  const count = (): number => brought(moment === 'images' ? row : originals);
  // Of a later sending fewer files are new.
  const most = moment === 'images' ? FRAMES - 1 : 12;
  const wanted = Math.min(most, count() + 1 + Math.floor((Math.random() * most) / 2));
  const last = performance.now() + (moment === 'time' ? Math.random() ** 2 * 6000 : 60_000);
  while (performance.now() < last && (moment === 'time' || count() < wanted))
    await new Promise((r) => setTimeout(r, 10));
}

for (let turn = 0; tally.kills < kills; turn++) {
  const worker = await forkWorker<Said>('handover', [home]);
  await worker.ready;
  const ended = await Promise.race([
    worker.ended.then(() => true),
    until(MOMENTS[turn % MOMENTS.length]!).then(() => false),
  ]);
  if (!ended) {
    worker.kill();
    await worker.ended;
    tally.kills++;
    if (look(false) > 0) tally.within++;
    continue;
  }
  const { told } = worker;
  if (told?.state !== 'done' || told.failed > 0 || told.wrong.length > 0)
    wrong(`finished, but ${JSON.stringify(told)}, code ${await worker.ended}`);
  tally.sendings++;
  look(true);
  begun = Date.now();
  for (let i = 0; i < 12; i++) write(1 + Math.floor(Math.random() * CLIPS));
  film();
}
rmSync(home, { recursive: true, force: true });
console.log(
  `${tally.kills} kills, ${tally.within} of them with files there already, ${tally.withImages} between the first and the last image, ${tally.sendings} sendings finished`,
);
console.log(`figure handover.kills ${tally.kills} floor ${kills}`);
console.log(`figure handover.kills_between_images ${tally.withImages} floor ${Math.floor(kills / 5)}`);
console.log(`figure handover.sendings_finished ${tally.sendings} floor ${Math.floor(kills / 5)}`);
console.log(`figure handover.half_files_under_final_names ${tally.half} bound 0`);
console.log(`figure handover.wrong_or_lost_files ${tally.wrong} bound 0`);
const reached = Math.min(tally.withImages, tally.sendings) >= Math.floor(kills / 5);
process.exit(tally.wrong + tally.half === 0 && reached ? 0 : 1);
