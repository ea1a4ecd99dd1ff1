import { randomUUID } from 'node:crypto';
import { and, eq } from 'drizzle-orm';
import type { Change, SearchFile } from '../../core/choose';
import { plural } from '../../core/platform/words';
import { NotFound, Refused } from '../platform/errors';
import type { Writer } from '../platform/db/transaction';
import { refuseOther } from './known';
import type { InJob } from './ports';
import type { Planned, Rows } from './rows';
import { understood } from './search';
import { searches } from './tables';

type Of<D extends Change['do']> = Extract<Change, { do: D }>;

const searchesIn = (tx: Pick<Writer, 'select'>, job: string): Promise<Rows['searches'][]> =>
  tx.select().from(searches).where(eq(searches.job, job));

async function searchIn(tx: Writer, job: string, id: string): Promise<Rows['searches']> {
  const [row] = await tx
    .select()
    .from(searches)
    .where(and(eq(searches.job, job), eq(searches.id, id)));
  if (!row) throw new NotFound('This search was removed meanwhile.');
  return row;
}

const refuseSame = (list: readonly Rows['searches'][], name: string, id: string | null): void => {
  if (list.some((s) => s.id !== id && s.name === name))
    throw new Refused(`There is a search “${name}” already.`, { next: 'Choose another name.' });
};

export async function saveSearch(
  tx: Writer,
  job: string,
  { name, query }: Of<'saveSearch'>,
): Promise<Planned> {
  understood(query);
  refuseSame(await searchesIn(tx, job), name, null);
  return {
    rows: [{ table: 'searches', before: null, after: { id: randomUUID(), job, name, query } }],
    text: `Search ${name} saved`,
  };
}

export async function editSearch(tx: Writer, job: string, change: Of<'editSearch'>): Promise<Planned> {
  const before = await searchIn(tx, job, change.search);
  refuseOther('search', { ...change, now: before });
  const after = { ...before, ...change.set };
  understood(after.query);
  refuseSame(await searchesIn(tx, job), after.name, before.id);
  return { rows: [{ table: 'searches', before, after }], text: `Search ${before.name} changed` };
}

export async function removeSearch(tx: Writer, job: string, change: Of<'removeSearch'>): Promise<Planned> {
  const before = await searchIn(tx, job, change.search);
  return { rows: [{ table: 'searches', before, after: null }], text: `Search ${before.name} removed` };
}

/** The saved searches as a file. */
export async function exportSearches({ db, job }: InJob): Promise<SearchFile> {
  const list = await searchesIn(db, job);
  return {
    format: 'sort-shelf-searches',
    version: 1,
    searches: list.map(({ name, query }) => ({ name, query })).sort((a, b) => (a.name < b.name ? -1 : 1)),
  };
}

/** Searches of a file: all of them or, where one is not understood, none. One whose name is taken gets a number behind it. */
export async function importSearches(tx: Writer, job: string, file: SearchFile): Promise<Planned> {
  const taken = new Set((await searchesIn(tx, job)).map((s) => s.name));
  const rows = file.searches.map(({ name, query }) => {
    understood(query);
    let free = name;
    for (let n = 2; taken.has(free); n++) free = `${name} ${n}`;
    taken.add(free);
    return { table: 'searches' as const, before: null, after: { id: randomUUID(), job, name: free, query } };
  });
  return { rows, text: `${plural(rows.length, 'search', 'searches')} imported` };
}
