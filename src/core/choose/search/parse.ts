import { searchField } from './fields';
import { DEEPEST, LONGEST, MOST_PARTS, Op, type Part, type Query, SearchFault } from './query';

// The syntax: words side by side all have to stand somewhere; "several words" stand together. A field with an operator
// and a value is a condition (`rate over 50`, `length between 10s and 1min`, `no proxy`). `all(…)`, `any(…)` and `none(…)`
// hold parts with commas between them; words side by side within one belong together.

interface Token {
  kind: 'word' | 'quoted' | 'open' | 'close' | 'comma';
  text: string;
  at: number;
  to: number;
}

/** What is written, in parts. Throws SearchFault. */
function tokens(text: string): Token[] {
  const found: Token[] = [];
  let at = 0;
  while (at < text.length) {
    const c = text[at]!;
    if (/\s/u.test(c)) at++;
    else if (c === '(' || c === ')' || c === ',') {
      found.push({ kind: c === '(' ? 'open' : c === ')' ? 'close' : 'comma', text: c, at, to: at + 1 });
      at++;
    } else if (c === '"') {
      let written = '';
      let end = at + 1;
      while (end < text.length && text[end] !== '"') {
        if (text[end] === '\\' && end + 1 < text.length) end++;
        written += text[end++];
      }
      if (end >= text.length) throw new SearchFault('The quotation mark is not closed.', at, text.length);
      found.push({ kind: 'quoted', text: written, at, to: end + 1 });
      at = end + 1;
    } else {
      let end = at;
      while (end < text.length && !/[\s(),"]/u.test(text[end]!)) end++;
      found.push({ kind: 'word', text: text.slice(at, end), at, to: end });
      at = end;
    }
  }
  return found;
}

const isOp = (t: Token | undefined): Op | null => {
  const op = t?.kind === 'word' ? Op.safeParse(t.text.toLowerCase()) : null;
  return op?.success && op.data !== 'with' && op.data !== 'no' ? op.data : null;
};
const HOW = new Set(['all', 'any', 'none']);

class Parser {
  #at = 0;
  #parts = 0;

  constructor(
    private readonly text: string,
    private readonly list: readonly Token[],
  ) {}

  whole(): Query {
    const parts = this.#some(0);
    const left = this.list[this.#at];
    if (left?.kind === 'close') throw new SearchFault('This bracket closes nothing.', left.at, left.to);
    if (left) throw new SearchFault('A comma stands only within brackets.', left.at, left.to);
    return parts;
  }

  /** Parts side by side. */
  #some(depth: number): Part[] {
    const parts: Part[] = [];
    for (;;) {
      const t = this.list[this.#at];
      if (!t || t.kind === 'close' || t.kind === 'comma') return parts;
      if (++this.#parts > MOST_PARTS)
        throw new SearchFault(`A search has ${MOST_PARTS} parts at most.`, t.at, this.text.length);
      parts.push(this.#one(t, depth));
    }
  }

  #one(t: Token, depth: number): Part {
    const next = this.list[this.#at + 1];
    if (t.kind === 'open') return this.#group('all', t, depth);
    if (t.kind === 'word' && HOW.has(t.text.toLowerCase()) && next?.kind === 'open') {
      this.#at++;
      return this.#group(t.text.toLowerCase() as 'all' | 'any' | 'none', t, depth);
    }
    const field = t.kind === 'word' ? searchField(t.text) : null;
    if (t.kind === 'word' && (t.text.toLowerCase() === 'no' || t.text.toLowerCase() === 'with')) {
      const asked = next?.kind === 'word' ? searchField(next.text) : null;
      if (asked && isOp(this.list[this.#at + 2]) === null) {
        this.#at += 2;
        const op = t.text.toLowerCase() as Op;
        return { kind: 'test', field: asked.word, op, value: '', to: '', place: [t.at, next!.to] };
      }
    }
    const op = field ? isOp(next) : null;
    if (field && op) {
      this.#at += 2;
      const value = this.#value(next!);
      const test = { kind: 'test', field: field.word, op, value } as const;
      const place = (): readonly [number, number] => [t.at, this.list[this.#at - 1]!.to];
      if (op !== 'between') return { ...test, to: '', place: place() };
      const and = this.list[this.#at];
      if (and?.kind !== 'word' || and.text.toLowerCase() !== 'and')
        throw new SearchFault(
          '“between” takes two values with “and” between them.',
          next!.at,
          (and ?? next!).to,
        );
      this.#at++;
      const to = this.#value(and);
      return { ...test, to, place: place() };
    }
    this.#at++;
    return { kind: 'words', text: t.text };
  }

  #value(after: Token): string {
    const t = this.list[this.#at];
    if (!t || (t.kind !== 'word' && t.kind !== 'quoted'))
      throw new SearchFault(`A value is missing after “${after.text}”.`, after.at, after.to);
    this.#at++;
    return t.text;
  }

  #group(how: 'all' | 'any' | 'none', begun: Token, depth: number): Part {
    if (depth >= DEEPEST)
      throw new SearchFault(
        `Brackets stand in one another ${DEEPEST} deep at most.`,
        begun.at,
        this.text.length,
      );
    this.#at++;
    const of: Part[] = [];
    for (;;) {
      const side = this.#some(depth + 1);
      const end = this.list[this.#at];
      if (!end) throw new SearchFault('The bracket is not closed.', begun.at, this.text.length);
      if (side.length === 0) throw new SearchFault('Something is missing here.', end.at, end.to);
      of.push(side.length === 1 ? side[0]! : { kind: 'group', how: 'all', of: side });
      this.#at++;
      if (end.kind === 'close') return { kind: 'group', how, of };
    }
  }
}

/** A search as it is meant. Throws SearchFault with the place where it is not understood. */
export function parseQuery(text: string): Query {
  if (text.length > LONGEST)
    throw new SearchFault(`A search has ${LONGEST} characters at most.`, LONGEST, text.length);
  return new Parser(text, tokens(text)).whole();
}

const isPlain = (text: string): boolean => text !== '' && !/[\s(),"\\]/u.test(text);
const quoted = (text: string): string => `"${text.replace(/["\\]/gu, '\\$&')}"`;
/** Words that would be read as something else where they stand alone. */
const isReserved = (text: string): boolean =>
  searchField(text) !== null || HOW.has(text.toLowerCase()) || /^(?:no|with)$/iu.test(text);

function partText(part: Part): string {
  if (part.kind === 'words')
    return isPlain(part.text) && !isReserved(part.text) ? part.text : quoted(part.text);
  if (part.kind === 'test') {
    const value = (v: string): string => (isPlain(v) ? v : quoted(v));
    if (part.op === 'no' || part.op === 'with') return `${part.op} ${part.field}`;
    return part.op === 'between'
      ? `${part.field} between ${value(part.value)} and ${value(part.to)}`
      : `${part.field} ${part.op} ${value(part.value)}`;
  }
  const inside = part.of.map((p) => (isSide(p) ? p.of.map(partText).join(' ') : partText(p)));
  return `${part.how}(${inside.join(', ')})`;
}
/** Several parts between two commas. */
const isSide = (p: Part): p is Extract<Part, { kind: 'group' }> =>
  p.kind === 'group' && p.how === 'all' && p.of.length > 1;

/** The text of a search, which reads as the same search. */
export const queryText = (query: Query): string => query.map(partText).join(' ');
