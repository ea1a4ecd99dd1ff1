import path from 'node:path';
import type { RecordsView, RescueChoice, Rescued, RescueView } from '../core/records';
import { snapshotsIn, snapshotTime } from './platform/db/keeper';
import { Clash, DatabaseLost, NotFound } from './platform/errors';
import { findRecords, type FoundRecords, rebuild } from './records';
import { homeFolder, openHome, type Runtime, runtime } from './runtime';
import { anyJob } from './jobs';
import { joinPath } from './platform/files/names';
import { stat } from './platform/files/onDisk';

/** The runtime, or how its database was lost. Throws whatever else keeps it from opening. */
async function opened(): Promise<Runtime | DatabaseLost> {
  return runtime().catch((e: unknown) => {
    if (e instanceof DatabaseLost) return e;
    throw e;
  });
}

/** What can be done where the database is lost, or where no job was begun yet. `also` are folders to look for records in. */
export async function rescueView(also: readonly string[]): Promise<RescueView> {
  const now = await opened();
  const lost = now instanceof DatabaseLost;
  const snapshots = lost ? await snapshotsIn(joinPath(homeFolder(), 'snapshots')) : [];
  const open = lost || !(await anyJob(now));
  const { found, faults } = open ? await findRecords(homeFolder(), also) : { found: [], faults: [] };
  return {
    lost: lost ? now.message : null,
    open,
    faults,
    snapshots: await Promise.all(
      snapshots.map(async (file) => ({
        name: path.basename(file),
        at: snapshotTime(file),
        bytes: (await stat(file)).size,
      })),
    ),
    records: found.filter((f) => (f.newest.tables.get('jobs') ?? []).length > 0).map(viewOf),
  };
}

function viewOf({ newest, files, latest, own, older }: FoundRecords): RecordsView {
  const many = (table: string) => (newest.tables.get(table) ?? []).length;
  return {
    library: newest.header.library,
    jobs: (newest.tables.get('jobs') ?? []).map((j) => ({ name: String(j.name), code: String(j.code) })),
    at: newest.mark.at,
    cards: many('cards'),
    clips: many('clips'),
    copies: many('safe_copies'),
    files,
    latest,
    own,
    older,
  };
}

/** Opens what was chosen in the lost one's place. Where that fails, it is lost as before, and another choice can be made. */
async function choose(how: 'snapshot' | 'empty'): Promise<Runtime> {
  try {
    return await runtime(() => openHome(how, true));
  } catch (e) {
    await runtime(() => openHome('say')).catch(() => undefined);
    throw e;
  }
}

let busy = false;

/** Does what the person chose. Refused where another choice is being done, or where a job is open. */
export async function rescue({ how, library, also }: RescueChoice): Promise<Rescued> {
  if (busy) throw new Clash('A choice is already being carried out.', { next: 'Wait for it.' });
  busy = true;
  try {
    const now = await opened();
    const lost = now instanceof DatabaseLost;
    if (!lost && (how !== 'records' || (await anyJob(now))))
      throw new Clash('The database is open: nothing has to be brought back.', {
        next: 'Load the page again.',
      });
    if (how !== 'records') {
      await choose(how);
      return { rebuilt: null };
    }
    // Looked for again before the damaged database is put aside.
    const records = (await findRecords(homeFolder(), also)).found.find(
      (f) => f.newest.header.library === library,
    );
    if (!records)
      throw new NotFound('These records no longer exist.', {
        next: 'Connect their drive, then look again.',
      });
    const open = lost ? await choose('empty') : now;
    return { rebuilt: await rebuild(open, records) };
  } finally {
    busy = false;
  }
}
