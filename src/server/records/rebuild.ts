import { inArray, sql } from 'drizzle-orm';
import path from 'node:path';
import { sameTime } from '../../core/custody';
import { shownPath } from '../../core/platform/names';
import type { Row } from '../../core/records/replay';
import { saidIn } from '../../core/records/upgrade';
import type { RootKind } from '../../core/places';
import type { Rebuilt } from '../../core/records/shapes';
import { UNDER_WAY } from '../../core/offload';
import { distrustCopies } from '../custody';
import { cards, clips, files } from '../cards/tables';
import { library } from './tables';
import { offloads } from '../offload/tables';
import { roots } from '../places/tables';
import { safeCopies } from '../custody/tables';
import { Clash, messageOf, Refused } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import { resolveIn } from '../platform/files/paths';
import type { Ports } from './ports';
import { anyJob } from '../jobs';
import { writeLog } from '../logbook';
import { isMovable, listRoots, settleMounts } from '../places';
import { adoptPlans } from './adopt';
import type { FoundRecords } from './find';
import { TABLES } from './recorded';
import { store, type Transaction } from './store';
import { lstat, realpath } from '../platform/files/onDisk';
import { completePlaces } from '../cards';

/** Names of missing files that are told. */
const NAMED = 50;
/** What a clip is before its files are read again. */
const UNREAD: Row = { state: 'waiting', audio: [], notes: [], filmstrip: false };

/**
 * Fills an empty database from records: cards, copies and what is proven of them, names and places, plans and the logbook. Then
 * the disk is asked: plans that only the journal knows are taken over, interrupted ones finished, every file is looked for, and
 * every clip is read again. Copyings that were under way are ended: what they lack is copied when the card is offered again.
 */
export function rebuild(runtime: Ports, found: FoundRecords): Promise<Rebuilt> {
  return runtime.exclusively(async () => {
    const { tables, mark, file } = found.newest;
    if (await anyJob(runtime))
      throw new Clash('A job has been begun here already.', {
        next: 'Records are taken into an empty data folder only. Set SORT_SHELF_HOME to another folder for them.',
      });
    try {
      await runtime.db.transaction(async (tx) => {
        await placeRoots(tx, tables.get('roots') ?? [], found, runtime.home);
        const rowsOf = (name: string): Row[] => {
          const rows = tables.get(name) ?? [];
          if (name === 'clips') return rows.map(({ statements: _, ...r }) => ({ ...r, ...UNREAD }));
          // What a person let count is asked again where only a drive tells it: it may be a stranger's.
          return name === 'jobs' && !found.own
            ? rows.map((r) => ({ ...r, offline_counts: false, servers_apart: false }))
            : rows;
        };
        await tx.execute(sql`select set_config('sort_shelf.rebuilding', 'on', true)`);
        for (const { name } of TABLES) if (name !== 'roots') await store(tx, name, rowsOf(name));
        await completePlaces(tx);
        await store(tx, 'said', saidIn(tables.get('clips') ?? [], tables.get('jobs') ?? []));
        for (const t of TABLES)
          if (t.key.includes('seq'))
            await tx.execute(
              sql.raw(
                `select setval(pg_get_serial_sequence('${t.name}', 'seq'), greatest(1, (select coalesce(max(seq), 0) from ${t.name})))`,
              ),
            );
        await endCopyings(tx);
        if (!found.latest) await distrustCopies(tx);
        await tx
          .update(library)
          .set({ rebuiltFrom: { library: found.newest.header.library, upTo: mark.upTo } });
      });
    } catch (e) {
      throw new Refused(`The records cannot be taken: ${messageOf(e)}`, {
        file,
        next: 'Nothing was changed. Take the records of another drive, or a snapshot.',
      });
    }
    // A drive that is away may have left the folder it was mounted at.
    await settleMounts(runtime);
    const adopted = await adoptPlans(runtime);
    await runtime.recover();
    const standing = await lookForFiles(runtime);
    const all = (await runtime.db.select({ id: clips.id }).from(clips)).map((c) => c.id);
    const count = async (of: typeof cards | typeof safeCopies): Promise<number> => runtime.db.$count(of);
    const out: Rebuilt = {
      at: mark.at,
      cards: await count(cards),
      clips: all.length,
      copies: await count(safeCopies),
      ...standing,
      plans: adopted,
      copiesCount: found.latest,
    };
    await runtime.queue.add('read', all);
    await writeLog({ db: runtime.db, who: runtime.who, job: null }, 'recovery', sentence(out, file));
    runtime.events.changed('job', 'cards', 'clips', 'copies', 'log', 'work');
    return out;
  });
}

function sentence(r: Rebuilt, file: string): string {
  const missing =
    r.missing > 0
      ? `, ${r.missing} do not (${r.missingNames.slice(0, 5).join(', ')}${r.missing > 5 ? ' …' : ''})`
      : '';
  const away = r.away > 0 ? `, ${r.away} are on cards or drives that are not connected` : '';
  return (
    `Rebuilt from the record of ${r.at.slice(0, 10)}, ${r.at.slice(11, 16)} UTC, in ${shownPath(path.dirname(file))}: ${r.cards} cards, ${r.clips} clips, ${r.copies} safe copies. ${r.standing} files stand as recorded${missing}${away}.` +
    (r.copiesCount ? '' : ' Another drive may know more: copies count once they are checked again.')
  );
}

/** Roots as recorded; one whose own record was found elsewhere is there now. Those of a new data folder stay where the recorded folder is gone. */
async function placeRoots(
  tx: Transaction,
  recorded: readonly Row[],
  { places, own }: FoundRecords,
  home: string,
): Promise<void> {
  const have = new Map((await tx.select().from(roots)).map((r) => [r.id, r.path]));
  const rows: Row[] = [];
  for (const r of recorded) {
    const found = places.filter((p) => p.root === r.id);
    // What a drive says of where files are named and moved is not believed: it may be a stranger's. Such a root is where its own record is.
    const believed = own || !isMovable(r.kind as RootKind);
    const there =
      believed && path.isAbsolute(String(r.path)) ? await realpath(String(r.path)).catch(() => null) : null;
    const moved =
      found.length > 0 && !found.some((p) => p.path === r.path) ? await realpath(found[0]!.path) : null;
    const at =
      moved ??
      there ??
      have.get(String(r.id)) ??
      (believed ? String(r.path) : joinPath(home, 'away', String(r.id)));
    if (!path.isAbsolute(at)) throw new Refused(`the place ${String(r.name)} has no absolute path`);
    rows.push({ ...r, path: at });
  }
  await tx.delete(roots).where(
    inArray(
      roots.id,
      rows.map((r) => String(r.id)),
    ),
  );
  await store(tx, 'roots', rows);
}

/** The files of copyings, from the manifests and what was read; copyings that were under way are ended. */
async function endCopyings(tx: Transaction): Promise<void> {
  await tx.execute(sql`insert into offload_files (offload, number, card_file, path, size, modified, "to", file, state, hash)
    select o.id, f.number, f.number, f.path, f.size, f.modified, coalesce(c."to", '[]'), null, case when c."to" is null then 'left' else 'verified' end, h.value
    from offloads o join card_files f on f.card = o.physical
    left join (select s.offload, r.number, jsonb_agg(distinct s.destination) as "to" from safe_copies s join copy_readings r on r.copy = s.id where r.how = 'copied' group by s.offload, r.number) c on c.offload = o.id and c.number = f.number
    left join lateral (select value from card_readings r where r.card = f.card and r.number = f.number order by seq desc limit 1) h on true`);
  await tx
    .update(offloads)
    .set({
      state: 'partly',
      endedAt: new Date(),
      fault:
        'The database was lost while this card was copied. Offer the card again: what is missing is copied then.',
    })
    .where(inArray(offloads.state, [...UNDER_WAY]));
}

/** Looks for every file of a clip at its place. */
async function lookForFiles(
  runtime: Ports,
): Promise<Pick<Rebuilt, 'standing' | 'missing' | 'missingNames' | 'away'>> {
  const byId = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const there = new Map(
    await Promise.all(
      [...byId.values()].map(async (r) => [r.id, (await runtime.devices.volumeOf(r.path)) !== null] as const),
    ),
  );
  const out = { standing: 0, missing: 0, missingNames: [] as string[], away: 0 };
  for (const f of await runtime.db.select().from(files)) {
    const at = there.get(f.root) ? await resolveIn(byId.get(f.root)!, f.path).catch(() => null) : null;
    const now = at === null ? null : await lstat(at).catch(() => null);
    if (now && now.isFile() && now.size === f.size && sameTime(Math.round(now.mtimeMs), f.modified))
      out.standing++;
    else if (f.onCard !== null || !there.get(f.root)) out.away++;
    else {
      out.missing++;
      if (out.missingNames.length < NAMED) out.missingNames.push(shownPath(f.path));
    }
  }
  return out;
}
