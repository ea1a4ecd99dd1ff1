import * as z from 'zod';
import { GivenKind, LONGEST_NAME, tidyName } from '../../choose';
import { readTable } from '../../platform/csv';
import {
  addressOf,
  formatTimecode,
  framesBetween,
  parseTimecode,
  type Timecode,
} from '../../platform/timecode/timecode';
import type { Rate } from '../../platform/timecode/rate';
import { nameKey, stemOf } from '../held';

/** What a column of a list may hold. */
export const ListField = z.enum([
  ...(['name', 'card', 'from', 'last', 'until', 'kind', 'label'] as const),
  ...(['keywords', 'note', 'scene', 'take', 'circled'] as const),
]);
export type ListField = z.infer<typeof ListField>;
export const LIST_FIELD_WORDS: Record<ListField, string> = {
  name: 'Name of the clip or its file',
  card: 'Card or reel',
  from: 'Timecode, or that of the first frame',
  last: 'Timecode of the last frame',
  until: 'Timecode behind the last frame',
  kind: 'Kind of range',
  label: 'Name of the range',
  keywords: 'Keywords',
  note: 'Note',
  scene: 'Scene',
  take: 'Take',
  circled: 'Circled take',
};

/** By which words columns are known, the surest first: a column is the first that it can be and that none before it is. */
const HEADS: readonly (readonly [ListField, RegExp])[] = [
  ['name', /^(?:file|file ?name|source ?file|clip|clip ?name)$/],
  ['card', /^(?:card|reel|reel ?name|roll|tape)$/],
  ['from', /^(?:first timecode|timecode|tc|start|start tc|start timecode|in|tc in|timecode in|at)$/],
  ['last', /^(?:last timecode|last tc)$/],
  ['until', /^(?:end|end tc|end timecode|out|tc out|timecode out)$/],
  ['kind', /^kind$/],
  ['keywords', /^(?:keywords?|tags?)$/],
  ['note', /^(?:notes?|comments?|remarks?|description)$/],
  ['scene', /^scene$/],
  ['take', /^take$/],
  ['circled', /^(?:circled|circled take|circle|good|good take)$/],
  ['name', /^name$/],
  ['label', /^(?:name|range)$/],
];

/** What each column holds, told by the head; null for what is not known. */
export function columnsOf(head: readonly string[]): (ListField | null)[] {
  const columns: (ListField | null)[] = head.map(() => null);
  for (const [field, words] of HEADS) {
    if (columns.includes(field)) continue;
    const i = head.findIndex((h, k) => columns[k] === null && words.test(h.toLowerCase()));
    if (i >= 0) columns[i] = field;
  }
  return columns;
}

/** A clip as lists may mean it. */
export interface Listed {
  id: string;
  /** What it is shown by. */
  shown: string;
  card: string;
  /** Names of its files, now and when they were taken in. */
  names: readonly string[];
  start: Timecode | null;
  rate: Rate | null;
  frames: number | null;
}

/** What a line gives to its clip. */
export interface Given {
  range: { from: number; to: number; kind: GivenKind; name: string; note: string } | null;
  keywords: string[];
  note: string;
  scene: string;
  take: string;
  circled: boolean | null;
}

/** A line of a list: what it means and gives, or why it means no clip. */
export interface ListLine {
  /** Its number in the list, the head being the first. */
  line: number;
  /** By which it names its clip. */
  said: string;
  clip: string | null;
  why: string | null;
  given: Given;
}

export interface ReadList {
  head: string[];
  columns: (ListField | null)[];
  lines: ListLine[];
}

/** Lines that are read; nobody marks more in one list. */
const MOST_LINES = 50_000;
/** Characters of a cell; of a longer one nothing is taken, rather than a part. */
const LONGEST_CELL = 2000;

/**
 * Reads a list, and finds the clip of each line: by its name, of several by the card and the timecode; without a name by the timecode.
 * `columns` says what they hold where the head does not. Throws, in words for a person, where it cannot be read.
 */
export function readList(
  text: string,
  clips: readonly Listed[],
  columns: readonly (ListField | null)[] | null = null,
): ReadList {
  const [head, ...rows] = readTable(text);
  if (!head) throw new Error('The list is empty.');
  if (rows.length > MOST_LINES)
    throw new Error(`The list has ${rows.length} lines; at most ${MOST_LINES} are read. Give it in parts.`);
  const known = columns?.length === head.length ? [...columns] : columnsOf(head);
  const find = finder(clips);
  const lines = rows.map((row, i): ListLine => {
    const cell = (field: ListField): string => plain(row[known.indexOf(field)] ?? '');
    const said = (cell('name') || cell('from')).slice(0, 200);
    const long = known.find((field) => field !== null && cell(field).length > LONGEST_CELL);
    const found = long
      ? `its ${LIST_FIELD_WORDS[long].toLowerCase()} has ${cell(long).length} characters: up to ${LONGEST_CELL} are read`
      : find(cell);
    const clip = typeof found === 'string' ? null : found;
    const given = long ? NOTHING : givenBy(cell, clip);
    const why = typeof found === 'string' ? found : typeof given === 'string' ? given : null;
    return {
      ...{ line: i + 2, said, why },
      clip: why === null ? clip!.id : null,
      given: typeof given === 'string' ? NOTHING : given,
    };
  });
  return { head, columns: known, lines: contradicted(lines) };
}

/** What lines say of all of a clip has to be the same in each: of those that contradict each other none counts. */
function contradicted(lines: readonly ListLine[]): ListLine[] {
  /** By clip and field each value, with the first line that says it. */
  const told = new Map<string, Map<string, number>>();
  const sayings = ({ clip, given: { scene, take, circled } }: ListLine): [key: string, value: string][] =>
    clip === null
      ? []
      : Object.entries({ scene, take, circled: circled === null ? '' : circled ? 'yes' : 'no' }).flatMap(
          ([field, value]) => (value === '' ? [] : [[`${field} of ${clip}`, `${field} ${value}`]]),
        );
  for (const l of lines)
    for (const [key, value] of sayings(l)) {
      const values = told.get(key) ?? new Map<string, number>();
      if (!values.has(value)) values.set(value, l.line);
      told.set(key, values);
    }
  return lines.map((l) => {
    for (const [key, value] of sayings(l)) {
      const other = [...told.get(key)!].find(([v]) => v !== value);
      if (other) return { ...l, clip: null, why: `line ${other[1]} says otherwise: ${other[0]}` };
    }
    return l;
  });
}

type Cell = (field: ListField) => string;
const NOTHING: Given = { range: null, keywords: [], note: '', scene: '', take: '', circled: null };

/** What was made harmless for spreadsheets as it was meant (`csv`). */
const plain = (cell: string): string => cell.replace(/^'(?=[=+\-@\uff0b\uff0d\uff1d\uff20])/, '');

const key = (name: string): string => nameKey(name).toLowerCase();

/** Finds the clip of a line, or says why there is none. */
function finder(clips: readonly Listed[]): (cell: Cell) => Listed | string {
  const byName = new Map<string, Set<Listed>>();
  for (const c of clips)
    for (const name of c.names)
      for (const k of [key(name), key(stemOf(name))]) byName.set(k, (byName.get(k) ?? new Set()).add(c));
  const at = byTime(clips);
  const cards = new Set(clips.map((c) => c.card.toLowerCase()));
  const isOn = (card: string) => (c: Listed) => card === '' || c.card.toLowerCase() === card.toLowerCase();
  return (cell) => {
    const [name, card, from] = [cell('name'), cell('card'), cell('from')];
    if (name === '' && from === '') return 'it names no clip and no timecode';
    if (name === '') {
      if (card !== '' && !cards.has(card.toLowerCase())) return `there is no card ${card}`;
      const there = at(from).filter(isOn(card));
      if (there.length === 1) return there[0]!;
      return there.length === 0 ? `no clip has ${from}` : `${there.length} clips have ${from}`;
    }
    const named = [...(byName.get(key(name)) ?? [])];
    if (named.length === 0) return `no clip is named “${name}”`;
    const onCard = named.filter(isOn(card));
    if (onCard.length === 0) return `${name} is not on card ${card}`;
    if (onCard.length === 1) return onCard[0]!;
    const there = from === '' ? onCard : onCard.filter((c) => frameIn(c, from) !== null);
    if (there.length === 1) return there[0]!;
    return there.length === 0
      ? `none of the ${onCard.length} clips named “${name}” has ${from}`
      : `${there.length} clips are named “${name}”`;
  };
}

/** Seconds by which clips are sorted, to be found by a time. */
const SLOT = 60;

/** Finds the clips that have a timecode: in a list of thousands of lines not every clip is asked each time. */
function byTime(clips: readonly Listed[]): (text: string) => Listed[] {
  const counted = new Map<string, { start: Timecode; slots: Map<number, Listed[]> }>();
  // Behind midnight it begins anew.
  const slots = 86_400 / SLOT;
  const slotOf = (frame: number, r: Rate): number => Math.floor((frame * r.den) / r.num / SLOT) % slots;
  for (const c of clips) {
    if (!c.start || !c.rate || !c.frames) continue;
    const { start } = c;
    const like = `${start.rate.num}/${start.rate.den} ${start.drop}`;
    const of = counted.get(like) ?? { start, slots: new Map<number, Listed[]>() };
    counted.set(like, of);
    const first = slotOf(start.frame, start.rate);
    const many = Math.min(slots, 2 + Math.ceil((c.frames * c.rate.den) / c.rate.num / SLOT));
    for (let i = 0; i < many; i++) {
      const slot = (first + i) % slots;
      const there = of.slots.get(slot);
      if (there) there.push(c);
      else of.slots.set(slot, [c]);
    }
  }
  return (text) =>
    [...counted.values()].flatMap(({ start, slots: of }) => {
      const at = parseTimecode(text, start.rate, { drop: start.drop });
      const there = at ? (of.get(slotOf(at.frame, start.rate)) ?? []) : [];
      return there.filter((c) => frameIn(c, text) !== null);
    });
}

/** How many frames after its first one a timecode is, across midnight; null where that cannot be told. */
function frameAt({ start, rate }: Listed, text: string): number | null {
  const at = start && parseTimecode(text, start.rate, { drop: start.drop });
  if (!at || !rate) return null;
  // Its timecode may count otherwise than its pictures.
  return Math.round((framesBetween(start, at) * rate.num * start.rate.den) / (rate.den * start.rate.num));
}

/** The same of a timecode that is in the clip; null where it is not. */
function frameIn(clip: Listed, text: string): number | null {
  const n = frameAt(clip, text);
  return n !== null && n < (clip.frames ?? 0) ? n : null;
}

/** What a line gives, or why it cannot be given to the clip. */
function givenBy(cell: Cell, clip: Listed | null): Given | string {
  const typed = cell('keywords')
    .split(/[,;|]/)
    .filter((k) => k.trim() !== '');
  const long = [...typed, cell('label') || 'x'].find((k) => tidyName(k) === null);
  if (long !== undefined)
    return `“${long.slice(0, 40)}…” is too long: keywords and names of ranges have up to ${LONGEST_NAME} characters`;
  const words = {
    keywords: [...new Set(typed.map((k) => tidyName(k)!))],
    ...{ scene: cell('scene'), take: cell('take') },
    circled: cell('circled') === '' ? null : /^(?:y|yes|x|1|true|circled|good)$/i.test(cell('circled')),
  };
  const range = clip && cell('from') !== '' ? rangeBy(cell, clip) : null;
  if (typeof range === 'string') return range;
  return range &&
    (range.note !== '' || range.name !== '' || range.kind !== 'note' || words.keywords.length > 0)
    ? { ...words, range, note: '' }
    : { ...words, range: null, note: cell('note') };
}

/** The range that the timecodes of a line name; a kind that nobody gives (a clip as a whole, what was found) is none. */
function rangeBy(cell: Cell, clip: Listed): Given['range'] | string {
  const { data: kind } = GivenKind.safeParse(cell('kind').toLowerCase() || 'note');
  if (kind === undefined) return null;
  const span = (): string =>
    clip.start && clip.frames && clip.rate
      ? `it runs from ${formatTimecode(clip.start)} to ${formatTimecode(addressOf(clip.start, clip.frames - 1, clip.rate))}`
      : 'it has no timecode';
  const from = frameIn(clip, cell('from'));
  if (from === null) return `${cell('from')} is not in ${clip.shown}: ${span()}`;
  const said = { kind, name: cell('label'), note: cell('note') };
  const end = cell('last') || cell('until');
  // The first timecode of a clip names all of it.
  if (end === '') return from === 0 && said.kind === 'note' ? null : { from, to: from + 1, ...said };
  const at = frameAt(clip, end);
  const to = at === null || cell('last') === '' ? at : at + 1;
  if (to === null || to <= from || to > (clip.frames ?? 0))
    return `${end} is not in ${clip.shown} behind ${cell('from')}: ${span()}`;
  return { from, to, ...said };
}
