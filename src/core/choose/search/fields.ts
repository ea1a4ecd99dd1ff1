import { FIELDS, type FieldId } from '../../facts';
import { ClipKind } from '../../intake';
import { PAIR_STATES } from './states';
import type { Op } from './query';

/** How the values of a field are compared. */
export type FieldType =
  'text' | 'number' | 'rate' | 'seconds' | 'bytes' | 'moment' | 'timecode' | 'flag' | 'state' | 'list';

export interface SearchField {
  /** By which it is called in a search: one word. */
  word: string;
  /** The trade's term, for those who pick it. */
  term: string;
  type: FieldType;
  meaning: string;
  /** The words a state can have. */
  states?: readonly string[];
  /** Of the catalogue; null of what is known otherwise. */
  fact: FieldId | null;
}

const own = (
  word: string,
  term: string,
  type: FieldType,
  meaning: string,
  states?: readonly string[],
): SearchField => ({ word, term, type, meaning, fact: null, ...(states && { states }) });

const OWN: readonly SearchField[] = [
  own('name', 'Name', 'text', 'The name the clip is under.'),
  own('card', 'Card', 'text', 'The card it is of.'),
  own('camera', 'Camera', 'text', 'The camera’s label in the job.'),
  own('day', 'Day', 'number', 'The shoot day’s number.'),
  own('kind', 'Kind', 'state', 'Picture, sound, a still, a row of stills.', ClipKind.options),
  own('read', 'Read', 'flag', 'Whether its files could be read.'),
  own('proxy', 'Proxy', 'state', 'Whether a proxy is there.', ['there', 'missing']),
  own('pair', 'Pair', 'state', 'How the pair of original and proxy stands.', PAIR_STATES),
  own('keyword', 'Keyword', 'list', 'A keyword of the clip or of a range of it.'),
  own('bin', 'Bin', 'list', 'A bin it stands in, or one that this stands in.'),
  own('select', 'Selects', 'number', 'How many ranges are kept as selects.'),
  own('reject', 'Rejects', 'number', 'How many ranges are rejected.'),
  own('note', 'Notes', 'list', 'Names and notes of its ranges.'),
  own('finding', 'Findings', 'list', 'What the checks of picture and sound found: black, frozen, silence.'),
  own('used', 'Used in edits', 'list', 'The name of an edit that came back and uses frames of it.'),
  own(
    'rolling',
    'Rolling together',
    'list',
    'What ran at the same time: names of clips, their cameras as “camera B”, and “sound” for a recording of sound.',
  ),
  own('problem', 'Problems', 'list', 'What is to be looked at, in words.'),
];

const TYPES: Partial<Record<(typeof FIELDS)[number]['type'], FieldType>> = {
  text: 'text',
  triple: 'text',
  flag: 'flag',
  moment: 'moment',
  timecode: 'timecode',
  rate: 'rate',
};

const taken = new Set(OWN.map((f) => f.word));

/** Every field a search may ask for: what the job knows of a clip, and the fields of the catalogue. */
export const SEARCH_FIELDS: readonly SearchField[] = [
  ...OWN,
  ...FIELDS.filter((f) => !taken.has(f.id.toLowerCase())).map((f): SearchField => ({
    word: f.id === 'recordedAt' ? 'recorded' : f.id,
    term: f.term,
    type: f.id === 'length' ? 'seconds' : f.id === 'size' ? 'bytes' : (TYPES[f.type] ?? 'number'),
    meaning: f.meaning,
    fact: f.id,
  })),
];

const BY_WORD = new Map(SEARCH_FIELDS.map((f) => [f.word.toLowerCase(), f]));
export const searchField = (word: string): SearchField | null => BY_WORD.get(word.toLowerCase()) ?? null;

const NUMBERS: readonly Op[] = ['is', 'over', 'under', 'from', 'to', 'between', 'with', 'no'];
const WORDS: readonly Op[] = ['is', 'has', 'with', 'no'];
/** The ways in which a type is compared, the usual one first. */
export const OPS: Record<FieldType, readonly Op[]> = {
  text: WORDS,
  list: WORDS,
  state: ['is', 'with', 'no'],
  flag: ['is', 'with', 'no'],
  number: NUMBERS,
  rate: NUMBERS,
  seconds: NUMBERS,
  bytes: NUMBERS,
  timecode: ['is', 'before', 'after', 'from', 'to', 'between', 'with', 'no'],
  moment: ['is', 'before', 'after', 'from', 'to', 'between', 'with', 'no'],
};
