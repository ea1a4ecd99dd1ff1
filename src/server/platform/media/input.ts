import { tmpdir, userInfo } from 'node:os';
import type { ClipKind } from '../../../core/intake';
import { type FileKind, HEAD, kindOf, noKind } from '../../../core/facts';
import type { DiskPath } from '../../../core/platform/names';
import type { Rate } from '../../../core/platform/timecode/rate';
import { isCode, Unreadable } from '../errors';
import { joinPath, shownName } from '../files/names';
import { type FileHandle, lstat, mkdtemp, namesIn, rm, symlink, writeFile } from '../files/onDisk';
import { headOf, openPlain, pathOfOpen } from '../files/plainFile';
import { asInput, toolLimits } from './tools';

/** A clip's picture on disk: one file, the segments of a take in order, or numbered stills with the rate they are shown at. */
export interface Footage {
  kind: ClipKind;
  files: readonly DiskPath[];
  rate: Rate | null;
}

/** The words for a clip in a message: its first file's name. */
export const nameOf = (footage: Footage | DiskPath): string =>
  shownName(typeof footage === 'string' ? footage : (footage.files[0] ?? 'the clip'));

/** Folders of files that are given to programs, with the number of the process that gives them. */
const PREFIX = 'shelf-input-';

/** Removes folders of processes that were killed: links only, no file is in them. */
export async function clearLeftInputs(): Promise<void> {
  const { uid } = userInfo();
  for (const name of await namesIn(tmpdir())) {
    const pid = name.startsWith(PREFIX) ? parseInt(name.slice(PREFIX.length), 10) : NaN;
    if (Number.isNaN(pid) || isRunning(pid)) continue;
    const folder = joinPath(tmpdir(), name);
    if ((await lstat(folder).catch(() => null))?.uid === uid)
      await rm(folder, { recursive: true, force: true });
  }
}

function isRunning(pid: number): boolean {
  try {
    return process.kill(pid, 0);
  } catch (e) {
    return isCode(e, 'EPERM');
  }
}

/** Files held open at once for one program: a row of stills may have more than a process may open. */
const MAX_OPEN = 4000;

/**
 * Gives files to a program under plain names in a folder of their own, which is gone when the work is. Each is opened here, and
 * its link leads to what is open: whatever its own name says, and whatever comes to its path meanwhile, the program reads this
 * file. `name` says what the link is called, by the number of the file and its first bytes.
 */
export async function withPlainNames<T>(
  files: readonly DiskPath[],
  name: (n: number, head: Buffer) => string,
  work: (given: { folder: string; names: string[] }) => Promise<T>,
): Promise<T> {
  const folder = await mkdtemp(joinPath(tmpdir(), `${PREFIX}${process.pid}-`));
  const handles: FileHandle[] = [];
  try {
    const names: string[] = [];
    for (const [n, file] of files.entries()) {
      const handle = await openPlain(file);
      handles.push(handle);
      const link = name(n, await headOf(handle, HEAD));
      names.push(link);
      const keep = files.length <= MAX_OPEN;
      await symlink(keep ? pathOfOpen(handle, file) : file, joinPath(folder, link));
      if (!keep) await handles.pop()!.close();
    }
    return await work({ folder, names });
  } finally {
    await Promise.all(handles.map((h) => h.close()));
    await rm(folder, { recursive: true, force: true });
  }
}

/** What FFmpeg is given to read a clip by. */
export interface Input {
  args: string[];
  /** Whether a place may be sought before the input is opened; in a list of files it is found by reading. */
  seekable: boolean;
}

/**
 * FFmpeg's arguments for reading a clip as one, whatever files it is in: segments through its list of files, stills under
 * numbers without gaps. Every file has to be of a kind that is known by its first bytes, and only that kind's reader may open it:
 * a playlist or script under any name is refused. Throws Unreadable with what the file is instead.
 */
export async function withInput<T>(
  footage: Footage | DiskPath,
  work: (input: Input) => Promise<T>,
): Promise<T> {
  const { kind, files, rate } =
    typeof footage === 'string' ? { kind: null, files: [footage], rate: null } : footage;
  const kinds: FileKind[] = [];
  const name = (n: number, head: Buffer): string => {
    const found = kindOf(head);
    if (!found)
      throw new Unreadable(`${nameOf(files[n]!)} ${noKind(head)}, whatever its name says.`, {
        file: files[n]!,
      });
    if (kinds[0] && found.id !== kinds[0].id)
      throw new Unreadable(`${nameOf(files[n]!)} is of another kind than ${nameOf(files[0]!)}.`, {
        file: files[n]!,
      });
    kinds.push(found);
    return `${String(n).padStart(7, '0')}.${found.extension}`;
  };
  return withPlainNames(files, name, async ({ folder, names }) => {
    const { demuxers, extension } = kinds[0]!;
    const only = (...more: string[]) => [
      '-protocol_whitelist',
      'file,pipe',
      '-format_whitelist',
      [demuxers, ...more].join(','),
      '-max_pixels',
      String(toolLimits.pixels),
    ];
    if (kind === 'stills') {
      const { num, den } = rate ?? { num: 25, den: 1 };
      return work({
        args: [
          ...only(),
          '-f',
          'image2',
          '-framerate',
          `${num}/${den}`,
          '-i',
          asInput(joinPath(folder, `%07d.${extension}`)),
        ],
        seekable: true,
      });
    }
    if (files.length === 1)
      return work({ args: [...only(), '-i', asInput(joinPath(folder, names[0]!))], seekable: true });
    const list = joinPath(folder, 'list.txt');
    await writeFile(list, `ffconcat version 1.0\n${names.map((n) => `file ${n}\n`).join('')}`);
    return work({ args: [...only('concat'), '-f', 'concat', '-i', asInput(list)], seekable: false });
  });
}
