import { randomUUID } from 'node:crypto';
import { lstatSync, readdirSync } from 'node:fs';
import path from 'node:path';
import type { FileRole } from '../../core/intake';
import { cameras, cards, clips, days, files } from '../cards/tables';
import { listRoots } from '../places';
import type { InJob } from '../runtime';

const ROLES: Record<string, FileRole> = { xml: 'sidecar', cdl: 'look', thm: 'thumbnail' };

/**
 * Stores the files of a folder of a root as the read clips of a card, without media: it is their names and places that are tried.
 * Files of a stem are one family; "_px" behind it makes a camera-made proxy.
 */
export async function storeShelved(
  runtime: InJob,
  folder: string,
  { camera = 'B', card = 'B001', day = 1, root = 'shelf' } = {},
): Promise<Map<string, string>> {
  const { db, job } = runtime;
  const place = (await listRoots(runtime)).find((r) => r.id === root)!.path;
  await db.insert(cameras).values({ job, label: camera, model: null }).onConflictDoNothing();
  await db
    .insert(days)
    .values({ job, number: day, date: `2026-05-${String(4 + day).padStart(2, '0')}` })
    .onConflictDoNothing();
  await db.insert(cards).values({
    job,
    id: card,
    camera,
    day,
    shape: 'plain',
    root,
    folder,
    aside: [],
    proxySuffix: null,
    takenAt: new Date(),
  });
  const ids = new Map<string, string>();
  const rows: (typeof files.$inferInsert)[] = [];
  for (const name of readdirSync(path.join(place, folder)).sort()) {
    const s = lstatSync(path.join(place, folder, name));
    if (!s.isFile()) continue;
    const { name: bare, ext } = path.parse(name);
    const suffix = bare.endsWith('_px') ? '_px' : '';
    const stem = bare.slice(0, bare.length - suffix.length);
    const clip = ids.get(stem) ?? randomUUID();
    ids.set(stem, clip);
    const at = folder === '' ? name : `${folder}/${name}`;
    rows.push({
      id: randomUUID(),
      clip,
      role: suffix === '' ? (ROLES[ext.slice(1).toLowerCase()] ?? 'original') : 'cameraProxy',
      root,
      path: at,
      takenRoot: root,
      takenPath: at,
      suffix,
      size: s.size,
      modified: Math.round(s.mtimeMs),
    });
  }
  const list = [...ids].map(([original, id]) => ({
    id,
    job,
    card,
    original,
    state: 'read' as const,
    audio: [],
  }));
  for (let i = 0; i < list.length; i += 1000) await db.insert(clips).values(list.slice(i, i + 1000));
  for (let i = 0; i < rows.length; i += 1000) await db.insert(files).values(rows.slice(i, i + 1000));
  return ids;
}
