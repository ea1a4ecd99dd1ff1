import { moduleOf, newBlock, type Block } from './blocks';
import { finish } from './blocks/block';
import type { Counter, CounterScope } from './blocks/counter';
import { ALL_SYSTEMS } from './check';
import type { NamingClip } from './clip';
import { count, type CountContext } from './counters';
import { type Convention, DEFAULT_FOLDER_PLAN } from './convention';
import { renderNames } from './render';

/** A convention that names in use seem to follow, and how many of them do. */
export interface Suggestion {
  convention: Convention;
  follow: number;
  of: number;
}

/** Names are taken apart at these, the first that makes sense of them. */
const SEPARATORS = [/(_{1,8})/u, /(-{1,8})/u, /( {1,8})/u, /(\.{1,8})/u, /([_-]{1,8})/u, /([_. -]{1,8})/u];
/** Names that are looked at. */
const MOST = 2000;
/** How many of the names have to fit a block, and all of a convention. */
const [MOSTLY, HALF] = [0.9, 0.5];

const CONTEXT: CountContext = {
  given: [],
  folderOf: () => '',
  notTaken: () => false,
  exists: () => true,
};

/**
 * A convention for clips that were named before, by Sort Shelf or by hand; null where their names have no common form. Parts of the names
 * are held against what every kind of block would write for their clips.
 */
export function suggestConvention(clips: readonly NamingClip[]): Suggestion | null {
  const named = clips.filter((c) => c.current !== c.original).slice(0, MOST);
  if (named.length < 2) return null;
  let best: Suggestion | null = null;
  for (const separator of SEPARATORS) {
    const blocks = blocksOf(named, separator);
    if (!blocks) continue;
    const convention: Convention = { name: 'As the names in use', blocks, changes: [] };
    // Numbers are counted among all clips, and not read from the names.
    const fresh = named.map((c) => ({ ...c, current: c.original }));
    const { names } = renderNames(convention, DEFAULT_FOLDER_PLAN, fresh, {
      ...CONTEXT,
      systems: ALL_SYSTEMS,
    });
    const follow = names.filter((n, i) => n.stem === named[i]!.current).length;
    if (follow > (best?.follow ?? named.length * HALF)) best = { convention, follow, of: named.length };
    if (follow === named.length) break;
  }
  return best;
}

function blocksOf(clips: readonly NamingClip[], separator: RegExp): Block[] | null {
  const apart = clips.map((c) => c.current.split(separator));
  const parts = mostly(apart.map((a) => a.length));
  if (parts === null) return null;
  const same = clips.filter((_, i) => apart[i]!.length === parts);
  const texts = apart.filter((a) => a.length === parts);
  const blocks: Block[] = [];
  for (let at = 0; at < parts; at += 2) {
    const block = blockFor(
      same,
      texts.map((t) => t[at]!),
      `b${at / 2 + 1}`,
    );
    const before = at === 0 ? '' : mostly(texts.map((t) => t[at - 1]!));
    if (!block || before === null) return null;
    blocks.push({ ...block, before });
  }
  return blocks;
}

/** The value most have; null where none has most. */
function mostly<T>(values: readonly T[]): T | null {
  const times = new Map<T, number>();
  for (const v of values) times.set(v, (times.get(v) ?? 0) + 1);
  for (const [value, n] of times) if (n >= values.length * MOSTLY) return value;
  return null;
}

/** The block that writes these texts for the clips. */
function blockFor(clips: readonly NamingClip[], texts: readonly string[], id: string): Block | null {
  const enough = (right: number): boolean => right >= clips.length * MOSTLY;
  for (const block of candidates(texts[0]!, id)) {
    const { text } = moduleOf(block.kind);
    const context = { at: 0, counter: () => null };
    const wrote = (clip: NamingClip): string | null => {
      const own = text(block.own, clip, context);
      return own === null ? null : finish(own, block, moduleOf(block.kind).verbatim);
    };
    if (enough(clips.filter((c, i) => wrote(c) === texts[i]).length)) return block;
  }
  const word = mostly(texts);
  return counterFor(clips, texts, id) ?? (word === null ? null : newBlock('words', id, { text: word }));
}

/** Blocks of every kind that could have written a text, the likeliest first. */
function candidates(text: string, id: string): Block[] {
  const [, prefix = '', digits = ''] = /^(\D{0,8})(\d{1,3})$/u.exec(text) ?? [];
  const [, suffix = ''] = /^\d+(\D{0,8})$/u.exec(text) ?? [];
  const dates = ['YYYYMMDD', 'YYMMDD', 'YYYY-MM-DD', 'MMDD'];
  return [
    newBlock('job', id),
    newBlock('card', id),
    newBlock('camera', id),
    newBlock('camera', id, { part: 'name' }),
    ...(digits === '' ? [] : [newBlock('day', id, { prefix, digits: digits.length })]),
    ...(['day', 'recording'] as const).flatMap((of) =>
      dates.map((format) => newBlock('date', id, { of, format })),
    ),
    ...['hhmmss', 'hhmm', 'hh-mm-ss'].map((format) => newBlock('time', id, { format })),
    newBlock('rate', id, { suffix }),
    ...['both', 'rows', 'columns'].map((write) => newBlock('size', id, { write })),
    ...(['scene', 'take', 'place', 'shooter', 'codec', 'gamma', 'look'] as const).map((kind) =>
      newBlock(kind, id),
    ),
    ...['name', 'number', 'beforeNumber'].map((part) => newBlock('original', id, { part })),
  ];
}

const SCOPES: CounterScope[][] = [
  ['day', 'camera'],
  ['card'],
  [],
  ['day'],
  ['camera'],
  ['rate'],
  ['day', 'card'],
];

/** A counter that gives the clips these numbers, or else one under which no two of them are the same. */
function counterFor(clips: readonly NamingClip[], texts: readonly string[], id: string): Block | null {
  if (!texts.every((t) => /^\d{1,6}$/u.test(t))) return null;
  const digits = Math.min(...texts.map((t) => t.length));
  const start = Math.min(...texts.map(Number));
  const fresh = clips.map((c) => ({ ...c, current: c.original }));
  let apart: Block | null = null;
  for (const per of SCOPES)
    for (const orderBy of ['recorded', 'cameraName', 'timecode']) {
      const block = newBlock('counter', id, { per, digits, start, orderBy });
      const { texts: counted, numbers } = count(block.own as Counter, fresh, CONTEXT);
      if (counted.filter((t, i) => t === texts[i]).length >= clips.length * MOSTLY) return block;
      const series = new Map(numbers.map((n) => [n.clipId, n.series]));
      const once = new Set(clips.map((c, i) => `${series.get(c.id)} ${texts[i]}`)).size === clips.length;
      if (once) apart ??= block;
    }
  return apart;
}
