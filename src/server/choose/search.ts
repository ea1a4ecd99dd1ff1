import {
  addressNumber,
  compileQuery,
  type Compiled,
  fold,
  parseQuery,
  type RangeView,
  type SearchContext,
  SearchFault,
  type SearchField,
  type Subject,
  WITHOUT_PROXY,
  withInside,
} from '../../core/choose';
import type { PairState } from '../../core/proxies';
import { fps } from '../../core/platform/timecode/rate';
import { requireJob } from '../jobs';
import { Refused } from '../platform/errors';
import { type Column, columnOf, pairsOf, type Row, rowsById } from './catalogue';
import { type Marks } from './marks';
import { checkedOf, usedOf } from './findings';
import type { InJob } from './ports';
import { type Group, groupsOf, wordsOf } from './rolling';

/** A search as a test of clips. Throws Refused with what is not understood in it. */
export function understood(query: string, context?: SearchContext): Compiled {
  try {
    return compileQuery(parseQuery(query), context);
  } catch (e) {
    if (!(e instanceof SearchFault)) throw e;
    throw new Refused(`The search is not understood: ${e.message}`, {
      next: `Look at “${query.slice(e.at, Math.min(e.to, e.at + 60))}”.`,
    });
  }
}

/** A search in its job (`understood`). */
export const understoodIn = async (runtime: InJob, query: string): Promise<Compiled> => {
  // Most ask for nothing of the job.
  if (!/\bedit\b/iu.test(query)) return understood(query);
  const { rate } = await requireJob(runtime);
  return understood(query, { editRate: rate && fps(rate) });
};

/** What is known of all clips beside their rows, as a search needs it. */
interface Known {
  columns: ReadonlyMap<string, Column>;
  pairs: ReadonlyMap<string, PairState> | null;
  marks: Marks;
  findings: ReadonlyMap<string, RangeView[]> | null;
  /** What edits use, each stretch named as its edit is. */
  used: ReadonlyMap<string, RangeView[]> | null;
  /** With the clips they are of. */
  rolling: { of: ReadonlyMap<string, Group>; rows: ReadonlyMap<string, Row> } | null;
}

type How = 'is' | 'has';
const fits = (how: How, name: string, words: string): boolean =>
  how === 'is' ? name === words : name.includes(words);

/** One clip after the other, as a search looks at it. */
class Walker implements Subject {
  #row!: Row;
  /** Ids of clips by what is asked of their keywords and bins. */
  readonly #worded = new Map<string, ReadonlySet<string>>();
  readonly #binned = new Map<string, ReadonlySet<string>>();

  constructor(private readonly known: Known) {}

  get row(): Row {
    return this.#row;
  }

  set row(row: Row) {
    this.#row = row;
  }

  has(words: string): boolean {
    return this.row.text.includes(words) || this.#hasKeyword('has', words) || this.#isNoted('has', words);
  }

  words({ word, fact }: SearchField): string | null {
    if (fact !== null) return this.known.columns.get(fact)?.get(this.row.number)?.words ?? null;
    const pair = this.known.pairs?.get(this.row.id) ?? 'none';
    switch (word) {
      case 'name':
        return fold(this.row.name);
      case 'card':
      case 'camera':
        return fold(this.row[word]);
      case 'kind':
        return this.row.kind;
      case 'read':
        return this.row.state === 'read' ? 'yes' : 'no';
      case 'pair':
        return pair;
      case 'proxy':
        return WITHOUT_PROXY.includes(pair) ? 'missing' : 'there';
      default:
        return null;
    }
  }

  number({ word, fact, type }: SearchField): number | null {
    if (fact !== null) {
      const stated = this.known.columns.get(fact)?.get(this.row.number);
      return stated ? (type === 'timecode' ? addressNumber(stated.words) : stated.number) : null;
    }
    if (word === 'day') return this.row.day;
    return counted(this.known.marks.ranges).get(word)?.get(this.row.id) ?? 0;
  }

  oneOf({ word }: SearchField, how: How, words: string): boolean {
    switch (word) {
      case 'keyword':
        return this.#hasKeyword(how, words);
      case 'bin':
        return this.#standsIn(how, words);
      case 'note':
        return this.#isNoted(how, words);
      case 'finding':
        return (this.known.findings?.get(this.row.id) ?? []).some((f) => fits(how, fold(f.name), words));
      case 'used':
        return (this.known.used?.get(this.row.id) ?? []).some((u) => fits(how, fold(u.name), words));
      case 'rolling':
        return this.#rolls(how, words);
      default:
        return this.#problems().some((p) => fits(how, p, words));
    }
  }

  any({ word }: SearchField): boolean {
    const { keyworded, binned, noted } = this.known.marks;
    const { id } = this.row;
    return word === 'keyword'
      ? keyworded.has(id)
      : word === 'bin'
        ? binned.has(id)
        : word === 'note'
          ? noted.has(id)
          : word === 'finding' || word === 'used'
            ? this.known[word === 'used' ? 'used' : 'findings']?.has(id) === true
            : word === 'rolling'
              ? this.known.rolling?.of.has(id) === true
              : this.#problems().length > 0;
  }

  /** Which clips have a keyword that fits is found out once, not for every clip. */
  #hasKeyword(how: How, words: string): boolean {
    const { keywords, keyworded } = this.known.marks;
    const wanted = once(this.#worded, `${how} ${words}`, () =>
      allOf(
        inverse(keyworded, (k) => k.keyword),
        keywords.filter((k) => fits(how, fold(k.name), words)).map((k) => k.id),
      ),
    );
    return wanted.size > 0 && wanted.has(this.row.id);
  }

  /** In a bin that fits, or in one that stands in it. */
  #standsIn(how: How, words: string): boolean {
    const { bins, binned } = this.known.marks;
    const wanted = once(this.#binned, `${how} ${words}`, () =>
      allOf(
        inverse(binned, (b) => b),
        bins.filter((b) => fits(how, fold(b.name), words)).flatMap((b) => withInside(bins, b.id)),
      ),
    );
    return wanted.size > 0 && wanted.has(this.row.id);
  }

  /** With another clip that fits. */
  #rolls(how: How, words: string): boolean {
    const { id } = this.row;
    const group = this.known.rolling?.of.get(id);
    return group
      ? wordsOf(group, this.known.rolling!.rows).some(
          (w) => w.clip !== id && w.words.some((x) => fits(how, x, words)),
        )
      : false;
  }

  #isNoted(how: How, words: string): boolean {
    for (const note of this.known.marks.noted.get(this.row.id) ?? NONE)
      if (fits(how, note, words)) return true;
    return false;
  }

  #problems(): string[] {
    const { fault, brief, notes, id } = this.row;
    const pair = this.known.pairs?.get(id);
    return [
      ...(fault === null ? [...brief.looks, ...notes] : [fault]),
      ...(pair === 'lost' || pair === 'mismatched' || pair === 'unproven' ? [`the pair is ${pair}`] : []),
    ].map(fold);
  }
}

const NONE: readonly never[] = [];

function once(
  known: Map<string, ReadonlySet<string>>,
  key: string,
  find: () => ReadonlySet<string>,
): ReadonlySet<string> {
  let found = known.get(key);
  if (!found) {
    found = find();
    known.set(key, found);
  }
  return found;
}

/** Clips by what they have, of what clips have: made once for as long as that is held. */
const inverses = new WeakMap<object, ReadonlyMap<string, ReadonlySet<string>>>();
function inverse<T>(
  of: ReadonlyMap<string, readonly T[]>,
  key: (one: T) => string,
): ReadonlyMap<string, ReadonlySet<string>> {
  const known = inverses.get(of);
  if (known) return known;
  const found = new Map<string, Set<string>>();
  for (const [clip, list] of of)
    for (const one of list) {
      const there = found.get(key(one));
      if (there) there.add(clip);
      else found.set(key(one), new Set([clip]));
    }
  inverses.set(of, found);
  return found;
}

/** How many ranges of each kind clips have: made once for as long as those are held. */
const counts = new WeakMap<Marks['ranges'], ReadonlyMap<string, ReadonlyMap<string, number>>>();
function counted(ranges: Marks['ranges']): ReadonlyMap<string, ReadonlyMap<string, number>> {
  const known = counts.get(ranges);
  if (known) return known;
  const found = new Map<string, Map<string, number>>();
  for (const [clip, list] of ranges)
    for (const { kind } of list) {
      const of = found.get(kind) ?? new Map<string, number>();
      found.set(kind, of.set(clip, (of.get(clip) ?? 0) + 1));
    }
  counts.set(ranges, found);
  return found;
}

function allOf(sets: ReadonlyMap<string, ReadonlySet<string>>, keys: readonly string[]): ReadonlySet<string> {
  const [first, ...others] = keys.flatMap((k) => sets.get(k) ?? []);
  if (!first || others.length === 0) return first ?? new Set();
  const all = new Set(first);
  for (const other of others) for (const id of other) all.add(id);
  return all;
}

const OF_PAIRS = ['pair', 'proxy', 'problem'];

/** Clips that a search finds among some, in their order. */
export async function filtered(
  runtime: InJob,
  rows: readonly Row[],
  marks: Marks,
  compiled: Compiled,
): Promise<Row[]> {
  const columns = new Map<string, Column>();
  for (const field of compiled.facts) columns.set(field, await columnOf(runtime, field));
  const walker = new Walker({
    columns,
    pairs: OF_PAIRS.some((w) => compiled.own.has(w)) ? await pairsOf(runtime) : null,
    marks,
    findings: compiled.own.has('finding') ? await checkedOf(runtime) : null,
    used: compiled.own.has('used') ? await usedOf(runtime) : null,
    rolling: compiled.own.has('rolling')
      ? { of: await groupsOf(runtime), rows: await rowsById(runtime) }
      : null,
  });
  return rows.filter((row) => {
    walker.row = row;
    return compiled.test(walker);
  });
}
