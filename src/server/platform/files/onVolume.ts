import type { DiskPath } from '../../../core/platform/names';
import { NotFound } from '../errors';
import { stat } from './onDisk';

/**
 * A folder that is written below, with the device it was on when that began. The folder that a drive was mounted at outlives the drive: what is
 * written there after it was pulled is on the system's own volume.
 */
export interface OnVolume {
  folder: DiskPath;
  device: number;
}

/** With the dot, a share that is mounted when somebody comes to it is. */
const deviceOf = async (folder: DiskPath): Promise<number> => (await stat(`${folder}/.`)).dev;

/** Notes on which device a folder is. Throws what the file system throws where it is not there. */
export const onVolume = async (folder: DiskPath): Promise<OnVolume> => ({
  folder,
  device: await deviceOf(folder),
});

/** Throws NotFound, with the code ENODEV, where the folder is not there any more, or is on another device. */
export async function requireVolume({ folder, device }: OnVolume): Promise<void> {
  if ((await deviceOf(folder).catch(() => null)) === device) return;
  throw Object.assign(
    new NotFound('its volume was taken away', { file: folder, next: 'Connect the volume again.' }),
    { code: 'ENODEV' },
  );
}
