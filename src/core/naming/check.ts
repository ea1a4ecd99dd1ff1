import * as z from 'zod';

/** A problem with one clip's name or place: `stop` prevents applying, `look` is worth a look. */
export interface Problem {
  level: 'stop' | 'look';
  code: string;
  text: string;
  /** What would mend it, as a sentence without a capital. */
  mend?: string;
}

/** File systems that names have to fit. */
export const System = z.enum(['exFAT', 'NTFS', 'FAT32', 'APFS', 'ext4']);
export type System = z.infer<typeof System>;
export const ALL_SYSTEMS: readonly System[] = System.options;

interface Limits {
  /** How long a name may be, and in what it is counted: UTF-16 code units or bytes of UTF-8. */
  name: readonly [number, 'units' | 'bytes'];
  /** How long a path below its volume may be. */
  path: readonly [number, 'units' | 'bytes'];
  /** Whether device names, and dots and spaces at the end, are refused as by Win32. */
  windows: boolean;
  /** Characters no name may hold. */
  forbidden: RegExp;
}

const WINDOWS = /[<>:"/\\|?*\u0000-\u001f]/gu;

/**
 * Names: exFAT 255 UTF-16 units (Microsoft, exFAT file system specification, 7.6.3 and 7.7.3, which also lists the characters);
 * NTFS and FAT32 long names 255 units (Microsoft, "Naming Files, Paths, and Namespaces", with the 260 units of a path, MAX_PATH);
 * APFS 255 bytes of UTF-8 (Apple, "File System Programming Guide" has 255 characters; that they are bytes is from memory); ext4 255
 * bytes, a path 4 096 (Linux, limits.h: NAME_MAX, PATH_MAX), APFS 1 024 (PATH_MAX there, from memory). All from memory while writing.
 */
const LIMITS: Record<System, Limits> = {
  exFAT: { name: [255, 'units'], path: [260, 'units'], windows: true, forbidden: WINDOWS },
  NTFS: { name: [255, 'units'], path: [260, 'units'], windows: true, forbidden: WINDOWS },
  FAT32: { name: [255, 'units'], path: [260, 'units'], windows: true, forbidden: WINDOWS },
  APFS: { name: [255, 'bytes'], path: [1024, 'bytes'], windows: false, forbidden: /[:/\u0000]/gu },
  ext4: { name: [255, 'bytes'], path: [4096, 'bytes'], windows: false, forbidden: /[/\u0000]/gu },
};

const DEVICE_NAMES = /^(?:con|prn|aux|nul|com[0-9¹²³]|lpt[0-9¹²³]|conin\$|conout\$)(?:\.|$)/iu;

const BYTES = new TextEncoder();
const lengthIn = (text: string, unit: 'units' | 'bytes'): number =>
  // Three bytes a unit at most: short names need not be encoded.
  unit === 'units' ? text.length : text.length * 3 <= 200 ? text.length : BYTES.encode(text).length;

/** Room in a name that is kept for a suffix and an extension. */
const ROOM = 25;

/** Names of plain letters, digits and a few signs, of moderate length, fit everywhere unless they begin like a device's. */
const PLAIN = /^[A-Za-z0-9_](?:[A-Za-z0-9 _.-]{0,60}[A-Za-z0-9_-])?$/u;
const LIKE_DEVICE = /^(?:con|prn|aux|nul|com|lpt)/iu;

/** Whether a name (a stem, a folder) works on the systems footage travels through. */
export function checkName(name: string, systems: readonly System[] = ALL_SYSTEMS): Problem[] {
  if (PLAIN.test(name) && !LIKE_DEVICE.test(name)) return [];
  const problems: Problem[] = [];
  const stop = (code: string, text: string, mend: string): void => {
    problems.push({ level: 'stop', code, text, mend });
  };
  if (name.trim() === '') {
    stop('empty', 'the name is empty', 'add a block that every clip has a value for');
    return problems;
  }
  const windows = systems.some((s) => LIMITS[s].windows);
  // Control characters and the slash go nowhere.
  const bad = new Set(name.match(/[/\u0000-\u001f\u007f]/gu));
  for (const s of systems) for (const c of name.match(LIMITS[s].forbidden) ?? []) bad.add(c);
  if (bad.size > 0)
    stop(
      'illegal',
      `${[...bad].map((c) => (c < ' ' || c === '\u007f' ? 'a control character' : c)).join(' ')} cannot stand in a file name`,
      'change the words, or replace the characters by others',
    );
  if (/[\p{Co}\p{Cs}\p{Cn}\u202a-\u202e\u2066-\u2069\u200e\u200f]/u.test(name))
    stop(
      'unseen',
      'a name cannot hold characters without a meaning of their own, or that turn the direction of what follows',
      'take them out',
    );
  if (/^[. ]|[. ]$/u.test(name))
    stop('edge', 'a name cannot begin or end with a dot or a space', 'take them away');
  if (windows && DEVICE_NAMES.test(name))
    stop('device', `${name} is a device name on some systems`, 'add a word or a number');
  const long = systems.find((s) => lengthIn(name, LIMITS[s].name[1]) > LIMITS[s].name[0] - ROOM);
  if (long)
    stop(
      'long',
      `the name is longer than ${LIMITS[long].name[0] - ROOM} ${LIMITS[long].name[1] === 'bytes' ? 'bytes' : 'characters'}, too long for ${long} with its extension`,
      'give the longest block fewer characters',
    );
  if (name.startsWith('-'))
    problems.push({
      level: 'look',
      code: 'dash',
      text: 'a leading dash is read as an option by many tools',
      mend: 'begin with another block',
    });
  return problems;
}

/** So short a path fits everywhere, also at three bytes a unit. */
export const SHORT = 240;

/** Whether a path below a root is too long for one of the systems. */
export function checkPath(path: string, systems: readonly System[]): Problem | null {
  const long = systems.find((s) => lengthIn(path, LIMITS[s].path[1]) > LIMITS[s].path[0] - 10);
  return long
    ? {
        level: 'look',
        code: 'longPath',
        text: `the path is ${lengthIn(path, LIMITS[long].path[1])} ${LIMITS[long].path[1] === 'bytes' ? 'bytes' : 'characters'} long: ${long} stops at ${LIMITS[long].path[0]}`,
        mend: 'use fewer or shorter folders',
      }
    : null;
}
