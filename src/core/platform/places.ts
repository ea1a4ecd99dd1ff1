// Folders that are no places for footage.

/** Folders of the system, with all below them (Filesystem Hierarchy Standard 3.0, from memory; of other systems by common practice). */
const WITHIN = [
  '/bin',
  '/boot',
  '/dev',
  '/etc',
  '/lib',
  '/lib32',
  '/lib64',
  '/proc',
  '/sbin',
  '/sys',
  '/usr',
  '/var/lib',
  '/var/log',
  '/var/cache',
  '/var/spool',
  '/System',
  '/Library',
  '/Applications',
  '/private/etc',
  '/private/var/db',
];
/** Folders in which volumes and people's folders stand: one of those can be chosen, not all of them at once. */
const ONLY = [
  '/',
  '/home',
  '/media',
  '/mnt',
  '/opt',
  '/root',
  '/run',
  '/run/media',
  '/srv',
  '/tmp',
  '/var',
  '/Users',
  '/Volumes',
  '/private',
  '/private/var',
];
/** What is in a folder of the system and is none of it: memory that is used as a disk. */
const ALL_THE_SAME = ['/dev/shm'];

const isIn = (path: string, folder: string): boolean => path === folder || path.startsWith(`${folder}/`);

/** Whether a real, absolute path is a folder of the system, or one in which all volumes or people's folders stand. */
export const isSystemFolder = (path: string): boolean =>
  ONLY.includes(path) ||
  (WITHIN.some((f) => isIn(path, f)) && !ALL_THE_SAME.some((f) => isIn(path, f) && path !== f));
