import { and, eq, sql } from 'drizzle-orm';
import { keywordKey, keywordsBy, linesOf, type Ruled, searchField } from '../../core/choose';
import type { FolderLevel } from '../../core/choose';
import { plural } from '../../core/platform/words';
import { clips, files } from '../cards/tables';
import { facts } from '../facts/tables';
import { requireJob } from '../jobs';
import { writeLog } from '../logbook';
import { among } from '../platform/db/among';
import { Refused } from '../platform/errors';
import { alone } from './alone';
import { CLIPS, clipsOfJob, type Row } from './catalogue';
import { newKeyword } from './keywords';
import { type Marks, marksChanged, marksOf } from './marks';
import type { InJob } from './ports';
import { type RowChange, type Rows, writeRows } from './rows';
import { filtered, understoodIn } from './search';

type Given = Rows['keyworded'];
type Rule = Rows['rules'];
const PERSON = 'person';

/**
 * Gives clips the keywords that the rules of the job give them now, and takes back what they gave before: never what a person gave,
 * and not where a person took it away. Returns how many marks came or went. What rules give is looked at by no rule.
 */
export const followRules = (runtime: InJob): Promise<number> => runtime.undos.inTurn(() => follow(runtime));

async function follow(runtime: InJob): Promise<number> {
  const marks = await marksOf(runtime);
  const isHere = new Set((await clipsOfJob(runtime)).map((r) => r.id));
  const have = [...marks.keyworded].flatMap(([clip, list]) => (isHere.has(clip) ? list : []));
  const given = have.filter((k) => k.by !== PERSON);
  if (marks.rules.length === 0 && given.length === 0) return 0;
  const { wanted, silent } = await wantedBy(runtime, marks);
  const kept = given.filter((k) => silent.has(k.by));
  const { rows, came, went } = differences(runtime.job, { marks, have, given, wanted, kept });
  if (rows.length === 0) return 0;
  const written = await alone(runtime, async (tx) => {
    // A card may have been forgotten while this was worked out.
    const still = new Set(
      (
        await tx
          .select({ id: clips.id })
          .from(clips)
          .where(and(eq(clips.job, runtime.job), among(clips.id, [...new Set(came.map((k) => k.clip))])))
      ).map((c) => c.id),
    );
    const left = rows.filter((r) => r.table !== 'keyworded' || r.after === null || still.has(r.after.clip));
    await writeRows(tx, left);
    return left;
  });
  marksChanged(runtime, written);
  await writeLog(runtime, 'choose', inWords(came, went));
  runtime.events.changed('log');
  return came.length + went.length;
}

const clipsIn = (list: readonly Given[]): string => plural(new Set(list.map((k) => k.clip)).size, 'clip');
function inWords(came: readonly Given[], went: readonly Given[]): string {
  const gave = came.length > 0 ? [`keywords given to ${clipsIn(came)}`] : [];
  const took = went.length > 0 ? [`taken back from ${clipsIn(went)}`] : [];
  return `By rules: ${[...gave, ...took].join(', ')}`;
}

/** A keyword that a rule gives to a clip, by its name. */
interface Wanted {
  clip: string;
  name: string;
  rule: string;
}

/** What the rules give; `silent` are ids of those that are not understood any more: what they gave stays. */
async function wantedBy(
  runtime: InJob,
  marks: Marks,
): Promise<{ wanted: Wanted[]; silent: ReadonlySet<string> }> {
  const rows = await clipsOfJob(runtime);
  const persons: Marks = {
    ...marks,
    keyworded: new Map(
      [...marks.keyworded].flatMap(([clip, list]) => {
        const own = list.filter((k) => k.by === PERSON);
        return own.length > 0 ? [[clip, own] as const] : [];
      }),
    ),
  };
  const silent = new Set<string>();
  const wanted: Wanted[] = [];
  for (const rule of marks.rules) {
    const of = await ruledBy(runtime, rule, { rows, persons });
    if (!of) silent.add(rule.id);
    else wanted.push(...givenBy(rule, rows, of));
  }
  return { wanted, silent };
}

/** Keywords that one rule gives, at most: a field that says something else of every clip would bury all others. */
const MOST_KEYWORDS = 1000;

/** What a rule gives; of more keywords than `MOST_KEYWORDS` those that come first. */
function givenBy(rule: Rule, rows: readonly Row[], of: (row: Row) => Ruled): Wanted[] {
  const keys = new Set<string>();
  return rows.flatMap((row) =>
    keywordsBy(rule, of(row)).flatMap((name) => {
      const key = keywordKey(name);
      if (!keys.has(key) && keys.size >= MOST_KEYWORDS) return [];
      keys.add(key);
      return [{ clip: row.id, name, rule: rule.id }];
    }),
  );
}

/** Throws Refused where a rule would give more keywords than one may. */
export async function refuseTooMany(runtime: InJob, rule: Omit<Rule, 'id' | 'job'>): Promise<void> {
  // A search gives one.
  if (rule.kind === 'search') return;
  const rows = await clipsOfJob(runtime);
  const whole = { ...rule, id: '', job: runtime.job };
  const of = await ruledBy(runtime, whole, { rows, persons: await marksOf(runtime) });
  if (!of) return;
  const keys = new Set(rows.flatMap((row) => keywordsBy(whole, of(row)).map(keywordKey)));
  if (keys.size > MOST_KEYWORDS)
    throw new Refused(
      `The rule would give ${keys.size} keywords; ${MOST_KEYWORDS} are the most of one rule. Nothing was changed.`,
      { next: 'Choose a field or levels of folders that say the same of several clips.' },
    );
}

const NOTHING: Ruled = { found: false, value: null, folders: [] };

/** What a rule looks at of each clip; null where its search is not understood. */
async function ruledBy(
  runtime: InJob,
  rule: Rule,
  { rows, persons }: { rows: readonly Row[]; persons: Marks },
): Promise<((row: Row) => Ruled) | null> {
  switch (rule.kind) {
    case 'search': {
      const found = await foundBy(runtime, rule.query, { rows, persons });
      return found && ((row) => ({ ...NOTHING, found: found.has(row.id) }));
    }
    case 'field': {
      if (!searchField(rule.field)?.fact) return null;
      const values = await valuesOf(runtime, rule.field);
      return (row) => ({ ...NOTHING, value: values.get(row.number) ?? null });
    }
    case 'folders': {
      const folders = await foldersOf(runtime);
      return (row) => ({ ...NOTHING, folders: folders.get(row.id) ?? [] });
    }
  }
}

async function foundBy(
  runtime: InJob,
  query: string,
  { rows, persons }: { rows: readonly Row[]; persons: Marks },
): Promise<ReadonlySet<string> | null> {
  try {
    const found = await filtered(runtime, rows, persons, await understoodIn(runtime, query));
    return new Set(found.map((r) => r.id));
  } catch (e) {
    if (e instanceof Refused) return null;
    throw e;
  }
}

/** What a field states of clips, by their numbers, as it is written. */
async function valuesOf(runtime: InJob, word: string): Promise<ReadonlyMap<number, string>> {
  const { number } = await requireJob(runtime);
  const rows = await runtime.database.texts(
    runtime.db
      .select({ clip: facts.clip, words: facts.words })
      .from(facts)
      .where(and(eq(facts.job, number), eq(facts.field, searchField(word)!.fact!), facts.chosen))
      .getSQL(),
  );
  return new Map(rows.map(([clip, words]) => [Number(clip), words ?? '']));
}

/** Folders that clips were taken in from, outermost first: they stay what they were wherever the clips are now. */
const foldersOf = (runtime: InJob): Promise<ReadonlyMap<string, string[]>> =>
  runtime.viewCache.get(
    `folders of ${runtime.job}`,
    async () => {
      const { db, database, job } = runtime;
      const rows = await database.texts(
        db
          .select({ clip: files.clip, path: sql<string>`coalesce(${files.takenPath}, ${files.path})` })
          .from(files)
          .innerJoin(clips, and(eq(clips.id, files.clip), eq(clips.job, job)))
          .where(eq(files.role, 'original'))
          .getSQL(),
      );
      return new Map(rows.map(([clip, path]) => [clip!, path!.split('/').slice(0, -1)]));
    },
    CLIPS,
  );

/** Names that are shown of each level. */
const SOME = 5;

/** What the folders are called that the clips of the job were taken in from, by level. */
export async function folderLevels(runtime: InJob): Promise<FolderLevel[]> {
  const levels: Set<string>[] = [];
  for (const names of (await foldersOf(runtime)).values())
    for (const [i, name] of names.entries()) (levels[i] ??= new Set()).add(name);
  return levels.map((names, i) => ({
    level: i + 1,
    names: [...names].sort().slice(0, SOME),
    more: Math.max(0, names.size - SOME),
  }));
}

const keyOf = (k: Given): string => `${k.clip} ${k.keyword} ${k.by}`;

/** Rows by which what is given becomes what is wanted. */
function differences(
  job: string,
  {
    marks,
    have,
    given,
    wanted,
    kept,
  }: {
    marks: Marks;
    /** What is given to clips, and of that what rules gave. */
    have: readonly Given[];
    given: readonly Given[];
    wanted: readonly Wanted[];
    /** Of what rules gave, what stays whatever is wanted. */
    kept: readonly Given[];
  },
): { rows: RowChange[]; came: Given[]; went: Given[] } {
  // What a keyword is called now goes before what another was called once.
  const called = new Map(marks.keywords.flatMap((k) => linesOf(k.formerly).map((key) => [key, k])));
  for (const k of marks.keywords) called.set(k.key, k);
  const made: Rows['keywords'][] = [];
  const meant = new Map<string, Given>();
  for (const { clip, name, rule } of wanted) {
    const key = keywordKey(name);
    let keyword = called.get(key);
    if (!keyword) {
      keyword = newKeyword(job, name, rule);
      called.set(key, keyword);
      made.push(keyword);
    }
    if (marks.withheld.get(clip)?.includes(keyword.id)) continue;
    const one: Given = { clip, keyword: keyword.id, range: '', by: rule };
    meant.set(keyOf(one), one);
  }
  for (const k of kept) meant.set(keyOf(k), k);
  const there = new Set(given.map(keyOf));
  const came = [...meant.values()].filter((k) => !there.has(keyOf(k)));
  const went = given.filter((k) => !meant.has(keyOf(k)));
  return {
    rows: [
      ...made.map((after): RowChange => ({ table: 'keywords', before: null, after })),
      ...came.map((after): RowChange => ({ table: 'keyworded', before: null, after })),
      ...went.map((before): RowChange => ({ table: 'keyworded', before, after: null })),
      ...unused(marks, [...have.filter((k) => k.by === PERSON), ...meant.values()]),
    ],
    came,
    went,
  };
}

/** Keywords that a rule made, that nothing has any more and nobody did anything with, go with what was taken back. */
function unused(marks: Marks, left: readonly Given[]): RowChange[] {
  const used = new Set(left.map((k) => k.keyword));
  for (const list of marks.withheld.values()) for (const id of list) used.add(id);
  return marks.keywords
    .filter(
      (k) => k.by !== PERSON && !used.has(k.id) && k.family === '' && k.hotkey === null && k.formerly === '',
    )
    .map((before) => ({ table: 'keywords', before, after: null }));
}
