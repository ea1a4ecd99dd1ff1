import type { DiskPath } from '../../core/platform/names';
import type { Rate } from '../../core/platform/timecode/rate';
import { only, pictureFit } from '../analysis';
import { Unreadable } from '../platform/errors';
import { stat } from '../platform/files/onDisk';
import { type Footage, nameOf, withInput } from '../platform/media/input';
import { byWays, inFile, sentTo, type Way, waysTo } from '../platform/media/ways';
import { keepFrames, lastWords, readNoFurther, startFfmpeg } from '../platform/media/tools';

/** Frames that are decoded in one go: who steps through a clip asks for the next one next. */
const BLOCK = 24;
/** The same where somebody jumped to: whether they go on or back from there is not known yet. */
const AFTER_JUMP = 16;
/** The same of frames before those that were looked at: the last of them is asked for first. */
const BEFORE = 12;
/** Of so many files or widths it is remembered which frame was asked for last. */
const MOST_ASKED = 20;
/** Pixels of the width up to which a picture stands for a stretch in a list: nobody steps on from it. */
const SMALL = 240;
/** Frames before the end of a block, and after its start, at which the next one and the one before are begun. */
const AHEAD = 10;
/** Bytes of pictures that are kept in memory, and minutes that a decoder may take for a block, and where it has to count frames from the first. */
export const frameLimits = { kept: 64 << 20, minutes: 1, counting: 10 };

/** What is known of a clip whose frames are looked at. */
export interface Looked {
  /** How many frames it has, where that is known. */
  frames?: number | null;
  rate: Rate;
  /** Whether they come at uneven times. */
  varies?: boolean;
  /** By which its picture is made, for FFmpeg's scaler; else what its decoder says counts. */
  matrix?: string;
}

/** Whether somebody waits for the first frame of a block, may want its last one next, or comes to it by and by. */
type When = 'now' | 'soon' | 'later';

interface Slot {
  picture: Promise<Uint8Array>;
  give: (picture: Uint8Array) => void;
  fail: (e: unknown) => void;
}

function slot(): Slot {
  let [give, fail] = [(_: Uint8Array) => undefined as void, (_: unknown) => undefined as void];
  const picture = new Promise<Uint8Array>((resolve, reject) => ([give, fail] = [resolve, reject]));
  // Nobody may have asked for it.
  picture.catch(() => undefined);
  return { picture, give, fail };
}

/** Some frames that follow each other, as they come out of the decoder. */
class Block {
  readonly slots: readonly Slot[];
  bytes = 0;
  /** How many pictures came. */
  given = 0;
  /** How many wait for one of its frames. */
  waiting = 0;
  /** Ends the decoder while it runs. */
  end: (() => unknown) | null = null;
  /** Whether it was ended before its last frame. */
  cut = false;
  /** Whether the clip ends in it. */
  last = false;
  ended: Promise<void>;

  /** `of`: which file, as what it is now, and how wide. `frames`: how many. */
  constructor(
    readonly of: string,
    clip: Footage | DiskPath,
    readonly first: number,
    readonly frames: number,
    about: Looked,
    width: number,
    when: When,
  ) {
    this.slots = Array.from({ length: frames }, slot);
    this.ended = this.#decode(clip, about, width, when).then(
      () => this.#over((n) => new Unreadable(`${nameOf(clip)} has no frame ${first + n}.`)),
      (e: unknown) => {
        // It may decode the next time.
        this.cut = true;
        this.#over(() => e);
      },
    );
  }

  /** The frame behind the last that it has, or will have. */
  get until(): number {
    return this.first + (this.cut ? this.given : this.frames);
  }

  #over(why: (n: number) => unknown): void {
    this.end = null;
    this.slots.forEach((s, n) => s.fail(why(n)));
  }

  async #decode(clip: Footage | DiskPath, about: Looked, width: number, when: When): Promise<void> {
    // What is past its end nobody looks for.
    if (this.first >= (about.frames ?? Infinity)) return;
    const ways = await waysTo(clip, { from: this.first, to: this.first + this.frames }, about);
    await byWays(ways, async (way) =>
      this.cut || (await this.#decodeBy(way, clip, about, width, when)) > 0 ? true : null,
    );
  }

  /** Returns how many pictures came. */
  async #decodeBy(
    { sent, filter }: Way,
    clip: Footage | DiskPath,
    about: Looked,
    width: number,
    when: When,
  ): Promise<number> {
    // Cores that work on parts of one frame give the first one sooner, those that work on several frames give all of them sooner.
    const threads = when === 'now' ? ['-thread_type', 'slice'] : [];
    const keep = await keepFrames();
    const minutes = sent === 0 ? frameLimits.counting : frameLimits.minutes;
    return withInput(clip, async ({ args }) => {
      const run = startFfmpeg(
        [
          ...threads,
          ...sentTo(sent),
          ...args,
          ...['-map', '0:v:0', ...keep, '-frames:v', String(this.frames)],
          ...['-vf', `${filter},${pictureFit(width, about.matrix ?? 'auto')}`, '-q:v', '3', '-threads', '1'],
          ...['-flush_packets', '1', '-f', 'mpjpeg', 'pipe:1'],
        ],
        { buffer: { stdout: false, stderr: true }, timeout: minutes * 60_000, reject: false },
        when === 'later',
      );
      this.end = () => {
        this.cut = true;
        run.kill('SIGKILL');
      };
      for await (const picture of parts(run.stdout as AsyncIterable<Uint8Array>)) {
        this.bytes += picture.length;
        this.slots[this.given++]?.give(picture);
      }
      const n = this.given;
      const { exitCode, stderr } = await run;
      this.last = n < this.frames && !this.cut;
      const failed = exitCode !== 0 || readNoFurther(stderr) !== null;
      // Where nothing came, and FFmpeg failed for that, there are other ways.
      if (n === 0 && exitCode !== undefined && sent > 0 && readNoFurther(stderr) === null) return 0;
      if (failed && n < this.frames) throw new Unreadable(`${nameOf(clip)}: ${lastWords(stderr)}`);
      return n;
    });
  }
}

/** The pictures of FFmpeg's stream of JPEGs, each of which is preceded by its length. */
async function* parts(stream: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  let held = Buffer.alloc(0);
  for await (const piece of stream) {
    held = Buffer.concat([held, piece]);
    for (;;) {
      const head = held.indexOf('\r\n\r\n');
      const length = Number(
        /Content-length: (\d+)/i.exec(held.subarray(0, Math.max(0, head)).toString('latin1'))?.[1],
      );
      if (head < 0 || !(held.length >= head + 4 + length)) break;
      yield new Uint8Array(held.subarray(head + 4, head + 4 + length));
      held = held.subarray(head + 4 + length);
    }
  }
}

/** What was decoded last; the one asked for last at the end. */
let blocks: Block[] = [];
/** The frame that was asked for last of each of what is looked at. */
const asked = new Map<string, number>();

const covering = (of: string, frame: number): Block | undefined =>
  blocks.find((b) => b.of === of && frame >= b.first && frame < b.until);

/**
 * Frame number `frame` (from 0) of a file as a JPEG at most `width` pixels wide. Those around it are decoded, too, and kept for a while; a small picture is decoded alone.
 * A signal says that nobody waits any more. Throws Unreadable where it does not decode, or has no such frame.
 */
export async function frameAsJpeg(
  clip: Footage | DiskPath,
  number: number,
  about: Looked,
  width: number,
  signal?: AbortSignal,
): Promise<Uint8Array> {
  const inOne = typeof clip === 'string' ? null : await inFile(clip, number);
  if (inOne) return frameAsJpeg(inOne.file, inOne.frame, { ...about, frames: inOne.frames }, width, signal);
  const {
    file,
    wanted: [frame],
  } = only(clip, [number]);
  if (frame === undefined) throw new Unreadable(`${nameOf(clip)} has no frame ${number}.`);
  const files = typeof file === 'string' ? [file] : file.files;
  const { size, mtimeMs } = await stat(files[0]!);
  const of = JSON.stringify([files, size, mtimeMs, width]);
  const small = width <= SMALL;
  const begin = (first: number, frames: number, when: When): Block => {
    const begun = new Block(of, file, first, frames, about, width, when);
    blocks.push(begun);
    void begun.ended.then(() => tidy(begun));
    return begun;
  };
  const goesBack = frame < (asked.get(of) ?? 0);
  if (!small) asked.set(of, frame);
  if (asked.size > MOST_ASKED) asked.delete(asked.keys().next().value!);
  let block = covering(of, frame);
  const jumped = block === undefined;
  if (!block) {
    // The cores are for what is looked at now.
    if (!small) for (const other of blocks) if (other.waiting === 0) other.end?.();
    block = small ? begin(frame, 1, 'later') : begin(frame, AFTER_JUMP, 'now');
  }
  const found = block;
  // Who goes back waits for the last frame of a block: what comes after what they look at can wait.
  if (goesBack)
    for (const other of blocks)
      if (other.of === of && other.first > frame && other.waiting === 0) other.end?.();
  blocks = [...blocks.filter((b) => b !== found), found];
  found.waiting++;
  let waits = true;
  const over = (): void => {
    if (waits) found.waiting--;
    waits = false;
  };
  signal?.addEventListener('abort', over);
  try {
    const picture = await found.slots[frame - found.first]!.picture;
    if (small) return picture;
    const before = Math.max(0, found.first - BEFORE);
    if ((goesBack || frame - found.first < AHEAD) && found.first > 0 && !covering(of, found.first - 1))
      begin(before, found.first - before, 'soon');
    const next = found.until;
    if (!goesBack && !jumped && next - frame <= BLOCK - AHEAD && !found.last && !covering(of, next))
      begin(next, BLOCK, 'later');
    return picture;
  } finally {
    over();
    signal?.removeEventListener('abort', over);
  }
}

/** Forgets a block that is empty, and the oldest where there are too many. */
function tidy(block: Block): void {
  if (block.bytes === 0) blocks = blocks.filter((b) => b !== block);
  let bytes = blocks.reduce((n, b) => n + b.bytes, 0);
  blocks = blocks.filter((b) => {
    const goes = bytes > frameLimits.kept && !b.end;
    if (goes) bytes -= b.bytes;
    return !goes;
  });
}
