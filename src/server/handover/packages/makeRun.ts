import { and, eq, inArray } from 'drizzle-orm';
import { believed } from '../../../core/facts';
import { imagesIn } from '../../../core/handover';
import type { DiskPath } from '../../../core/platform/names';
import { statementsOf, withFile } from '../../cards';
import { files } from '../../cards/tables';
import { requireJob } from '../../jobs';
import { NotFound, Refused, Unreadable } from '../../platform/errors';
import { setModified } from '../../platform/files/fileSystem';
import { modifiedOf } from '../../platform/files/move';
import { joinPath } from '../../platform/files/names';
import { rm } from '../../platform/files/onDisk';
import { makeImages } from '../../proxies';
import { whyAway } from '../away';
import type { InJob, Ports } from '../ports';
import { clipsToConnect } from '../sides';
import { packageFiles } from '../tables';
import { imagesFrom, pictureOf } from './images';
import type { PackageRow } from './kept';
import type { PackedFile } from './plan';

/** Images of a clip's frames, one after the other. */
export type ImageFile = PackedFile & { image: NonNullable<PackedFile['image']> };
export const isImage = (f: PackedFile): f is ImageFile => f.image !== null;

/** Bytes of images that stand in the data folder at once, from where they are copied. Fewer in tests. */
export const imageLimits = { bytes: 512 << 20 };

const imagesAt = ({ home }: Pick<Ports, 'home'>): DiskPath => joinPath(home, 'cache', 'images');
/** Where the images of a package stand until they are copied. */
export const runAt = (runtime: Pick<Ports, 'home'>, id: string): DiskPath => joinPath(imagesAt(runtime), id);
/** Removes what a killed server left of them. */
export const clearLeftImages = (runtime: Pick<Ports, 'home'>): Promise<void> =>
  rm(imagesAt(runtime), { recursive: true, force: true });

/** Images in runs of one clip, one frame after the other, and of not more than so many bytes. */
export function imageRuns(images: readonly ImageFile[], most: number): ImageFile[][] {
  const runs: ImageFile[][] = [];
  let bytes = 0;
  const inOrder = [...images].sort((a, b) =>
    a.file < b.file ? -1 : a.file > b.file ? 1 : a.image.frame - b.image.frame,
  );
  for (const f of inOrder) {
    const last = runs.at(-1)?.at(-1);
    bytes += f.size;
    if (last?.file === f.file && last.image.frame + 1 === f.image.frame && bytes <= most)
      runs.at(-1)!.push(f);
    else {
      runs.push([f]);
      bytes = f.size;
    }
  }
  return runs;
}

/**
 * Makes a run of images, as they were planned, and answers them with the bytes they have. Throws Refused where the clip is not what it was then,
 * Unreadable where they cannot be made, and Halted where there is no room.
 */
export async function makeRun(
  runtime: InJob,
  { id, wanted }: PackageRow,
  run: readonly ImageFile[],
  signal: AbortSignal,
): Promise<{ files: PackedFile[]; at: Map<number, DiskPath> }> {
  const kind = imagesIn(wanted.form);
  const { clip } = run[0]!;
  const of = (await clipsToConnect(runtime)).clips.find((c) => c.clip === clip);
  if (kind === null || !of) throw new NotFound('Its clip is no longer in the job.');
  const name = of.original.name;
  const picture = pictureOf(await runtime.db.select().from(files).where(eq(files.clip, of.clip)));
  const { trust } = await requireJob(runtime);
  const stated = believed((await statementsOf(runtime.db, [of.clip])).get(of.clip) ?? [], trust);
  const from = imagesFrom(kind, of, stated, picture);
  if (typeof from === 'string') throw new Unreadable(`No images can be made of ${name}: ${from}`);
  if (run.some((f) => f.image.of !== from.of))
    throw new Refused(`${name} is not what it was when this was planned. Hand it over again.`);
  const refuseAway = async (): Promise<void> => {
    const why = (await whyAway(runtime, picture)).find((w) => w !== null);
    if (why !== undefined) throw new Unreadable(`No images can be made of ${name}: ${why}.`);
  };
  await refuseAway();
  const part = { from: run[0]!.image.frame, to: run.at(-1)!.image.frame + 1 };
  const called = new Map(run.map((f) => [f.image.frame, f.place.split('/').at(-1)!]));
  const about = (frame: number) => from.about(frame, called.get(frame)!);
  const all = await withFile(runtime, of.clip, 'original', (footage) =>
    makeImages(footage, part, { ...from, about }, runAt(runtime, id), signal),
  );
  // What was read while it changed is of no one state.
  await refuseAway();
  const at = new Map(run.map((f, i) => [f.number, all[i]!]));
  const { size } = await modifiedOf(all[0]!);
  for (const file of all) await setModified(file, from.modified);
  const numbers = run.map((f) => f.number);
  if (run.some((f) => f.size !== size))
    await runtime.db
      .update(packageFiles)
      .set({ size })
      .where(and(eq(packageFiles.package, id), inArray(packageFiles.number, numbers)));
  return { files: run.map((f) => ({ ...f, size, modified: from.modified })), at };
}
