import path from 'node:path';
import type { DiskIdentity } from '../../../core/platform/disks';
import { diskOf, volumeIdOf } from './disks';
import { mountPoints, SYSTEM } from './mountTable';
import { type ListedVolume, volumesOn } from './volumes';
import { stat, statfs } from '../files/onDisk';

/** A volume: what fails as one. Bytes. */
export interface Volume {
  id: string;
  name: string;
  standIn: boolean;
  free: number;
  total: number;
}

/** The outside devices: volumes, card readers, drives. */
export interface Devices {
  /** The volume a folder is on; `null` where the folder is not there. */
  volumeOf: (folder: string) => Promise<Volume | null>;
  /** The folder at which the volume of a folder begins, absolute. */
  mountOf: (folder: string) => string;
  /** The folders at which volumes begin now, absolute; and a text that changes whenever one comes or goes. */
  mounted: () => string[];
  /** The volumes footage may be on. */
  volumes: () => ListedVolume[];
  mountState: () => string;
  /** The physical disks under a folder. */
  diskOf: (folder: string) => DiskIdentity;
  /** What tells the volume of a folder from others, also when it is connected again; `null` where the system does not say. */
  volumeIdOf: (folder: string) => string | null;
  /** A module that opens the files of a source in place of the disk, or of a destination; `null` for the disk. */
  readerOf: (folder: string) => string | null;
  writerOf: (folder: string) => string | null;
}

/** The topmost folder around a folder that has its device number. */
function mountOf(folder: string): string {
  const device = SYSTEM.deviceOf(folder);
  let mount = folder;
  for (let up = path.dirname(mount); up !== mount && SYSTEM.deviceOf(up) === device; up = path.dirname(mount))
    mount = up;
  return mount;
}

/** Devices as the system has them: volumes are told apart by device number, and named by where they are mounted. */
export const DISKS: Devices = {
  mountOf,
  mounted: () => mountPoints(),
  volumes: () => volumesOn(),
  mountState: () =>
    process.platform === 'linux'
      ? [SYSTEM.text('/proc/self/mountinfo') ?? '', ...(SYSTEM.names('/dev/disk/by-uuid') ?? [])].join('\n')
      : volumesOn()
          .map((v) => v.at)
          .join('\n'),
  diskOf: (folder) => diskOf(folder),
  volumeIdOf: (folder) => volumeIdOf(folder),
  async volumeOf(folder) {
    try {
      const [{ dev }, space] = await Promise.all([stat(folder), statfs(folder)]);
      const mount = mountOf(folder);
      return {
        id: `device ${dev}`,
        name: mount === '/' ? 'the system volume' : mount,
        standIn: false,
        free: space.bavail * space.bsize,
        total: space.blocks * space.bsize,
      };
    } catch {
      return null;
    }
  },
  readerOf: () => null,
  writerOf: () => null,
};

/** The devices of this process: the stand-ins that ship with the product where the launcher asks for them. */
export async function openDevices(): Promise<Devices> {
  const folder = process.env.SORT_SHELF_STAND_INS;
  return folder ? (await import('../../../demo/standIns/standIns')).standInDevices(folder, DISKS) : DISKS;
}
