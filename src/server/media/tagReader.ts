import { ExifTool } from 'exiftool-vendored';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { DiskPath } from '../../core/names';
import { TagOutput } from '../../core/facts/tags';
import { messageOf, Unreadable } from '../errors';
import { diskPath, joinPath } from '../files/names';
import { mkdtemp, rm, symlink } from '../files/onDisk';

/** ExifTool is kept running: starting it costs half a second. One that does not answer in time is ended and started anew. */
export const tagLimits = { milliseconds: 20_000, restart: endTagReader };

let tool: ExifTool | null = null;

function running(): ExifTool {
  tool ??= new ExifTool({ maxProcs: 2, taskTimeoutMillis: tagLimits.milliseconds, taskRetries: 0, maxTasksPerProcess: 2000, spawnTimeoutMillis: 30_000 });
  return tool;
}

/** What ExifTool finds in a file, numbers as numbers. Throws Unreadable with its reason, also where it takes too long or dies; the next file is read all the same. */
export async function readTags(file: DiskPath): Promise<TagOutput> {
  try {
    return await withPlainName(file, async (plain) => TagOutput.parse(await running().readRaw(plain, { readArgs: ['-json', '-n', '-fast'] })));
  } catch (e) {
    throw new Unreadable(`its camera tags could not be read: ${messageOf(e).split('\n')[0]!.replaceAll(file, path.basename(file))}`, { file });
  }
}

/** ExifTool is told files line by line: a name that holds a line's end, or bytes that are no UTF-8, gets a plain one for as long as it is read. */
async function withPlainName<T>(file: DiskPath, work: (plain: string) => Promise<T>): Promise<T> {
  const onDisk = diskPath(file);
  if (typeof onDisk === 'string' && !/[\r\n]/.test(file)) return work(file);
  const folder = await mkdtemp(joinPath(tmpdir(), 'shelf-tags-'));
  try {
    const link = joinPath(folder, `file${/\.[A-Za-z0-9]{1,8}$/.exec(file)?.[0] ?? ''}`);
    await symlink(file, link);
    return await work(link);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

export async function endTagReader(): Promise<void> {
  const ended = tool;
  tool = null;
  await ended?.end(false);
}
