import { sql } from 'drizzle-orm';
import type { Change, Changed, SearchFile } from '../../core/choose';
import { jobs } from '../jobs/tables';
import { writeLog } from '../logbook';
import { NotFound } from '../platform/errors';
import { plural } from '../../core/platform/words';
import type { Writer } from '../platform/db/transaction';
import { addBin, editBin, makeBins, moveBins, putInBin, removeBin, takeFromBin } from './bins';
import { addKeyword, editKeyword, mergeKeyword, removeKeyword, takeKeyword } from './keywords';
import type { InJob } from './ports';
import { addRange, editRange, removeRanges } from './ranges';
import { marksChanged } from './marks';
import { opposite, type Planned, unchangedSince, writeRows } from './rows';
import { listed } from './find';
import {
  addStringOut,
  addToStringOut,
  moveInStringOut,
  removeFromStringOut,
  removeStringOut,
  renameStringOut,
  splitInStringOut,
  trimInStringOut,
  withFound,
} from './stringOuts';
import { editSearch, importSearches, removeSearch, saveSearch } from './searches';

function plan(tx: Writer, job: string, change: Change): Promise<Planned> {
  switch (change.do) {
    case 'addKeyword':
      return addKeyword(tx, job, change);
    case 'takeKeyword':
      return takeKeyword(tx, job, change);
    case 'editKeyword':
      return editKeyword(tx, job, change);
    case 'mergeKeyword':
      return mergeKeyword(tx, job, change);
    case 'removeKeyword':
      return removeKeyword(tx, job, change);
    case 'addBin':
      return addBin(tx, job, change);
    case 'makeBins':
      return makeBins(tx, job, change);
    case 'editBin':
      return editBin(tx, job, change);
    case 'moveBins':
      return moveBins(tx, job, change);
    case 'removeBin':
      return removeBin(tx, job, change);
    case 'putInBin':
      return putInBin(tx, job, change);
    case 'takeFromBin':
      return takeFromBin(tx, job, change);
    case 'addRange':
      return addRange(tx, job, change);
    case 'editRange':
      return editRange(tx, job, change);
    case 'removeRanges':
      return removeRanges(tx, job, change);
    case 'addStringOut':
      return addStringOut(tx, job, change);
    case 'addToStringOut':
      return addToStringOut(tx, job, change);
    case 'moveInStringOut':
      return moveInStringOut(tx, job, change);
    case 'trimInStringOut':
      return trimInStringOut(tx, job, change);
    case 'splitInStringOut':
      return splitInStringOut(tx, job, change);
    case 'removeFromStringOut':
      return removeFromStringOut(tx, job, change);
    case 'renameStringOut':
      return renameStringOut(tx, job, change);
    case 'removeStringOut':
      return removeStringOut(tx, job, change);
    case 'saveSearch':
      return saveSearch(tx, job, change);
    case 'editSearch':
      return editSearch(tx, job, change);
    case 'removeSearch':
      return removeSearch(tx, job, change);
  }
}

/** Runs a change of a job's marks, one at a time: what it looks at is still so when it writes. */
const alone = <T>({ db, job }: InJob, work: (tx: Writer) => Promise<T>): Promise<T> =>
  db.transaction(async (tx) => {
    await tx.execute(sql`select from ${jobs} where ${jobs.id} = ${job} for no key update`);
    return work(tx);
  });

/** Plans a change and writes it: all of it or nothing. */
const carriedOut = (runtime: InJob, work: (tx: Writer) => Promise<Planned>): Promise<Changed> =>
  runtime.undos.inTurn(async () => {
    const { rows, text } = await alone(runtime, async (tx) => {
      const planned = await work(tx);
      await writeRows(tx, planned.rows);
      return planned;
    });
    return rows.length === 0 ? { text, undo: null } : told(runtime, { rows, text });
  });

/** Changes keywords, bins, ranges or searches. No file is touched. */
export async function changeChoice(runtime: InJob, change: Change): Promise<Changed> {
  // What is found is looked for before: the search reads by itself.
  const meant = await withFound(runtime, change, (wanted) => listed(runtime, wanted));
  return carriedOut(runtime, (tx) => plan(tx, runtime.job, meant));
}

/** Takes in searches of a file (`importSearches`). */
export const takeSearches = (runtime: InJob, file: SearchFile): Promise<Changed> =>
  carriedOut(runtime, (tx) => importSearches(tx, runtime.job, file));

async function told(runtime: InJob, { rows, text }: Planned): Promise<Changed> {
  const undo = runtime.undos.keep({ job: runtime.job, text, changes: rows });
  marksChanged(runtime, rows);
  await writeLog(runtime, 'choose', text);
  runtime.events.changed('log');
  return { text, undo };
}

const UNDONE = 'Undone: ';

/** Takes back what was done, as far as nobody changed it since; what it answers takes that back in turn. */
export const undoChoice = (runtime: InJob, id: string): Promise<Changed> =>
  runtime.undos.inTurn(() => takeBack(runtime, id));

async function takeBack(runtime: InJob, id: string): Promise<Changed> {
  const done = runtime.undos.find(runtime.job, id);
  if (!done)
    throw new NotFound('This can no longer be undone: it was done too long ago.', {
      next: 'Change it by hand.',
    });
  const rows = await alone(runtime, async (tx) => {
    const back = opposite(await unchangedSince(tx, done.changes));
    await writeRows(tx, back);
    return back;
  });
  runtime.undos.forget(id);
  if (rows.length === 0) return { text: 'Nothing is left to be undone: it was changed since.', undo: null };
  const kept = done.changes.length - rows.length;
  const what = done.text.startsWith(UNDONE) ? done.text.slice(UNDONE.length) : `${UNDONE}${done.text}`;
  return told(runtime, {
    rows,
    text: kept > 0 ? `${what} (${plural(kept, 'mark')} changed since stay as they are)` : what,
  });
}
