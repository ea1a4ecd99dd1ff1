import { fold } from '../fold';
import type { FieldId } from '../../facts';
import { OPS, type SearchField, searchField } from './fields';
import { type Op, type Part, type Query, SearchFault } from './query';
import { HINTS, stretchOf, type Stretch } from './values';

/**
 * A clip as it is searched. Words are folded (`fold`); null where it states nothing. Numbers: frames a second, seconds,
 * bytes, moments in seconds since 1970, timecodes by `addressNumber`.
 */
export interface Subject {
  /** Whether these words stand anywhere in it: in facts, names, keywords or notes. */
  has(words: string): boolean;
  words(field: SearchField): string | null;
  number(field: SearchField): number | null;
  /** Whether one of a field's several values is these words, or has them in it. */
  oneOf(field: SearchField, op: 'is' | 'has', words: string): boolean;
  /** Whether a field that may have several values has any. */
  any(field: SearchField): boolean;
}

export type Test = (clip: Subject) => boolean;

/** What a search needs to know of each clip. */
export interface Compiled {
  test: Test;
  facts: ReadonlySet<FieldId>;
  /** Words of own fields that are asked for. */
  own: ReadonlySet<string>;
}

const DAY = 86_400;
const near = (a: number, b: number): boolean =>
  Math.abs(a - b) <= 1e-6 + 5e-4 * Math.max(Math.abs(a), Math.abs(b));

function compare(op: Op, value: number, a: Stretch, b: Stretch): boolean {
  const point = a.from === a.to && !a.ofDay;
  switch (op) {
    case 'is':
      return point ? near(value, a.from) : value >= a.from && value < Math.max(a.to, a.from + 1);
    case 'over':
    case 'after':
      return point ? value > a.from && !near(value, a.from) : value >= Math.max(a.to, a.from);
    case 'under':
    case 'before':
      return point ? value < a.from && !near(value, a.from) : value < a.from;
    case 'from':
      return value >= a.from || (point && near(value, a.from));
    case 'to':
      return point ? value <= a.from || near(value, a.from) : value < Math.max(a.to, a.from + 1);
    default:
      return compare('from', value, a, a) && compare('to', value, b, b);
  }
}

type Condition = Extract<Part, { kind: 'test' }>;
/** What is wrong with a condition, at its place. */
const wrong = ({ place }: Condition, message: string): SearchFault =>
  new SearchFault(message, place?.[0] ?? 0, place?.[1] ?? 0);

/** What a search is told of the job it is in. */
export interface SearchContext {
  /** Frames a second of the edit; null where nobody said. */
  editRate: number | null;
}

/** What a typed value stands for. What is compared with a rate of the edit that nobody knows is never so: it is no number. */
function valueOf(field: SearchField, typed: string, { editRate }: SearchContext): Stretch | null {
  if (field.type !== 'rate' || typed.trim().toLowerCase() !== 'edit') return stretchOf(field.type, typed);
  return { from: editRate ?? NaN, to: editRate ?? NaN, ofDay: false };
}

function bySize(field: SearchField, part: Condition, context: SearchContext): Test {
  const { op, value, to } = part;
  const a = valueOf(field, value, context);
  const b = op === 'between' ? valueOf(field, to, context) : a;
  if (!a || !b || a.ofDay !== b.ofDay)
    throw wrong(part, `“${a ? to : value}” is not ${HINTS[field.type] ?? 'a value'}, for ${field.term}.`);
  return (clip) => {
    const n = clip.number(field);
    if (n === null) return false;
    return compare(op, a.ofDay ? ((n % DAY) + DAY) % DAY : n, a, b);
  };
}

function byWords(field: SearchField, part: Condition): Test {
  const { op } = part;
  const wanted = fold(part.value);
  if (wanted === '') throw wrong(part, `A value is missing for ${field.term}.`);
  if (field.type === 'list') return (clip) => clip.oneOf(field, op === 'is' ? 'is' : 'has', wanted);
  return op === 'is'
    ? (clip) => clip.words(field) === wanted
    : (clip) => clip.words(field)?.includes(wanted) ?? false;
}

function stated(field: SearchField): Test {
  // Of states and flags it is asked whether they hold, of counts whether there are any.
  if (field.word === 'proxy') return (clip) => clip.words(field) === 'there';
  if (field.type === 'flag') return (clip) => clip.words(field) === 'yes';
  if (field.type === 'list') return (clip) => clip.any(field);
  if (field.word === 'select' || field.word === 'reject') return (clip) => (clip.number(field) ?? 0) > 0;
  return field.fact === null && field.type === 'number'
    ? (clip) => clip.number(field) !== null
    : (clip) => clip.words(field) !== null;
}

function testOf(part: Condition, context: SearchContext): Test {
  const { op, value } = part;
  const field = searchField(part.field);
  if (!field) throw wrong(part, `There is no field “${part.field}”.`);
  const ops = OPS[field.type];
  if (!ops.includes(op))
    throw wrong(part, `${field.term} goes with ${ops.map((o) => `“${o}”`).join(', ')}, not with “${op}”.`);
  if (op === 'with') return stated(field);
  if (op === 'no') {
    const has = stated(field);
    return (clip) => !has(clip);
  }
  if (field.type === 'state' && !field.states!.includes(value.toLowerCase()))
    throw wrong(part, `${field.term} is one of ${field.states!.join(', ')}.`);
  if (field.type === 'flag' && !/^(?:yes|no)$/iu.test(value))
    throw wrong(part, `${field.term} is yes or no.`);
  return ['text', 'list', 'state', 'flag'].includes(field.type)
    ? byWords(field, part)
    : bySize(field, part, context);
}

/** A search as a test of clips. Throws SearchFault where a condition makes no sense. */
export function compileQuery(query: Query, context: SearchContext = { editRate: null }): Compiled {
  const facts = new Set<FieldId>();
  const own = new Set<string>();
  const compile = (part: Part): Test => {
    if (part.kind === 'words') {
      const wanted = fold(part.text);
      return (clip) => clip.has(wanted);
    }
    if (part.kind === 'test') {
      const field = searchField(part.field);
      if (field?.fact) facts.add(field.fact);
      else if (field) own.add(field.word);
      return testOf(part, context);
    }
    const tests = part.of.map(compile);
    switch (part.how) {
      case 'all':
        return (clip) => tests.every((t) => t(clip));
      case 'any':
        return (clip) => tests.some((t) => t(clip));
      case 'none':
        return (clip) => !tests.some((t) => t(clip));
    }
  };
  const tests = query.map(compile);
  return { test: (clip) => tests.every((t) => t(clip)), facts, own };
}
