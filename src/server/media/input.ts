import { tmpdir } from 'node:os';
import path from 'node:path';
import type { ClipKind } from '../../core/cards/shape';
import type { Rate } from '../../core/timecode/rate';
import { asInput } from './tools';
import { joinPath } from '../files/names';
import { mkdtemp, rm, symlink, writeFile } from '../files/onDisk';

/** A clip's picture on disk: one file, the segments of a take in order, or numbered stills with the rate they are shown at. */
export interface Footage { kind: ClipKind; files: readonly string[]; rate: Rate | null }

/** The words for a clip in a message: its first file's name. */
export const nameOf = (footage: Footage | string): string => path.basename(typeof footage === 'string' ? footage : (footage.files[0] ?? 'the clip'));

/**
 * Gives FFmpeg's arguments for reading a clip as one, whatever files it stands in: segments through its list of files,
 * stills under numbers without gaps, as links in a folder of their own. That folder is gone when the work is.
 */
export async function withInput<T>(footage: Footage | string, work: (input: string[]) => Promise<T>): Promise<T> {
  if (typeof footage === 'string') return work(['-i', asInput(footage)]);
  if (footage.kind !== 'stills' && footage.files.length === 1) return work(['-i', asInput(footage.files[0]!)]);
  const folder = await mkdtemp(joinPath(tmpdir(), 'shelf-input-'));
  try {
    if (footage.kind === 'stills') {
      const extension = path.extname(footage.files[0]!).toLowerCase();
      await Promise.all(footage.files.map((f, i) => symlink(f, joinPath(folder, `${String(i).padStart(7, '0')}${extension}`))));
      const rate = footage.rate ?? { num: 25, den: 1 };
      return await work(['-f', 'image2', '-framerate', `${rate.num}/${rate.den}`, '-i', asInput(joinPath(folder, `%07d${extension}`))]);
    }
    const list = joinPath(folder, 'list.txt');
    await writeFile(list, `ffconcat version 1.0\n${footage.files.map((f) => `file 'file:${f.replaceAll("'", "'\\''")}'\n`).join('')}`);
    return await work(['-f', 'concat', '-safe', '0', '-i', asInput(list)]);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
