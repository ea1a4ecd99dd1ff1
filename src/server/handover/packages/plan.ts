import { and, desc, eq, isNotNull } from 'drizzle-orm';
import pMap from 'p-map';
import {
  type Compared,
  comparePlans,
  type Item,
  type List,
  type Media,
  type NewPackage,
  type PackagePlan,
  type PackClip,
  planItems,
  type Remark,
  type RemarkView,
  type Sent,
  sentKey,
} from '../../../core/handover';
import { shownPath } from '../../../core/platform/names';
import { formatBytes } from '../../../core/platform/words';
import { grouped } from '../../cards';
import { shown } from '../../facts/tables';
import { clips as clipRows } from '../../cards/tables';
import { type Root, rootById } from '../../places';
import { among } from '../../platform/db/among';
import { isCode, messageOf, ShelfError } from '../../platform/errors';
import { modifiedOf } from '../../platform/files/move';
import { joinPath } from '../../platform/files/names';
import { access, constants, namesIn } from '../../platform/files/onDisk';
import { resolveIn } from '../../platform/files/paths';
import type { InJob } from '../ports';
import { packageFiles, packages, sendings } from '../tables';
import type { PackageRow } from './kept';
import { makeAll, type Making, openOf } from './made';
import { packClips } from './packable';
import { clipsOfSet } from './sets';

export type PackedFile = typeof packageFiles.$inferSelect;

/** Remarks that are told one by one. */
const MOST_REMARKS = 200;
/** Room left free on a volume beside what is copied. Bytes. */
const SPARE = 32 << 20;

/** What is to be done, and what was done at its place before. */
export interface Planned {
  name: string;
  clips: PackClip[];
  /** What has to be made for it first. */
  making: Making[];
  items: Item[];
  remarks: Remark[];
  compared: Compared;
  /** The package that stands at the place; null where there is none yet. */
  before: PackageRow | null;
  /** Its files but for the lists, which are written anew. */
  sent: PackedFile[];
}

/** Works out what is handed over, and what of it is at its place already. Throws NotFound where the set is gone. */
export async function planned(runtime: InJob, wanted: NewPackage): Promise<Planned> {
  const set = await clipsOfSet(runtime, wanted.set);
  const { name } = set;
  const { clips, making } = await packClips(runtime, set, wanted.form);
  const [before = null] = await runtime.db
    .select()
    .from(packages)
    .where(
      and(eq(packages.job, runtime.job), eq(packages.root, wanted.root), eq(packages.folder, wanted.folder)),
    );
  const files = before
    ? await runtime.db.select().from(packageFiles).where(eq(packageFiles.package, before.id))
    : [];
  const sent = files.filter((f) => f.what !== 'list');
  const { items, remarks } = planItems(
    wanted.form,
    clips,
    new Map(sent.map((f) => [sentKey({ file: f.file, what: f.what as Media, image: f.image }), f.place])),
  );
  const was = sent
    // What belonged to it no more the last time is no news.
    .map((f): Sent & { old: boolean } => ({
      ...{ file: f.file, what: f.what as Media, place: f.place, size: f.size, modified: f.modified },
      image: f.image,
      state: f.state === 'left' ? 'verified' : f.state,
      old: f.state === 'left',
    }));
  const compared = comparePlans(items, was);
  const gone = await goneOf(runtime, wanted, sent);
  const old = new Set(was.filter((w) => w.old).map((w) => w.place));
  return {
    ...{ name, clips, making, items, remarks, before, sent },
    compared: {
      ...compared,
      fresh: [...compared.fresh, ...compared.same.filter((i) => gone.has(i.place))],
      same: compared.same.filter((i) => !gone.has(i.place)),
      left: compared.left.filter((s) => !old.has(s.place)),
    },
  };
}

/** What was sent, and does not stand at its place any more as it was brought there; nothing, where the place is not connected. */
async function goneOf(runtime: InJob, wanted: NewPackage, sent: readonly PackedFile[]): Promise<Set<string>> {
  const root = await rootById(runtime, wanted.root);
  const gone = new Set<string>();
  if ((await freeAt(runtime, root)) === null) return gone;
  const at = await resolveIn(root, wanted.folder).catch(() => null);
  if (at === null) return gone;
  await pMap(
    sent.filter((f) => f.stoodSize !== null),
    async (f) => {
      const now = await modifiedOf(joinPath(at, f.place)).catch(() => null);
      if (now?.size !== f.stoodSize || now.modified !== f.stoodModified) gone.add(f.place);
    },
    { concurrency: 16 },
  );
  return gone;
}

/** What is to be copied. */
export const toCopy = ({ fresh, changed }: Compared): Item[] => [...fresh, ...changed];
const bytesOf = (items: readonly { size: number }[]): number => items.reduce((n, i) => n + i.size, 0);

/** Why nothing can be written to a place, and what to do, in words; null where it can. */
export async function placeFault(
  runtime: InJob,
  wanted: NewPackage,
  { before, compared, items }: Planned,
): Promise<string | null> {
  if (items.length === 0 && wanted.form.lists.length === 0)
    return 'There is nothing to hand over: none of these clips has such files. Choose another form, or other clips.';
  const others = await runtime.db
    .select({ job: packages.job, folder: packages.folder })
    .from(packages)
    .where(eq(packages.root, wanted.root));
  const here = `${wanted.folder}/`;
  const other = others.find(
    ({ job, folder }) =>
      (folder !== wanted.folder || job !== runtime.job) &&
      (`${folder}/`.startsWith(here) || here.startsWith(`${folder}/`)),
  );
  if (other)
    return other.folder === wanted.folder
      ? 'A package of another job stands in this folder. Name another one.'
      : `A package stands in ${shownPath(other.folder)}: no other may be in it or around it. Name another folder.`;
  try {
    const root = await rootById(runtime, wanted.root);
    if (root.kind !== 'handover') return `“${root.name}” is no place for packages. Add its folder as one.`;
    const free = await freeAt(runtime, root);
    if (free === null) return `“${root.name}” is not connected. Connect its drive.`;
    await access(root.path, constants.W_OK);
    const at = await resolveIn(root, wanted.folder);
    if (!before && (await isTaken(at)))
      return `There is something in ${wanted.folder} already, which was not sent from here. Name another folder.`;
    const bytes = bytesOf(toCopy(compared)) + SPARE;
    if (bytes > free)
      return `${root.name} needs ${formatBytes(bytes)}; ${formatBytes(free)} are free. Make room, or hand over less.`;
    return null;
  } catch (e) {
    if (isCode(e, 'EROFS', 'EACCES', 'EPERM'))
      return 'Nothing can be written there: check the drive and its permissions, or choose another.';
    const next = e instanceof ShelfError ? e.about.next : undefined;
    return `${messageOf(e)}${next ? ` ${next}` : ''}`;
  }
}

const isTaken = (at: string): Promise<boolean> =>
  namesIn(at).then(
    (names) => names.length > 0,
    (e: unknown) => {
      if (isCode(e, 'ENOENT')) return false;
      if (isCode(e, 'ENOTDIR')) return true;
      throw e;
    },
  );

const freeAt = async (runtime: InJob, root: Root): Promise<number | null> =>
  (await runtime.devices.volumeOf(root.path))?.free ?? null;

/** Bytes a second at which the last sendings to a root went; null where nothing went there. */
async function speedTo(runtime: InJob, root: string): Promise<number | null> {
  const rows = await runtime.db
    .select({ bytes: sendings.bytes, from: sendings.startedAt, to: sendings.endedAt })
    .from(sendings)
    .innerJoin(packages, eq(packages.id, sendings.package))
    .where(and(eq(packages.root, root), eq(sendings.state, 'done'), isNotNull(sendings.startedAt)))
    .orderBy(desc(sendings.endedAt))
    .limit(5);
  const seconds = rows.reduce((n, r) => n + (r.to!.getTime() - r.from!.getTime()) / 1000, 0);
  const bytes = bytesOf(rows.map((r) => ({ size: r.bytes })));
  return seconds > 0 && bytes > 0 ? bytes / seconds : null;
}

/** Remarks with the names of their clips, so many of them, and how many more there are. */
export async function remarkViews(
  runtime: InJob,
  remarks: readonly Remark[],
): Promise<{ remarks: RemarkView[]; moreRemarks: number }> {
  const told = remarks.slice(0, MOST_REMARKS);
  const named = new Map(
    (
      await runtime.db
        .select({ id: clipRows.id, card: clipRows.card, name: shown.name })
        .from(clipRows)
        .innerJoin(shown, eq(shown.clip, clipRows.id))
        .where(
          among(
            clipRows.id,
            told.map((r) => r.clip),
          ),
        )
    ).map((r) => [r.id, r]),
  );
  return {
    remarks: told.map(({ clip, what, why }) => ({
      name: shownPath(named.get(clip)?.name ?? 'a clip that is no longer in the job'),
      card: named.get(clip)?.card ?? '',
      ...{ what, why },
    })),
    moreRemarks: remarks.length - told.length,
  };
}

export const countsOf = ({ fresh, changed, same, left }: Compared) => ({
  fresh: fresh.length,
  changed: changed.length,
  same: same.length,
  left: left.length,
});

/** What would be done, for a person to look at. */
export async function planView(runtime: InJob, wanted: NewPackage): Promise<PackagePlan> {
  const plan = await planned(runtime, wanted);
  const { name, clips, items, compared } = plan;
  const root = await rootById(runtime, wanted.root);
  const byWhat = grouped(
    items,
    (i) => i.what,
    (i) => i,
  );
  const copied = toCopy(compared);
  const speed = await speedTo(runtime, root.id);
  return {
    ...{ name, clips: clips.length, counts: countsOf(compared) },
    media: [...byWhat].map(([what, of]) => ({ what, files: of.length, bytes: bytesOf(of) })),
    lists: wanted.form.lists satisfies List[],
    ...{ files: copied.length, bytes: bytesOf(copied) },
    free: await freeAt(runtime, root),
    seconds: speed === null ? null : bytesOf(copied) / speed,
    place: shownPath(joinPath(root.path, wanted.folder)),
    ...(await remarkViews(runtime, plan.remarks)),
    ...{ toMake: plan.making.length, making: (await openOf(runtime, plan.making)).size },
    fault: await placeFault(runtime, wanted, plan),
  };
}

/** Makes what a package still wants made: it can be handed over when that is done. */
export const makeForPackage = async (runtime: InJob, wanted: NewPackage): Promise<{ added: number }> =>
  makeAll(runtime, (await planned(runtime, wanted)).making);
