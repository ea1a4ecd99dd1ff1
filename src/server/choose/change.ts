import type { Change, ChoiceSet, SearchFile } from '../../core/choose';
import type { Changed } from '../../core/platform/shapes';
import { writeLog } from '../logbook';
import { messageOf } from '../platform/errors';
import { NOTHING_UNDONE, undoneWords } from '../platform/undos';
import { plural } from '../../core/platform/words';
import type { Writer } from '../platform/db/transaction';
import { alone } from './alone';
import { planChoice } from './choiceSet';
import { addBin, editBin, makeBins, moveBins, putInBin, removeBin, takeFromBin } from './bins';
import { addKeyword, editKeyword, mergeKeyword, moveKeyword, removeKeyword, takeKeyword } from './keywords';
import type { InJob } from './ports';
import { type Marked, planMarks } from './takeMarks';
import { addRange, editRange, removeRanges } from './ranges';
import { marksChanged } from './marks';
import { followRules, refuseTooMany } from './followRules';
import { opposite, type Planned, type RowChange, unchangedSince, writeRows } from './rows';
import { rollTogether, takeApart } from './rolling';
import { addRule, editRule, removeRule } from './rules';
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
    case 'moveKeyword':
      return moveKeyword(tx, job, change);
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
    case 'rollTogether':
      return rollTogether(tx, job, change);
    case 'takeApart':
      return takeApart(tx, job, change);
    case 'addRule':
      return addRule(tx, job, change);
    case 'editRule':
      return editRule(tx, job, change);
    case 'removeRule':
      return removeRule(tx, job, change);
  }
}

/** Plans a change and writes it: all of it or nothing. */
async function carriedOut(runtime: InJob, work: (tx: Writer) => Promise<Planned>): Promise<Changed> {
  const { ruled, changed } = await runtime.undos.inTurn(async () => {
    const { rows, text } = await alone(runtime, async (tx) => {
      const planned = await work(tx);
      await writeRows(tx, planned.rows);
      return planned;
    });
    const changed = rows.length === 0 ? { text, undo: null } : await told(runtime, { rows, text });
    return { changed, ruled: ofRules(rows) };
  });
  if (ruled) await followed(runtime);
  return changed;
}

/** Follows rules that were changed. The change is made whatever comes of that: it is followed again at the next one. */
const followed = (runtime: InJob): Promise<unknown> =>
  followRules(runtime).catch((e: unknown) => console.error('rules of keywords:', messageOf(e)));

/** Whether rules are others after some changes, and have to be followed. */
const ofRules = (rows: readonly RowChange[]): boolean => rows.some((r) => r.table === 'rules');

/** Changes keywords, bins, ranges or searches. No file is touched. */
export async function changeChoice(runtime: InJob, change: Change): Promise<Changed> {
  // What is found is looked for before: the search reads by itself.
  const meant = await withFound(runtime, change, (wanted) => listed(runtime, wanted));
  if (meant.do === 'addRule') await refuseTooMany(runtime, meant.rule);
  if (meant.do === 'editRule') await refuseTooMany(runtime, meant.set);
  return carriedOut(runtime, (tx) => plan(tx, runtime.job, meant));
}

/** Takes in searches of a file (`importSearches`). */
export const takeSearches = (runtime: InJob, file: SearchFile): Promise<Changed> =>
  carriedOut(runtime, (tx) => importSearches(tx, runtime.job, file));

/** Adds what of a prepared set the job does not have (`planChoice`). */
export async function takeChoice(runtime: InJob, set: ChoiceSet): Promise<Changed> {
  for (const rule of (await planChoice(runtime.db, runtime.job, set)).rules)
    await refuseTooMany(runtime, rule);
  return carriedOut(runtime, (tx) => planChoice(tx, runtime.job, set));
}

/** Keeps the marks of a list (`planMarks`). */
export const takeMarks = (runtime: InJob, list: readonly Marked[]): Promise<Changed> =>
  carriedOut(runtime, (tx) => planMarks(tx, runtime.job, list));

async function told(runtime: InJob, { rows, text }: Planned): Promise<Changed> {
  const undo = runtime.undos.keep({ job: runtime.job, text, changes: rows });
  marksChanged(runtime, rows);
  await writeLog(runtime, 'choose', text);
  runtime.events.changed('log');
  return { text, undo };
}

/** Takes back what was done, as far as nobody changed it since; what it answers takes that back in turn. */
export async function undoChoice(runtime: InJob, id: string): Promise<Changed> {
  const { ruled, changed } = await runtime.undos.inTurn(() => takeBack(runtime, id));
  if (ruled) await followed(runtime);
  return changed;
}

async function takeBack(runtime: InJob, id: string): Promise<{ changed: Changed; ruled: boolean }> {
  const done = runtime.undos.require(runtime.job, id);
  const rows = await alone(runtime, async (tx) => {
    const back = opposite(await unchangedSince(tx, done.changes));
    await writeRows(tx, back);
    return back;
  });
  runtime.undos.forget(id);
  if (rows.length === 0) return { changed: NOTHING_UNDONE, ruled: false };
  const kept = done.changes.length - rows.length;
  const what = undoneWords(done.text);
  const changed = await told(runtime, {
    rows,
    text: kept > 0 ? `${what} (${plural(kept, 'mark')} changed since stay as they are)` : what,
  });
  return { changed, ruled: ofRules(rows) };
}
