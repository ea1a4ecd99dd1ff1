import { eq, sql } from 'drizzle-orm';
import type { Writer } from '../platform/db/transaction';
import { files, places } from './tables';

// Where files stand. A file is used from the place in its own row; that place, and each before it, is kept in `places` by triggers
// (migration 0011), so that no use case can forget to. What is at several places says so here.

/** A place below a root. */
export interface Standing {
  root: string;
  path: string;
}

/** From now on a file is used from another place. With `stays` it remains where it was as well. Within a transaction only. */
export async function standsAt(tx: Writer, file: string, to: Standing, stays = false): Promise<void> {
  const staying = (on: boolean) =>
    tx.execute(sql`select set_config('sort_shelf.staying', ${on ? 'on' : ''}, true)`);
  if (stays) await staying(true);
  await tx.update(files).set(to).where(eq(files.id, file));
  if (stays) await staying(false);
}

/** From now on files are used from other places, where they were moved to; none of them is where another of them was. */
export async function standElsewhere(
  tx: Writer,
  moved: readonly (Standing & { id: string })[],
): Promise<void> {
  if (moved.length > 0)
    await tx.execute(sql`update ${files} set root = v.root, path = v.path
      from jsonb_to_recordset(${JSON.stringify(moved)}::jsonb) as v(id text, root text, path text) where ${files.id} = v.id`);
}

/** Files that are still on a card are elsewhere on the disks, because the card does. */
export async function cardStandsAt(
  tx: Writer,
  card: string,
  placeOf: (path: string) => Standing,
): Promise<void> {
  for (const f of await tx
    .select({ id: files.id, path: files.path })
    .from(files)
    .where(eq(files.onCard, card))) {
    const { root, path } = placeOf(f.path);
    await tx.update(files).set({ root, path, takenRoot: root, takenPath: path }).where(eq(files.id, f.id));
  }
}

/** Files that were copied from a card: those that were on it only are used from a copy from now on, and all are in the copies as well. */
export async function standInCopies(
  tx: Writer,
  card: string,
  used: readonly (Standing & { id: string })[],
  copies: readonly (Standing & { onCard: string; copy: string })[],
): Promise<void> {
  if (used.length > 0)
    await tx.execute(sql`update ${files} set root = v.root, path = v.path, taken_root = v.root, taken_path = v.path, on_card = null
      from jsonb_to_recordset(${JSON.stringify(used)}::jsonb) as v(id text, root text, path text) where ${files.id} = v.id`);
  if (copies.length === 0) return;
  // A copy that the file is used from is there already, by the trigger.
  await tx.execute(sql`insert into ${places} (file, root, path, copy)
    select p.file, v.root, v.path, v.copy from jsonb_to_recordset(${JSON.stringify(copies)}::jsonb) as v("onCard" text, root text, path text, copy text)
    join ${places} p on p.on_card = ${card} and p.path = v."onCard" and p.until is null
    on conflict (file, coalesce(root, ''), path, coalesce(on_card, '')) where until is null do update set copy = excluded.copy`);
}

/** A file that Sort Shelf made. */
export async function standsNew(
  tx: Writer,
  file: Pick<
    typeof files.$inferInsert,
    | 'id'
    | 'clip'
    | 'role'
    | 'root'
    | 'path'
    | 'suffix'
    | 'size'
    | 'modified'
    | 'sample'
    | 'takenRoot'
    | 'takenPath'
  >,
): Promise<void> {
  await tx.insert(files).values(file);
}

/** What was made of a clip is there no more. */
export async function forgetFile(tx: Writer, id: string): Promise<void> {
  await tx.delete(files).where(eq(files.id, id));
}

/** A file is of another size or time than it was, so that its fingerprint is not known any more. */
export async function changedOnDisk(
  tx: Writer,
  { id, size, modified }: { id: string; size: number; modified: number },
): Promise<void> {
  await tx.update(files).set({ size, modified, sample: null }).where(eq(files.id, id));
}

/** The fingerprint of a file as it is now. */
export async function sampledAs(tx: Writer, id: string, sample: string): Promise<void> {
  await tx.update(files).set({ sample }).where(eq(files.id, id));
}

/** Where a file is, where it was, and where it was taken from: the newest first. */
export const placesOf = (db: Pick<Writer, 'select'>, file: string) =>
  db
    .select()
    .from(places)
    .where(eq(places.file, file))
    .orderBy(sql`${places.until} is not null, ${places.since} desc, ${places.seq} desc`);

/** Gives files that are recorded without their history, as by earlier versions, the place they are at. */
export async function completePlaces(tx: Writer): Promise<void> {
  await tx.execute(sql`insert into ${places} (file, root, path, on_card)
    select f.id, case when f.on_card is null then f.root end, case when f.on_card is null then f.path else below_card(f.on_card, f.path) end, f.on_card
    from ${files} f where not exists (select from ${places} p where p.file = f.id and p.until is null)
    on conflict do nothing`);
}
