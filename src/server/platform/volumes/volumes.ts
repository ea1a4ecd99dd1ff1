import path from 'node:path';
import type { VolumeKind } from '../../../core/platform/disks';
import { isSystemFolder } from '../../../core/platform/places';
import { type Mount, mountsOf, NETWORK, SYSTEM, SYSTEM_TYPES, type SystemView } from './mountTable';

/** A volume as the system lists it; nothing of it is read for that, so one that does not answer is listed too. */
export interface ListedVolume {
  /** The folder it begins at, absolute. */
  at: string;
  /** What it is called; `null` where the system does not say. */
  label: string | null;
  /** Its file system, as the system calls it; "" where it does not say. */
  type: string;
  kind: VolumeKind;
  /** Whether it can be unplugged; `null` where the system does not say. */
  removable: boolean | null;
  readOnly: boolean;
}

/** Systems on which the listing has been tried. On others it is by common practice. */
export const TRIED_ON: readonly NodeJS.Platform[] = ['linux'];

/** The volumes footage may be on: those of the system's own are left out, the one it runs from is not. */
export function volumesOn(
  system: SystemView = SYSTEM,
  platform: NodeJS.Platform = process.platform,
): ListedVolume[] {
  const plain = (at: string, label: string | null, kind: VolumeKind): ListedVolume => ({
    at,
    label,
    type: '',
    kind,
    removable: null,
    readOnly: false,
  });
  if (platform === 'darwin')
    return [
      plain('/', null, 'system'),
      ...(system.names('/Volumes') ?? [])
        // The volume the system runs from is linked there, too.
        .filter((n) => !n.startsWith('.') && system.real(`/Volumes/${n}`) !== '/')
        .map((n) => plain(`/Volumes/${n}`, n, 'disk')),
    ];
  if (platform === 'win32')
    return [...'ABCDEFGHIJKLMNOPQRSTUVWXYZ']
      .filter((letter) => system.names(`${letter}:\\`) !== null)
      .map((letter) => plain(`${letter}:\\`, null, letter === 'C' ? 'system' : 'disk'));
  const labels = labelsOf(system);
  const seen = new Map(mountsOf(system).map((m) => [m.at, m]));
  return [...seen.values()].filter(holdsFootage).map((m) => ({
    at: m.at,
    label: labels.get(system.real(m.source) ?? m.source) ?? null,
    type: m.type,
    kind: kindOf(m),
    removable: removableOf(m, system),
    readOnly: m.readOnly,
  }));
}

/** Where desktop systems mount what is plugged in, below folders that are the system's (common practice). */
const PLUGGED_IN = /^\/run\/(?:media|mount|user\/\d+\/gvfs)\//;

function holdsFootage({ at, type }: Mount): boolean {
  if (at === '/') return true;
  // Programs that come as volumes of their own are read-only compressed images.
  if (SYSTEM_TYPES.test(type) || type === 'squashfs') return false;
  return PLUGGED_IN.test(at) || !(isSystemFolder(at) || /^\/(?:dev|run)\//.test(at));
}

function kindOf({ at, type }: Mount): VolumeKind {
  if (at === '/') return 'system';
  if (NETWORK.test(type)) return 'network';
  return /^(?:tmpfs|ramfs)$/.test(type) ? 'memory' : 'disk';
}

/** The labels of file systems by their device, as udev links them: what is no plain character is written \xHH (systemd's udev, from memory). */
function labelsOf(system: SystemView): Map<string, string> {
  const folder = '/dev/disk/by-label';
  return new Map(
    (system.names(folder) ?? []).flatMap((n) => {
      const device = system.real(`${folder}/${n}`);
      if (device === null) return [];
      const bytes = n.replace(/\\x([0-9a-f]{2})/gi, (_, hex: string) => `%${hex}`);
      try {
        return [[device, decodeURIComponent(bytes.replace(/%(?![0-9a-f]{2})/gi, '%25'))] as const];
      } catch {
        return [[device, n] as const];
      }
    }),
  );
}

/** Whether the disk below is said to be removable, or hangs on USB or a card reader of the board (sysfs-block, sysfs-bus-usb; from memory). */
function removableOf(mount: Mount, system: SystemView): boolean | null {
  const block = system.real(`/sys/dev/block/${mount.device}`);
  if (block === null) return null;
  const disk = system.text(`${block}/partition`) === null ? block : path.dirname(block);
  const said = system.text(`${disk}/removable`)?.trim();
  if (said === '1' || /\/(?:usb\d+|mmc_host)\//.test(disk)) return true;
  return said === '0' ? false : null;
}
