import { randomUUID } from 'node:crypto';
import { and, eq } from 'drizzle-orm';
import { type GivenKind, keywordKey } from '../../core/choose';
import { plural } from '../../core/platform/words';
import { among } from '../platform/db/among';
import type { Writer } from '../platform/db/transaction';
import { clipsIn } from './known';
import { newKeyword } from './keywords';
import type { Planned, RowChange, Rows } from './rows';
import { keyworded, keywords, ranges, withheld } from './tables';

/** What a list says of a clip: keywords of all of it, or a range with keywords of its own. */
export interface Marked {
  clip: string;
  range: { from: number; to: number; kind: GivenKind; name: string; note: string } | null;
  keywords: readonly string[];
}

const rangeKey = (r: Pick<Rows['ranges'], 'clip' | 'kind' | 'from' | 'to' | 'name' | 'note'>): string =>
  JSON.stringify([r.clip, r.kind, r.from, r.to, r.name, r.note]);

/** Plans to keep marks of very many clips at once; what is there already is not kept twice. */
export async function planMarks(tx: Writer, job: string, list: readonly Marked[]): Promise<Planned> {
  const here = new Set(await clipsIn(tx, job, [...new Set(list.map((m) => m.clip))]));
  const marked = list.filter((m) => here.has(m.clip));
  const ids = [...here];
  const known = new Map(
    (await tx.select().from(keywords).where(eq(keywords.job, job))).map((k) => [k.key, k]),
  );
  const given = new Set(
    (
      await tx
        .select()
        .from(keyworded)
        .where(and(eq(keyworded.by, 'person'), among(keyworded.clip, ids)))
    ).map((k) => `${k.clip} ${k.keyword} ${k.range}`),
  );
  const held = new Map(
    (await tx.select().from(withheld).where(among(withheld.clip, ids))).map((h) => [
      `${h.clip} ${h.keyword}`,
      h,
    ]),
  );
  const kept = new Map(
    (await tx.select().from(ranges).where(among(ranges.clip, ids))).map((r) => [rangeKey(r), r.id]),
  );
  const made: RowChange[] = [];
  const rows: RowChange[] = [];
  const count = { keywords: 0, ranges: 0 };
  for (const { clip, range, keywords: words } of marked) {
    let of = '';
    if (range) {
      const row = { ...range, clip, name: range.name.trim(), note: range.note.trim() };
      const same = kept.get(rangeKey(row));
      of = same ?? randomUUID();
      if (same === undefined) {
        kept.set(rangeKey(row), of);
        made.push({ table: 'ranges', before: null, after: { ...row, id: of } });
        count.ranges++;
      }
    }
    for (const word of words) {
      let keyword = known.get(keywordKey(word));
      if (!keyword) {
        keyword = newKeyword(job, word, 'person');
        known.set(keyword.key, keyword);
        made.push({ table: 'keywords', before: null, after: keyword });
      }
      const key = `${clip} ${keyword.id} ${of}`;
      if (given.has(key)) continue;
      given.add(key);
      rows.push({
        table: 'keyworded',
        before: null,
        after: { clip, keyword: keyword.id, range: of, by: 'person' },
      });
      count.keywords++;
      // What a person gives was not taken away any longer.
      const back = of === '' && held.get(`${clip} ${keyword.id}`);
      if (back) rows.push({ table: 'withheld', before: back, after: null });
    }
  }
  return {
    rows: [...made, ...rows],
    text: `From a list: ${plural(count.ranges, 'range')} and ${plural(count.keywords, 'keyword')} of clips added`,
  };
}
