import { readdirSync, readFileSync, realpathSync, statSync } from 'node:fs';
import { networkInterfaces } from 'node:os';
import { isWithin } from '../files/paths';

/** What is asked of the system. `null` where a file or folder is not there. Replaced in tests by a made-up system. */
export interface SystemView {
  /** Device number of the file system a path is on, as "major:minor". */
  deviceOf(file: string): string | null;
  text(file: string): string | null;
  names(folder: string): string[] | null;
  real(file: string): string | null;
  /** The addresses of this computer itself, each with the network it is in ("10.0.0.1/24"). */
  ownAddresses(): { of: string; address: string; network: string | null }[];
}

const orNull = <T>(read: () => T): T | null => {
  try {
    return read();
  } catch {
    return null;
  }
};

/** The system this runs on. Device numbers are split as Linux does (makedev(3)). */
export const SYSTEM: SystemView = {
  deviceOf: (file) =>
    orNull(() => {
      const dev = statSync(file, { bigint: true }).dev;
      const major = ((dev >> 8n) & 0xfffn) | ((dev >> 32n) & ~0xfffn);
      const minor = (dev & 0xffn) | ((dev >> 12n) & ~0xffn);
      return `${major}:${minor}`;
    }),
  text: (file) => orNull(() => readFileSync(file, 'utf8')),
  names: (folder) => orNull(() => readdirSync(folder)),
  real: (file) => orNull(() => realpathSync(file)),
  ownAddresses: () =>
    Object.entries(networkInterfaces()).flatMap(([of, list]) =>
      (list ?? []).map((i) => ({ of, address: i.address, network: i.cidr })),
    ),
};

export interface Mount {
  at: string;
  /** The folder of the file system that is mounted; "/" for all of it. */
  root: string;
  type: string;
  source: string;
  device: string;
  options: string;
  readOnly: boolean;
}

/** The mounts of this process, the last of a place being the one that is seen (proc(5), mountinfo). */
export function mountsOf(system: SystemView): Mount[] {
  const plain = (s: string) =>
    s.replace(/\\([0-7]{3})/g, (_, o: string) => String.fromCharCode(parseInt(o, 8)));
  return (system.text('/proc/self/mountinfo') ?? '').split('\n').flatMap((line) => {
    const [left, right] = line.split(' - ');
    if (!left || !right) return [];
    const [, , device, root, at, own = ''] = left.split(' ');
    const [type, source, options = ''] = right.split(' ');
    return [
      {
        at: plain(at!),
        root: plain(root!),
        type: type!,
        source: plain(source!),
        device: device!,
        options,
        readOnly: [own, options].some((o) => o.split(',').includes('ro')),
      },
    ];
  });
}

/** The mount a path is on: the deepest one that holds it. */
export function mountOf(file: string, system: SystemView = SYSTEM): Mount | null {
  return mountsOf(system).reduce<Mount | null>(
    (best, m) => (isWithin(file, m.at) && m.at.length >= (best?.at.length ?? 0) ? m : best),
    null,
  );
}

/** Volumes of the system's own, where no footage is. */
export const SYSTEM_TYPES =
  /^(?:proc|sysfs|devtmpfs|devpts|cgroup2?|mqueue|securityfs|debugfs|tracefs|bpf|pstore|configfs|efivarfs|hugetlbfs|autofs|binfmt_misc|fusectl|nsfs)$/;

/** The folders at which the volumes of this system begin. */
export const mountPoints = (system: SystemView = SYSTEM): string[] => [
  ...new Set(
    mountsOf(system)
      .filter((m) => !SYSTEM_TYPES.test(m.type))
      .map((m) => m.at),
  ),
];

export const NETWORK =
  /^(?:nfs4?|cifs|smb3?|smbfs|ncpfs|afs|9p|ceph|glusterfs|fuse\.(?:sshfs|glusterfs|rclone|davfs2?))$/;
