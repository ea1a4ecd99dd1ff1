import type { FoundEntry, Recognised, RecogniseOptions } from '../../core/intake';
import { Threads } from '../platform/threads';
import { messageOf, Refused } from '../platform/errors';
import type { ClipOnDisk, Reading, ReadOptions } from './firstPass';
import { nameOf } from '../platform/media/input';

/** Files are read in threads: what a damaged file makes a reader do never holds up the interface, and can be ended. */
export const READERS = 2;
/** A header is read in milliseconds; one that takes this long is damage, or a drive that has gone. Milliseconds, and the threads' script; others in tests. */
export const readLimits = { milliseconds: 20_000, script: '.cache/threads/reading.mjs' };

/** Those that read, and one that recognises: nobody who looks at a folder waits for what is read meanwhile. */
let threads: { readers: Threads; recogniser: Threads } | null = null;
const pool = () =>
  (threads ??= {
    readers: new Threads(readLimits.script, READERS),
    recogniser: new Threads(readLimits.script, 1),
  });

export async function warmReaders(): Promise<void> {
  await Promise.all(Object.values(pool()).map((t) => t.warm()));
}
export async function endReaders(): Promise<void> {
  const ended = threads;
  threads = null;
  await Promise.all(Object.values(ended ?? {}).map((t: Threads) => t.end()));
}

/** `recognise`, in a thread: a person's own shapes are patterns, some of which take for ever. Throws Refused with what to do where one does. */
export async function recogniseInThread(
  entries: readonly FoundEntry[],
  options: RecogniseOptions,
): Promise<Recognised> {
  try {
    return await pool().recogniser.run<Recognised>(
      'recognise',
      { entries, options },
      3 * readLimits.milliseconds,
    );
  } catch (e) {
    if (!(e instanceof Error && e.name === 'AbortError')) throw e;
    const own = options.rules?.shapes ?? [];
    throw new Refused(
      `The cards in this folder could not be recognised within ${(3 * readLimits.milliseconds) / 1000} s.`,
      {
        next:
          own.length > 0
            ? `Look at the patterns of your own card shapes (${own.map((s) => s.name).join(', ')}): a repetition within a repetition can take for ever.`
            : 'Choose the folders in it one by one.',
      },
    );
  }
}

/** The first pass of clips, by one thread in a row. A thread that hangs or dies is ended, and the clip it was at says so. */
export async function readFirst(clips: readonly ClipOnDisk[], options: ReadOptions): Promise<Reading[]> {
  const files = clips.reduce((n, c) => n + c.files.length, 0);
  try {
    return await pool().readers.run<Reading[]>(
      'read',
      { clips, options },
      readLimits.milliseconds + 200 * files,
    );
  } catch (e) {
    if (clips.length > 1) return (await Promise.all(clips.map((c) => readFirst([c], options)))).flat();
    return [
      await givenUp(
        clips[0]!,
        options,
        e instanceof Error && e.name === 'AbortError'
          ? `it took longer than ${readLimits.milliseconds / 1000} s to read`
          : `its reader failed: ${messageOf(e)}`,
      ),
    ];
  }
}

/** What is said of a clip that a thread could not read to the end. Where that was what is beside it, the clip itself is read without. */
async function givenUp(clip: ClipOnDisk, options: ReadOptions, why: string): Promise<Reading> {
  const beside = clip.files.filter((f) => f.role === 'sidecar' || f.role === 'look');
  if (beside.length > 0) {
    const [alone] = await readFirst(
      [{ ...clip, files: clip.files.filter((f) => !beside.includes(f)) }],
      options,
    );
    return {
      ...alone!,
      notes: [...alone!.notes, `${beside.map((f) => nameOf(f.file)).join(', ')} could not be read: ${why}`],
    };
  }
  const name = nameOf(clip.files.find((f) => f.role === 'original')?.file ?? '');
  return {
    statements: [],
    audio: [],
    fault: `${name} cannot be read: ${why}`,
    notes: [],
    rest: { probe: false, tags: false },
  };
}
