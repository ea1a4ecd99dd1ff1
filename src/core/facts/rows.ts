import { type FieldId, fieldOf, formatValue, type Source, type Statement } from './catalogue';
import type { Facts } from './facts';
import { numberOf, type Value } from './values';

/** A fact as the database keeps it: what lists show, filter and sort by, and the value where those do not say it exactly. */
export interface FactRow {
  field: FieldId;
  source: Source;
  /** Whether it is the one that counts of its field. */
  chosen: boolean;
  words: string;
  number: number | null;
  sort: string | null;
  value: Value | null;
}

/** Sources of what is not stated: it follows from statements, from the job, and from where files stand. */
export const WORKED_OUT = ['workedOut', 'correction', 'file'] as const satisfies readonly Source[];

/** Characters of words that count where clips are sorted by them. */
const SORTED_BY = 60;
/** Characters of what they are sorted by: there are more, for numbers in it are made longer. */
const KEY = 120;

/** Words as they are sorted byte by byte: without regard to case and accents, numbers in them by their size. */
export const sortKey = (words: string): string =>
  words
    .slice(0, SORTED_BY)
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/\d+/g, (n) => n.replace(/^0+(?=\d)/, '').padStart(12, '0'))
    .slice(0, KEY)
    .toWellFormed();

export function factRow({ field, source, value }: Statement, chosen: boolean): FactRow {
  const [words, number] = [formatValue(value, field), numberOf(value)];
  return {
    field,
    source,
    chosen,
    words,
    number,
    sort: number === null ? sortKey(words) : null,
    value: isPlain(value) && fieldOf(field).type === value.type ? null : value,
  };
}

/** Whether words and number say a value exactly, once its type is known. */
const isPlain = ({ type }: Value): boolean =>
  type === 'text' || type === 'count' || type === 'number' || type === 'flag';

/** What a row states. */
export function statementOf(
  row: Pick<FactRow, 'field' | 'source' | 'words' | 'number' | 'value'>,
): Statement {
  const { field, source } = row;
  return { field, source, value: row.value ?? plainOf(fieldOf(field).type, row.words, row.number) };
}

function plainOf(type: Value['type'], words: string, number: number | null): Value {
  switch (type) {
    case 'count':
      return { type, count: number! };
    case 'number':
      return { type, number: number! };
    case 'flag':
      return { type, flag: words === 'yes' };
    default:
      return { type: 'text', text: words };
  }
}

/** All rows of a clip's facts. A source states a field once: the first place counts. */
export function factRows(facts: Facts): FactRow[] {
  const rows = new Map<string, FactRow>();
  for (const { chosen, others } of facts.values())
    for (const s of [chosen, ...others]) {
      const key = `${s.field} ${s.source}`;
      if (!rows.has(key)) rows.set(key, factRow(s, s === chosen));
    }
  return [...rows.values()];
}

/** What is between words in the text of a clip, and in none of them: control characters are left out where text is read. */
const APART = '\u0001';

/** All words of a clip, to be looked through: those it is called by, then those of its facts, each once. */
export const textOf = (rows: readonly FactRow[], called: readonly string[]): string =>
  [...new Set([...called, ...rows.filter((r) => r.chosen).map((r) => r.words)])]
    .map((words) => words.toLowerCase().replaceAll('\u0000', ''))
    .join(APART);
