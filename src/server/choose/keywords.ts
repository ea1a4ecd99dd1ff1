import { randomUUID } from 'node:crypto';
import { and, eq } from 'drizzle-orm';
import { type Change, keywordKey, linesOf } from '../../core/choose';
import { plural } from '../../core/platform/words';
import { among } from '../platform/db/among';
import { Refused } from '../platform/errors';
import type { Writer } from '../platform/db/transaction';
import { asListed } from './marks';
import { clipsIn, keywordIn, rangesIn, refuseOther } from './known';
import type { Planned, RowChange, Rows } from './rows';
import { keyworded, keywordRules, keywords, withheld } from './tables';

type Of<D extends Change['do']> = Extract<Change, { do: D }>;
type Given = Rows['keyworded'];

const came = (after: Given): RowChange => ({ table: 'keyworded', before: null, after });
const went = (before: Given): RowChange => ({ table: 'keyworded', before, after: null });

/** The clips that are meant: of a range its own clip, which has to be the one that is named. */
async function meant(
  tx: Writer,
  job: string,
  ids: readonly string[],
  range: string | null,
): Promise<string[]> {
  if (range === null) return clipsIn(tx, job, ids);
  const [found] = await rangesIn(tx, job, [range]);
  if (ids.length !== 1 || ids[0] !== found!.clip) throw new Refused('The range is of another clip.');
  return [found!.clip];
}

const where = (n: number, range: string | null): string => (range === null ? plural(n, 'clip') : 'One range');

/** A keyword that is not there yet; `by` is who makes it: a person, or a rule. */
export const newKeyword = (job: string, name: string, by: string): Rows['keywords'] => ({
  ...{ id: randomUUID(), job, name, key: keywordKey(name), family: '', hotkey: null },
  ...{ place: null, by, formerly: '' },
});

type Held = Rows['withheld'];
const givenFree = (before: Held): RowChange => ({ table: 'withheld', before, after: null });
const heldBack = (tx: Writer, keyword: string, ids: readonly string[]): Promise<Held[]> =>
  tx
    .select()
    .from(withheld)
    .where(and(eq(withheld.keyword, keyword), among(withheld.clip, ids)));

/** What else a keyword is called by: rules that mean it by its old name mean it still. */
const alsoCalled = (k: Rows['keywords'], ...keys: string[]): string =>
  [...new Set([...linesOf(k.formerly), ...keys])].filter((key) => key !== k.key).join('\n');

function calledAnew(before: Rows['keywords'], name: string) {
  const key = keywordKey(name);
  return { name, key, formerly: alsoCalled({ ...before, key }, before.key) };
}

export async function addKeyword(tx: Writer, job: string, change: Of<'addKeyword'>): Promise<Planned> {
  const { name, range } = change;
  const ids = await meant(tx, job, change.clips, range);
  const key = keywordKey(name);
  const [known] = await tx
    .select()
    .from(keywords)
    .where(and(eq(keywords.job, job), eq(keywords.key, key)));
  const keyword = known ?? newKeyword(job, name, 'person');
  const have = new Set(
    (
      await tx
        .select({ clip: keyworded.clip })
        .from(keyworded)
        .where(
          and(
            eq(keyworded.keyword, keyword.id),
            eq(keyworded.range, range ?? ''),
            eq(keyworded.by, 'person'),
            among(keyworded.clip, ids),
          ),
        )
    ).map((k) => k.clip),
  );
  const fresh = ids.filter((c) => !have.has(c));
  const rows: RowChange[] = fresh.map((clip) =>
    came({ clip, keyword: keyword.id, range: range ?? '', by: 'person' }),
  );
  if (!known) rows.unshift({ table: 'keywords', before: null, after: keyword });
  // What a person gives was not taken away any longer.
  if (range === null) rows.push(...(await heldBack(tx, keyword.id, ids)).map(givenFree));
  return {
    rows,
    text:
      fresh.length === 0
        ? `All of them have the keyword ${keyword.name} already`
        : `${where(fresh.length, range)}: keyword ${keyword.name} added`,
  };
}

export async function takeKeyword(tx: Writer, job: string, change: Of<'takeKeyword'>): Promise<Planned> {
  const keyword = await keywordIn(tx, job, change.keyword);
  const ids = await meant(tx, job, change.clips, change.range);
  const have = await tx
    .select()
    .from(keyworded)
    .where(
      and(
        eq(keyworded.keyword, keyword.id),
        eq(keyworded.range, change.range ?? ''),
        among(keyworded.clip, ids),
      ),
    );
  const n = new Set(have.map((k) => k.clip)).size;
  const ruled = new Set(have.filter((k) => k.by !== 'person').map((k) => k.clip));
  return {
    rows: [
      ...have.map(went),
      ...[...ruled].map((clip): RowChange => ({
        table: 'withheld',
        before: null,
        after: { clip, keyword: keyword.id },
      })),
    ],
    text:
      n === 0
        ? `None of them has the keyword ${keyword.name}`
        : `${where(n, change.range)}: keyword ${keyword.name} taken away`,
  };
}

export async function editKeyword(tx: Writer, job: string, change: Of<'editKeyword'>): Promise<Planned> {
  const before = await keywordIn(tx, job, change.keyword);
  const { name, family, hotkey } = change.set;
  refuseOther('keyword', { ...change, now: before });
  const after = {
    ...before,
    ...(name !== undefined && calledAnew(before, name)),
    // In another group it has no place yet.
    ...(family !== undefined && family.trim() !== before.family && { family: family.trim(), place: null }),
    ...(hotkey !== undefined && { hotkey }),
  };
  const others = (await tx.select().from(keywords).where(eq(keywords.job, job))).filter(
    (k) => k.id !== before.id,
  );
  const same = others.find((k) => k.key === after.key);
  if (same)
    throw new Refused(`There is a keyword “${same.name}” already.`, {
      next: `Merge “${before.name}” into it, or choose another name.`,
    });
  const freed = hotkey === undefined || hotkey === null ? [] : others.filter((k) => k.hotkey === hotkey);
  const said = [
    ...(after.name === before.name ? [] : [`renamed to ${after.name}`]),
    ...(after.family === before.family
      ? []
      : [after.family === '' ? 'in no group' : `in group ${after.family}`]),
    ...(after.hotkey === before.hotkey
      ? []
      : [after.hotkey === null ? 'without a key' : `on key ${after.hotkey}`]),
  ];
  return {
    rows:
      said.length === 0
        ? []
        : [
            ...freed.map((k): RowChange => ({ table: 'keywords', before: k, after: { ...k, hotkey: null } })),
            { table: 'keywords', before, after },
          ],
    text: said.length === 0 ? 'Nothing was changed' : `Keyword ${before.name} ${said.join(', ')}`,
  };
}

/** Lists a keyword before another, in the group of that; or, of null, at the end of its own. */
export async function moveKeyword(tx: Writer, job: string, change: Of<'moveKeyword'>): Promise<Planned> {
  const moved = await keywordIn(tx, job, change.keyword);
  const before = change.before === null ? null : await keywordIn(tx, job, change.before);
  const family = (before ?? moved).family;
  const all = await tx.select().from(keywords).where(eq(keywords.job, job));
  const now = all.filter((k) => k.family === family).sort(asListed);
  const list = now.filter((k) => k.id !== moved.id);
  list.splice(before ? list.findIndex((k) => k.id === before.id) : list.length, 0, moved);
  if (before?.id === moved.id || list.every((k, i) => k.id === now[i]?.id))
    return { rows: [], text: 'Nothing was changed' };
  const places = list.map((k, i) => ({ before: k, after: { ...k, family, place: i + 1 } }));
  return {
    rows: places
      .filter((p) => p.before.place !== p.after.place || p.before.family !== family)
      .map((p): RowChange => ({ table: 'keywords', ...p })),
    text: `Keyword ${moved.name} ${before ? `listed before ${before.name}` : 'listed last'}`,
  };
}

/** All that have a keyword, with the ranges that do. */
const havers = (tx: Writer, keyword: string): Promise<Given[]> =>
  tx.select().from(keyworded).where(eq(keyworded.keyword, keyword));

const withholders = (tx: Writer, keyword: string): Promise<Held[]> =>
  tx.select().from(withheld).where(eq(withheld.keyword, keyword));

export async function mergeKeyword(tx: Writer, job: string, change: Of<'mergeKeyword'>): Promise<Planned> {
  if (change.keyword === change.into) throw new Refused('A keyword cannot be merged into itself.');
  const [from, into] = [await keywordIn(tx, job, change.keyword), await keywordIn(tx, job, change.into)];
  const have = await havers(tx, from.id);
  const keyOf = (k: Given) => `${k.clip} ${k.range} ${k.by}`;
  const there = new Set((await havers(tx, into.id)).map(keyOf));
  const [held, stays] = [await withholders(tx, from.id), await withholders(tx, into.id)];
  const known = new Set(stays.map((h) => h.clip));
  return {
    rows: [
      ...have.map(went),
      ...have.filter((k) => !there.has(keyOf(k))).map((k) => came({ ...k, keyword: into.id })),
      ...held.map(givenFree),
      ...held
        .filter((h) => !known.has(h.clip))
        .map((h): RowChange => ({ table: 'withheld', before: null, after: { ...h, keyword: into.id } })),
      { table: 'keywords', before: from, after: null },
      {
        table: 'keywords',
        before: into,
        after: { ...into, formerly: alsoCalled(into, from.key, ...linesOf(from.formerly)) },
      },
    ],
    text: `Keyword ${from.name} merged into ${into.name}, ${plural(new Set(have.map((k) => k.clip)).size, 'clip')}`,
  };
}

export async function removeKeyword(tx: Writer, job: string, change: Of<'removeKeyword'>): Promise<Planned> {
  const keyword = await keywordIn(tx, job, change.keyword);
  const have = await havers(tx, keyword.id);
  const keys = [keyword.key, ...linesOf(keyword.formerly)];
  const by = (await tx.select().from(keywordRules).where(eq(keywordRules.job, job))).filter(
    (rule) =>
      have.some((k) => k.by === rule.id) || (rule.kind === 'search' && keys.includes(keywordKey(rule.words))),
  );
  const ended = by.filter((rule) => rule.kind === 'search');
  return {
    rows: [
      ...have.map(went),
      ...(await withholders(tx, keyword.id)).map(givenFree),
      // Its rules would give it again.
      ...by.map((rule): RowChange => ({
        table: 'rules',
        before: rule,
        after: ended.includes(rule)
          ? null
          : { ...rule, without: [...new Set([...linesOf(rule.without), ...keys])].join('\n') },
      })),
      { table: 'keywords', before: keyword, after: null },
    ],
    text: `Keyword ${keyword.name} removed, ${plural(new Set(have.map((k) => k.clip)).size, 'clip')} had it${
      ended.length > 0 ? '; the rule that gave it, too' : by.length > 0 ? '; its rule leaves it out' : ''
    }`,
  };
}
