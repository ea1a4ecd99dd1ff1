import { readFileSync, readdirSync, readlinkSync } from 'node:fs';

/** Flags of open(2) in octal, as fdinfo shows them (proc(5)): the lowest two bits say reading only (0), writing only, or both. */
const isWriting = (flags: string): boolean => (parseInt(flags, 8) & 3) !== 0;

/**
 * The files below a folder that some process has open for writing, by their absolute path (Linux). Of processes of other users nothing is
 * told unless this one is root's; where nothing can be told the set is empty.
 */
export function openForWriting(folder: string): Set<string> {
  const found = new Set<string>();
  const below = `${folder}/`;
  for (const pid of names('/proc').filter((n) => /^\d+$/.test(n))) {
    for (const fd of names(`/proc/${pid}/fd`)) {
      try {
        const file = readlinkSync(`/proc/${pid}/fd/${fd}`);
        if (!file.startsWith(below) || found.has(file)) continue;
        const flags = /^flags:\s*(\d+)/m.exec(readFileSync(`/proc/${pid}/fdinfo/${fd}`, 'utf8'))?.[1];
        if (flags && isWriting(flags)) found.add(file);
      } catch {
        // It was closed meanwhile.
      }
    }
  }
  return found;
}

function names(folder: string): string[] {
  try {
    return readdirSync(folder);
  } catch {
    return [];
  }
}
