import { stat, statfs } from 'node:fs/promises';
import path from 'node:path';

/** A volume: what fails as one. Bytes. */
export interface Volume { id: string; name: string; standIn: boolean; free: number; total: number }

/** The outside devices: volumes, card readers, drives. */
export interface Devices {
  /** The volume a folder stands on; `null` where the folder is not there. */
  volumeOf(folder: string): Promise<Volume | null>;
  /** A module that opens the files of a source in place of the disk, or of a destination; `null` for the disk. */
  readerOf(folder: string): string | null;
  writerOf(folder: string): string | null;
}

/** Devices as the system has them: volumes are told apart by device number, and named by where they are mounted. */
export const DISKS: Devices = {
  async volumeOf(folder) {
    try {
      const [{ dev }, space] = await Promise.all([stat(folder), statfs(folder)]);
      let mount = folder;
      for (let up = path.dirname(mount); up !== mount; up = path.dirname(mount)) {
        if ((await stat(up)).dev !== dev) break;
        mount = up;
      }
      return { id: `device ${dev}`, name: mount === '/' ? 'the system volume' : mount, standIn: false, free: space.bavail * space.bsize, total: space.blocks * space.bsize };
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
  return folder ? (await import('../demo/standIns/standIns')).standInDevices(folder, DISKS) : DISKS;
}
