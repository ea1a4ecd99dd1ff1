import {
  addressNumber,
  compileQuery,
  type Compiled,
  fold,
  parseQuery,
  type RangeView,
  SearchFault,
  type SearchField,
  type Subject,
  WITHOUT_PROXY,
  withInside,
} from '../../core/choose';
import type { PairState } from '../../core/proxies';
import { Refused } from '../platform/errors';
import { type Column, columnOf, pairsOf, type Row } from './catalogue';
import { type Marks } from './marks';
import { findingsOf } from './findings';
import type { InJob } from './ports';
import type { Rows } from './rows';

/** A search as a test of clips. Throws Refused with what is not understood in it. */
export function understood(query: string): Compiled {
  try {
    return compileQuery(parseQuery(query));
  } catch (e) {
    if (!(e instanceof SearchFault)) throw e;
    throw new Refused(`The search is not understood: ${e.message}`, {
      next: `Look at “${query.slice(e.at, Math.min(e.to, e.at + 60))}”.`,
    });
  }
}

/** What is known of all clips beside their rows, as a search needs it. */
interface Known {
  columns: ReadonlyMap<string, Column>;
  pairs: ReadonlyMap<string, PairState> | null;
  marks: Marks;
  findings: ReadonlyMap<string, RangeView[]> | null;
}

type How = 'is' | 'has';
const fits = (how: How, name: string, words: string): boolean =>
  how === 'is' ? name === words : name.includes(words);

/** One clip after the other, as a search looks at it. */
class Walker implements Subject {
  #row!: Row;
  /** Of the clip that is looked at: looked up once, however many conditions ask. */
  #given: Rows['keyworded'][] | null = null;
  readonly #keywords = new Map<string, ReadonlySet<string>>();
  readonly #bins = new Map<string, ReadonlySet<string>>();

  constructor(private readonly known: Known) {}

  get row(): Row {
    return this.#row;
  }

  set row(row: Row) {
    this.#row = row;
    this.#given = null;
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
    let n = 0;
    for (const r of this.known.marks.ranges.get(this.row.id) ?? NONE) if (r.kind === word) n++;
    return n;
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
          : word === 'finding'
            ? this.known.findings?.has(id) === true
            : this.#problems().length > 0;
  }

  /** Which keywords fit is found out once, not for every clip. */
  #hasKeyword(how: How, words: string): boolean {
    const { keywords, keyworded } = this.known.marks;
    const wanted = once(this.#keywords, `${how} ${words}`, () =>
      keywords.filter((k) => fits(how, fold(k.name), words)).map((k) => k.id),
    );
    if (wanted.size === 0) return false;
    this.#given ??= keyworded.get(this.row.id) ?? [];
    for (const k of this.#given) if (wanted.has(k.keyword)) return true;
    return false;
  }

  /** In a bin that fits, or in one that stands in it. */
  #standsIn(how: How, words: string): boolean {
    const { bins, binned } = this.known.marks;
    const wanted = once(this.#bins, `${how} ${words}`, () =>
      bins.filter((b) => fits(how, fold(b.name), words)).flatMap((b) => withInside(bins, b.id)),
    );
    if (wanted.size === 0) return false;
    for (const b of binned.get(this.row.id) ?? NONE) if (wanted.has(b)) return true;
    return false;
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
  find: () => string[],
): ReadonlySet<string> {
  let found = known.get(key);
  if (!found) {
    found = new Set(find());
    known.set(key, found);
  }
  return found;
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
    findings: compiled.own.has('finding') ? await findingsOf(runtime) : null,
  });
  return rows.filter((row) => {
    walker.row = row;
    return compiled.test(walker);
  });
}
