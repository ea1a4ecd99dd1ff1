import type { files } from './tables';

export type FileRow = typeof files.$inferSelect;

/** The files of each clip, by the clip's id. */
export function byClip<T extends Pick<FileRow, 'clip'>>(rows: readonly T[]): Map<string, T[]> {
  const families = new Map<string, T[]>();
  for (const f of rows) {
    const family = families.get(f.clip);
    if (family) family.push(f);
    else families.set(f.clip, [f]);
  }
  return families;
}
