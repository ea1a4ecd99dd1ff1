import * as z from 'zod';
import type { NamingClip } from '../clip';

/** What to do where a clip has no value for a block. */
export const Missing = z.enum(['leaveOut', 'word', 'stop']);
export type Missing = z.infer<typeof Missing>;

/** Settings that every block has: how its text is finished before it stands in the name. */
export const Finish = z.object({
  /** What separates it from what is before it; it goes with the block where that is left out, and where nothing is before it. */
  before: z.string().max(8),
  /** Shorter text is filled up to this many characters, in front. */
  width: z.int().min(0).max(40),
  pad: z.string().length(1),
  /** Longer text is cut after this many characters; null for no limit. */
  longest: z.int().min(1).max(120).nullable(),
  letters: z.enum(['asTheyAre', 'upper', 'lower']),
  /** What is in place of spaces; null leaves them. */
  spaces: z.string().max(2).nullable(),
  /** Whether é becomes e. */
  plain: z.boolean(),
  missing: Missing,
  /** The word in place of a value that is missing. */
  word: z.string().max(40),
});
export type Finish = z.infer<typeof Finish>;

export const FINISH: Finish = {
  before: '_',
  width: 0,
  pad: '0',
  longest: null,
  letters: 'asTheyAre',
  spaces: '-',
  plain: false,
  missing: 'leaveOut',
  word: 'none',
};

/** A setting of a block's own, as its editor shows it. */
export type Setting = { key: string; label: string } & (
  | { type: 'text'; most: number; wide?: boolean }
  | { type: 'number'; least: number; most: number }
  | { type: 'choice'; options: readonly (readonly [string, string])[] }
  | { type: 'several'; options: readonly (readonly [string, string])[]; none: string }
  | { type: 'field' }
  | { type: 'keyword'; most: number }
);

/**
 * What a block's text looks like where a name is read back, before it is finished: certain words; at least so many digits behind a prefix,
 * which letters may follow; a mask in which # is a digit and everything else itself; or any text.
 */
export type Form =
  | { as: 'words'; words: string }
  | { as: 'digits'; prefix: string; least: number; lettered: boolean }
  | { as: 'mask'; mask: string }
  | { as: 'text' };

/** What a block is given beside the clip: its position among all, and the text of its number where the block counts, worked out for all before. */
export interface RenderContext {
  at: number;
  counter: (at: number) => string | null;
}

/** What a name that is read back is known to hold. */
export interface KnownOfJob {
  code: string | null;
}

type Own = Record<string, unknown>;

/** One kind of block: its shape, its words, its editor, how it renders and how it is read back. */
export interface BlockModule<K extends string = string, O extends Own = Own> {
  kind: K;
  /** Its name on the board, and what it writes, as a sentence. */
  term: string;
  meaning: string;
  group: 'job' | 'time' | 'camera' | 'clip' | 'person' | 'text';
  own: z.ZodType<O>;
  /** Settings of a new one. */
  fresh: O;
  /** Settings of every block that a new one has otherwise than usual. */
  finish?: Partial<Finish>;
  settings: readonly Setting[];
  /** Fields of facts it needs. */
  fields?: (own: O) => readonly string[];
  /** The text of a clip before it is finished; null where the clip has no value. */
  text: (own: O, clip: NamingClip, context: RenderContext) => string | null;
  /** `known` is what is the same for all clips of the job. */
  form: (own: O, known: KnownOfJob) => Form;
  /** Whether every clip has a value, so that a name cannot be without it. */
  always?: boolean;
  /** Whether its text is checked as it is, and not made to fit file names where it holds what they cannot. */
  verbatim?: boolean;
  /** Why a value is missing, as it is told. */
  lacking: (own: O) => string;
}

/** Fixes the types of a block's settings where it is defined; outside, blocks are all of one type. */
export const defineBlock = <const K extends string, O extends Own>(
  module: BlockModule<K, O>,
): BlockModule<K> => module as unknown as BlockModule<K>;

const ACCENTS = /\p{M}+/gu;
/** Letters that no accent makes and that have a usual spelling in plain letters. */
const SPELT: Record<string, string> = {
  ß: 'ss',
  æ: 'ae',
  Æ: 'AE',
  œ: 'oe',
  Œ: 'OE',
  ø: 'o',
  Ø: 'O',
  đ: 'd',
  Đ: 'D',
  ł: 'l',
  Ł: 'L',
  þ: 'th',
  Þ: 'Th',
  ð: 'd',
};

/** A block's text as it stands in the name. Unless it is verbatim, characters that no name may hold become a dash: a fact may be 1/50. */
export function finish(text: string, f: Finish, verbatim = false): string {
  let out = verbatim ? text : text.normalize('NFC').replace(/[<>:"/\\|?*\u0000-\u001f\u007f]+/gu, '-');
  if (f.plain)
    out = out
      .replace(/[ßæÆœŒøØđĐłŁþÞð]/gu, (c) => SPELT[c]!)
      .normalize('NFD')
      .replace(ACCENTS, '')
      .normalize('NFC');
  if (f.spaces !== null) out = out.trim().replace(/\s+/gu, f.spaces);
  if (f.letters === 'upper') out = out.toUpperCase();
  else if (f.letters === 'lower') out = out.toLowerCase();
  if (f.longest !== null) out = [...out].slice(0, f.longest).join('');
  // By characters: half of one is none.
  const length = [...out].length;
  return length < f.width && out !== '' ? f.pad.repeat(f.width - length) + out : out;
}
