import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { copyFile, constants, link, mkdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { createServer } from 'node:net';
import * as z from 'zod';
import { isCode, Refused } from './errors';
import { joinPath } from './files/names';

const Holder = z.object({
  pid: z.int().positive(),
  begun: z.string(),
  machine: z.string().optional(),
  at: z.string(),
});
type Holder = z.infer<typeof Holder>;

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

/** The machine this is, which a folder on a share needs told apart from others; "" where it has no id of its own. */
const machineId = (): string => {
  try {
    return readFileSync('/etc/machine-id', 'utf8').trim();
  } catch {
    return '';
  }
};

const isElsewhere = (holder: Holder): boolean =>
  holder.machine !== undefined &&
  holder.machine !== '' &&
  machineId() !== '' &&
  holder.machine !== machineId();

/** Who holds a folder by what its lock says; `null` where that one has died, or is this process. */
function holderIn(text: string): Holder | null {
  const { success, data } = Holder.safeParse(safeJson(text));
  if (!success) return null;
  if (isElsewhere(data)) return data;
  return data.pid !== process.pid && begun(data.pid) === data.begun ? data : null;
}

/**
 * Takes the right to the folder from the system, which gives it to one process and takes it back however that one ends: a name among
 * the sockets of this machine (Linux, unix(7); elsewhere the lock file alone must do). `null` where another process has it.
 */
async function takeRight(home: string): Promise<(() => void) | null> {
  if (process.platform !== 'linux') return () => undefined;
  const { dev, ino } = await stat(home);
  const server = createServer((socket) => socket.destroy());
  const taken = await new Promise<boolean>((resolve, reject) => {
    server.once('error', (e) => (isCode(e, 'EADDRINUSE') ? resolve(false) : reject(e)));
    server.listen(`\0sort-shelf ${process.getuid?.() ?? ''} ${dev}:${ino}`, () => resolve(true));
  });
  server.unref();
  return taken ? () => void server.close() : null;
}

/**
 * Takes the data folder for this process; one server at a time holds it. Returns the way to let go. The right to it is the
 * system's to give; the file says who has it, for people, for other machines and for systems without such rights. A holder that died
 * (SIGKILL, power) leaves its file behind, which is replaced.
 */
export async function holdFolder(home: string): Promise<() => Promise<void>> {
  await mkdir(home, { recursive: true }).catch((e: unknown) => {
    if (isCode(e, 'EEXIST', 'ENOTDIR'))
      throw new Refused(`The data folder ${home} cannot be made: it, or a folder on its path, is a file.`, {
        next: 'Set SORT_SHELF_HOME to another folder.',
      });
    throw e;
  });
  const file = joinPath(home, 'server.lock');
  const refusal = (who: string) =>
    new Refused(`Another Sort Shelf (${who}) works on ${home}.`, {
      next: 'Use that one, stop it first, or set SORT_SHELF_HOME to another folder.',
    });
  const drop = await takeRight(home);
  if (!drop) {
    // Whoever has the right has just begun where the file does not name it yet.
    const holder = await readFile(file, 'utf8').then(holderIn, () => null);
    throw refusal(holder ? `process ${holder.pid}, since ${holder.at}` : 'one that has just begun');
  }
  const mine = joinPath(home, `.server.lock.${process.pid}.${randomUUID()}`);
  try {
    await writeFile(
      mine,
      JSON.stringify({
        pid: process.pid,
        begun: begun(process.pid) ?? '',
        machine: machineId(),
        at: new Date().toISOString(),
      } satisfies Holder),
      { flag: 'wx' },
    );
    for (let attempt = 0; attempt < 20; attempt++) {
      try {
        await takeName(mine, file);
        return async () => {
          await rm(file, { force: true });
          drop();
        };
      } catch (e) {
        if (!isCode(e, 'EEXIST')) throw e;
      }
      const holder = await readFile(file, 'utf8').then(holderIn, () => null);
      if (holder) {
        throw isElsewhere(holder)
          ? new Refused(`A Sort Shelf on another machine (since ${holder.at}) works on ${home}.`, {
              next: `Stop that one first. If it was not ended in good order and runs no more, remove ${file}.`,
            })
          : refusal(`process ${holder.pid}, since ${holder.at}`);
      }
      await rm(file, { force: true });
    }
    throw new Refused(`The lock file ${file} could not be taken.`, {
      next: 'Remove it if no other Sort Shelf runs.',
    });
  } catch (e) {
    drop();
    throw e;
  } finally {
    await rm(mine, { force: true });
  }
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

function safeJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
