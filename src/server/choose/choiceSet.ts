import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { type ChoiceSet, keywordKey, Rule } from '../../core/choose';
import { plural } from '../../core/platform/words';
import type { Writer } from '../platform/db/transaction';
import { binsIn } from './known';
import { addKeyword, newKeyword } from './keywords';
import { type Planned, type RowChange, type Rows, writeRows } from './rows';
import { checked, said } from './rules';
import { understood } from './search';
import { keywordRules, keywords, searches } from './tables';

/** The names of a bin and of those around it, outermost first. */
function pathOf(bin: Rows['bins'], byId: ReadonlyMap<string, Rows['bins']>): string[] {
  const path = [bin.name];
  const seen = new Set([bin.id]);
  for (let up = bin.parent; up !== null && byId.has(up) && !seen.has(up); up = byId.get(up)!.parent) {
    path.unshift(byId.get(up)!.name);
    seen.add(up);
  }
  return path;
}

/** What a job has prepared for choosing: keywords a person made, rules, bins without what is in them, searches. */
export async function choiceSet(db: Pick<Writer, 'select'>, job: string): Promise<ChoiceSet> {
  const byName = (a: string, b: string): number => a.localeCompare(b, 'en', { numeric: true });
  const bins = await binsIn(db, job);
  const byId = new Map(bins.map((b) => [b.id, b]));
  const own = await db.select().from(keywords).where(eq(keywords.job, job));
  return {
    keywords: own
      .filter((k) => k.by === 'person')
      .sort((a, b) => byName(a.family, b.family) || (a.place ?? 0) - (b.place ?? 0) || byName(a.name, b.name))
      .map(({ name, family, hotkey }) => ({ name, family, hotkey })),
    rules: (await db.select().from(keywordRules).where(eq(keywordRules.job, job))).map((r) => Rule.parse(r)),
    bins: bins
      .map((b) => ({ path: pathOf(b, byId), label: b.label, note: b.note }))
      .sort((a, b) => a.path.length - b.path.length || byName(a.path.join('/'), b.path.join('/'))),
    searches: (await db.select().from(searches).where(eq(searches.job, job)))
      .map(({ name, query }) => ({ name, query }))
      .sort((a, b) => byName(a.name, b.name)),
  };
}

/** The bins of a job by their path, and a way to have those that are missing: each with its parent before it. */
async function binMaker(tx: Pick<Writer, 'select'>, job: string) {
  const bins = await binsIn(tx, job);
  const byId = new Map(bins.map((b) => [b.id, b]));
  const at = new Map(bins.map((b) => [JSON.stringify(pathOf(b, byId)), b.id]));
  const rows: RowChange[] = [];
  const made: string[] = [];
  /** The id of the bin at a path. A bin around it that has to be made has neither mark nor note. */
  const binAt = (
    names: readonly string[],
    marks: Partial<Pick<Rows['bins'], 'label' | 'note'>> = {},
  ): string => {
    const key = JSON.stringify(names);
    const there = at.get(key);
    if (there !== undefined) return there;
    const parent = names.length === 1 ? null : binAt(names.slice(0, -1));
    const id = randomUUID();
    rows.push({
      table: 'bins',
      before: null,
      after: { id, job, parent, name: names.at(-1)!, label: marks.label ?? null, note: marks.note ?? '' },
    });
    at.set(key, id);
    made.push(names.join('/'));
    return id;
  };
  return { binAt, rows, made };
}

/** Puts clips into bins by their path, which are made where they are not there; what it writes is for the transaction that takes the clips in. */
export async function putInBins(
  tx: Writer,
  job: string,
  list: readonly { path: readonly string[]; clip: string }[],
): Promise<void> {
  const { binAt, rows } = await binMaker(tx, job);
  for (const { path, clip } of list)
    rows.push({ table: 'binned', before: null, after: { bin: binAt(path), clip } });
  await writeRows(tx, rows);
}

/** Gives keywords to clips, as a person does; one that is not there yet is made. For the transaction that takes the clips in. */
export async function giveKeywords(
  tx: Writer,
  job: string,
  clips: readonly string[],
  names: readonly string[],
): Promise<void> {
  for (const name of names) {
    const { rows } = await addKeyword(tx, job, { do: 'addKeyword', name, clips: [...clips], range: null });
    await writeRows(tx, rows);
  }
}

/** A list of some names, shortened where it is long. */
const named = (names: readonly string[]): string =>
  names.length <= 6 ? names.join(', ') : `${names.slice(0, 5).join(', ')} and ${names.length - 5} more`;

/**
 * What of a prepared set a job does not have yet, as rows to be written and in lines for a person. What it has stays as it is: a keyword
 * by its name, a bin by its place, a rule by what it does; a search whose name is taken is passed over.
 */
export async function planChoice(
  tx: Pick<Writer, 'select'>,
  job: string,
  set: ChoiceSet,
): Promise<Planned & { changes: string[]; rules: Rule[] }> {
  const rows: RowChange[] = [];
  const changes: string[] = [];
  const note = (one: string, many: string, names: readonly string[]) => {
    if (names.length > 0) changes.push(`${plural(names.length, one, many)} added: ${named(names)}`);
  };
  const have = await tx.select().from(keywords).where(eq(keywords.job, job));
  const keys = new Set(have.map((k) => k.key));
  const hotkeys = new Set(have.map((k) => k.hotkey));
  const fresh = set.keywords.filter((k) => !keys.has(keywordKey(k.name)) && keys.add(keywordKey(k.name)));
  for (const k of fresh) {
    const free = k.hotkey !== null && !hotkeys.has(k.hotkey);
    if (free) hotkeys.add(k.hotkey);
    const after = { ...newKeyword(job, k.name, 'person'), family: k.family, hotkey: free ? k.hotkey : null };
    rows.push({ table: 'keywords', before: null, after });
  }
  note(
    'keyword',
    'keywords',
    fresh.map((k) => k.name),
  );
  const ruled = new Set(
    (await tx.select().from(keywordRules).where(eq(keywordRules.job, job))).map((r) => said(r)),
  );
  const rules = set.rules.map((r) => checked(r)).filter((r) => !ruled.has(said(r)) && ruled.add(said(r)));
  for (const r of rules) rows.push({ table: 'rules', before: null, after: { ...r, id: randomUUID(), job } });
  note('rule of keywords', 'rules of keywords', rules.map(said));
  const bins = await binMaker(tx, job);
  for (const { path, ...marks } of [...set.bins].sort((a, b) => a.path.length - b.path.length))
    bins.binAt(path, marks);
  rows.push(...bins.rows);
  note('bin', 'bins', bins.made);
  const taken = new Set((await tx.select().from(searches).where(eq(searches.job, job))).map((s) => s.name));
  const kept = set.searches.filter((s) => !taken.has(s.name) && taken.add(s.name));
  for (const { name, query } of kept) {
    understood(query);
    rows.push({ table: 'searches', before: null, after: { id: randomUUID(), job, name, query } });
  }
  note(
    'search',
    'searches',
    kept.map((s) => s.name),
  );
  return { rows, text: `From a template: ${changes.join('; ')}`, changes, rules };
}
