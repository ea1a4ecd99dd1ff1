import { and, eq, inArray } from 'drizzle-orm';
import { clips } from '../cards/tables';
import { among } from '../platform/db/among';
import { Clash, NotFound } from '../platform/errors';
import type { Writer } from '../platform/db/transaction';
import { bins, keywords, ranges } from './tables';
import type { Rows } from './rows';

/** Those of some clips that are in the job. Throws NotFound where none is. */
export async function clipsIn(tx: Writer, job: string, ids: readonly string[]): Promise<string[]> {
  const rows = await tx
    .select({ id: clips.id })
    .from(clips)
    .where(and(eq(clips.job, job), among(clips.id, ids)));
  if (rows.length === 0 && ids.length > 0)
    throw new NotFound('None of these clips is in the job any longer.');
  return rows.map((r) => r.id);
}

export async function keywordIn(tx: Writer, job: string, id: string): Promise<Rows['keywords']> {
  const [row] = await tx
    .select()
    .from(keywords)
    .where(and(eq(keywords.job, job), eq(keywords.id, id)));
  if (!row) throw new NotFound('This keyword was removed meanwhile.');
  return row;
}

export const binsIn = (tx: Pick<Writer, 'select'>, job: string): Promise<Rows['bins'][]> =>
  tx.select().from(bins).where(eq(bins.job, job));

export function binAmong(list: readonly Rows['bins'][], id: string): Rows['bins'] {
  const bin = list.find((b) => b.id === id);
  if (!bin) throw new NotFound('This bin was removed meanwhile.');
  return bin;
}

export async function rangesIn(tx: Writer, job: string, ids: readonly string[]): Promise<Rows['ranges'][]> {
  const rows = await tx
    .select({ range: ranges })
    .from(ranges)
    .innerJoin(clips, and(eq(clips.id, ranges.clip), eq(clips.job, job)))
    .where(inArray(ranges.id, [...ids]));
  if (rows.length === 0) throw new NotFound('This range was removed meanwhile.');
  return rows.map((r) => r.range);
}

/** Throws Clash where what is to be changed of a thing is not as the person saw it any more. */
export function refuseOther(
  what: string,
  { set, was, now }: { set: object; was: object; now: { name: string } },
): void {
  const of = (from: object, key: string) => (from as Record<string, string | number | null | undefined>)[key];
  for (const key of Object.keys(set)) {
    if (of(set, key) === undefined || of(was, key) === of(now, key)) continue;
    const words =
      key === 'name'
        ? `“${of(was, key)}” was renamed to “${now.name}” meanwhile`
        : `${now.name === '' ? '' : `“${now.name}” `}was changed meanwhile: its ${WORDS[key] ?? key} is ${of(now, key) === null || of(now, key) === '' ? 'empty' : `“${of(now, key)}”`} now`;
    throw new Clash(`The ${what} ${words}. Nothing was changed.`, {
      next: 'Look at it, and change it again if it is still meant.',
    });
  }
}

/** What parts of things are called, where that is another word. */
const WORDS: Partial<Record<string, string>> = { family: 'group', hotkey: 'key', query: 'search' };
