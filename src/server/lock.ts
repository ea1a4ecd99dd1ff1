import { createHash, randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { copyFile, constants, link, mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { z } from 'zod';
import { isCode, Refused } from './errors';
import { joinPath } from './files/names';

const Holder = z.object({ pid: z.int().positive(), begun: z.string(), at: z.string() });

/**
 * When a process began, so that a number used again is not taken for the one that held the folder. On Linux its start
 * tick (proc(5), field 22 of stat); elsewhere "", and the number alone must do. `null` where no such process runs.
 */
function begun(pid: number): string | null {
  try {
    process.kill(pid, 0);
  } catch (e) {
    if (!isCode(e, 'EPERM')) return null;
  }
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? '';
  } catch {
    return process.platform === 'linux' ? null : '';
  }
}

const holds = (text: string): z.infer<typeof Holder> | null => {
  const holder = Holder.safeParse(safeJson(text));
  return holder.success && holder.data.pid !== process.pid && begun(holder.data.pid) === holder.data.begun ? holder.data : null;
};

/**
 * Takes the data folder for this process; one server at a time holds it. Returns the way to let go. A holder that died (SIGKILL,
 * power) leaves its file behind, which is replaced. The file is linked into place whole, so that it is never seen half
 * written; it is removed only by who holds the right to remove that very file, so that nobody removes a fresh one.
 */
export async function holdFolder(home: string): Promise<() => Promise<void>> {
  await mkdir(home, { recursive: true });
  const file = joinPath(home, 'server.lock');
  const mine = joinPath(home, `.server.lock.${process.pid}.${randomUUID()}`);
  await writeFile(mine, JSON.stringify({ pid: process.pid, begun: begun(process.pid) ?? '', at: new Date().toISOString() }), { flag: 'wx' });
  try {
    for (let attempt = 0; attempt < 20; attempt++) {
      try {
        await takeName(mine, file);
        return () => rm(file, { force: true });
      } catch (e) {
        if (!isCode(e, 'EEXIST')) throw e;
      }
      const text = await readFile(file, 'utf8').catch(() => null);
      if (text === null) continue;
      const holder = holds(text);
      if (holder) {
        throw new Refused(`Another Sort Shelf (process ${holder.pid}, since ${holder.at}) works on ${home}.`, {
          next: 'Use that one, stop it first, or set SORT_SHELF_HOME to another folder.',
        });
      }
      await removeStale(file, text, mine);
    }
  } finally {
    await rm(mine, { force: true });
  }
  throw new Refused(`The lock file ${file} could not be taken.`, { next: 'Remove it if no other Sort Shelf runs.' });
}

/** Gives a file a second name that must be free; on a volume without links a copy of it is made exclusively. */
async function takeName(from: string, to: string): Promise<void> {
  try {
    await link(from, to);
  } catch (e) {
    if (!isCode(e, 'EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS')) throw e;
    await copyFile(from, to, constants.COPYFILE_EXCL);
  }
}

/** Removes a dead server's file. Of several that start at once only the one that takes the right for this very text may do so. */
async function removeStale(file: string, text: string, mine: string): Promise<void> {
  const right = `${file}.${createHash('sha256').update(text).digest('hex').slice(0, 16)}.gone`;
  try {
    await takeName(mine, right);
  } catch (e) {
    if (!isCode(e, 'EEXIST')) throw e;
    // Somebody else is at it; one that died meanwhile is not waited for.
    await new Promise((r) => setTimeout(r, 100));
    const other = await readFile(right, 'utf8').catch(() => null);
    if (other !== null && !holds(other)) await rm(right, { force: true });
    return;
  }
  try {
    if ((await readFile(file, 'utf8').catch(() => null)) === text) await rm(file, { force: true });
  } finally {
    await rm(right, { force: true });
  }
}

function safeJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
