import { readFileSync } from 'node:fs';
import { mkdir, open, readFile, rm } from 'node:fs/promises';
import path from 'node:path';
import { z } from 'zod';
import { isCode, Refused } from './errors';

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

/**
 * Takes the data folder for this process; one server at a time holds it. Returns the way to let go. A holder that
 * died (SIGKILL, power) leaves its file behind; that file is replaced.
 */
export async function holdFolder(home: string): Promise<() => Promise<void>> {
  await mkdir(home, { recursive: true });
  const file = path.join(home, 'server.lock');
  for (let attempt = 0; attempt < 5; attempt++) {
    try {
      const handle = await open(file, 'wx');
      await handle.writeFile(JSON.stringify({ pid: process.pid, begun: begun(process.pid) ?? '', at: new Date().toISOString() }));
      await handle.close();
      return () => rm(file, { force: true });
    } catch (e) {
      if (!isCode(e, 'EEXIST')) throw e;
    }
    const text = await readFile(file, 'utf8').catch(() => '');
    const holder = Holder.safeParse(safeJson(text));
    if (holder.success && begun(holder.data.pid) === holder.data.begun && holder.data.pid !== process.pid) {
      throw new Refused(`Another Sort Shelf (process ${holder.data.pid}, since ${holder.data.at}) works on ${home}.`, {
        next: 'Use that one, stop it first, or set SORT_SHELF_HOME to another folder.',
      });
    }
    // An empty file may belong to a server that is just starting: give it a moment to write its name.
    if (text === '' && attempt < 3) await new Promise((r) => setTimeout(r, 300));
    else await rm(file, { force: true });
  }
  throw new Refused(`The lock file ${file} could not be taken.`, { next: 'Remove it if no other Sort Shelf runs.' });
}

function safeJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
