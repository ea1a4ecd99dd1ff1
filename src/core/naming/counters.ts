import { cameraNumber } from '../intake';
import { formatRate } from '../platform/timecode/rate';
import type { Counter, CounterScope } from './blocks/counter';
import { byCameraName, byRecording, byTimecode, type NamingClip } from './clip';

/** A number that an applied plan gave: it belongs to its clip. */
export interface GivenNumber {
  clipId: string;
  /** What the counter was counting within (`seriesOf`). */
  series: string;
  number: number;
  /** Of clips that came late and took a letter: "a", "b" …, else "". */
  letter: string;
}

/** A number that no clip of a series has, and why. */
export interface Gap {
  series: string;
  number: number;
  reason: 'notTaken' | 'removed' | 'missing' | 'leftOut';
}
export const GAP_WORDS: Record<Gap['reason'], string> = {
  notTaken: 'the clip was not taken from the card',
  removed: 'its clip was removed from the job',
  missing: 'the clip is missing on the card',
  leftOut: 'the clip was left out, or renamed otherwise, when this number was its',
};

export interface CountContext {
  given: readonly GivenNumber[];
  /** Folder a clip goes to; for counters that start again for each. */
  folderOf: (clip: NamingClip) => string;
  /** Camera names that were on a card and were not taken in. */
  notTaken: (card: string, name: string) => boolean;
  /** Whether a clip is still in the job. */
  exists: (clipId: string) => boolean;
}

/** The number a clip's present name says it has; null where it says none. */
export type NumberInName = (clip: NamingClip) => Pick<GivenNumber, 'number' | 'letter'> | null;

const KEYS: Record<CounterScope, (c: NamingClip, context: CountContext) => string> = {
  day: (c) => `day ${c.day ?? '?'}`,
  camera: (c) => `camera ${c.camera}`,
  card: (c) => `card ${c.card}`,
  folder: (c, { folderOf }) => `folder ${folderOf(c)}`,
  rate: (c) => `rate ${c.rate ? formatRate(c.rate) : '?'}`,
};
const SCOPES = Object.keys(KEYS) as CounterScope[];

/**
 * What clips are counted within, as words: "day 2, camera B"; "job" where the counter runs through. Of several counters that start again for
 * the same, those after the first have series of their own: "job, counter 2".
 */
function seriesOf(counter: Counter, context: CountContext, nth: number): (clip: NamingClip) => string {
  const keys = SCOPES.filter((s) => counter.per.includes(s)).map((s) => KEYS[s]);
  return (clip) => {
    let words = '';
    for (const key of keys) words += words === '' ? key(clip, context) : `, ${key(clip, context)}`;
    return (words || 'job') + (nth === 1 ? '' : `, counter ${nth}`);
  };
}

const ORDERS = { recorded: byRecording, timecode: byTimecode, cameraName: byCameraName };

export interface Counted {
  /** The numbers of the clips with their digits and letters, as they are written, in the order the clips were given. */
  texts: string[];
  numbers: GivenNumber[];
  gaps: Gap[];
}

/**
 * Numbers clips. Give all clips of the job that the counter is for: a clip's number depends on the others'. A number that was
 * given stays, unless all are numbered anew. Clips that come later take a number that is free at their place in the order; else they go on
 * after the highest that was ever given, or take the number before them with a letter. Numbers outgrow their digits rather than repeat.
 * `nth` tells counters of one name apart that start again for the same.
 */
export function count(
  counter: Counter,
  clips: readonly NamingClip[],
  context: CountContext,
  inName: NumberInName = () => null,
  nth = 1,
): Counted {
  const series = new Map<string, number[]>();
  const seriesOfClip = seriesOf(counter, context, nth);
  clips.forEach((clip, at) => {
    const key = seriesOfClip(clip);
    const list = series.get(key);
    if (list) list.push(at);
    else series.set(key, [at]);
  });
  const given = new Map<string, GivenNumber[]>();
  if (counter.late !== 'renumber')
    for (const g of context.given) {
      const list = given.get(g.series);
      if (list) list.push(g);
      else given.set(g.series, [g]);
    }
  const out: Counted = { texts: new Array<string>(clips.length), numbers: [], gaps: [] };
  const order = ORDERS[counter.orderBy];
  for (const [key, places] of series) {
    places.sort((a, b) => order(clips[a]!, clips[b]!));
    const list = places.map((at) => clips[at]!);
    const known =
      given.get(key) ?? (counter.late === 'renumber' ? [] : fromNames(counter, key, list, inName));
    const { numbers, gaps } = countSeries(counter, key, list, known, context);
    numbers.forEach((n, i) => {
      out.numbers.push(n);
      out.texts[places[i]!] = String(n.number).padStart(counter.digits, '0') + n.letter;
    });
    out.gaps.push(...gaps);
  }
  return out;
}

/**
 * Numbers of a series of which no plan is known, as after the database was lost: those the names have. Only where they begin with the
 * first and none is there twice; otherwise they were counted in another way.
 */
function fromNames(
  counter: Counter,
  series: string,
  clips: readonly NamingClip[],
  inName: NumberInName,
): GivenNumber[] {
  const found = clips.flatMap((c): GivenNumber[] => {
    const number = c.current === c.original ? null : inName(c);
    return number ? [{ clipId: c.id, series, ...number }] : [];
  });
  const once = new Set(found.map((f) => `${f.number}${f.letter}`)).size === found.length;
  return once && found.some((f) => f.number === counter.start) ? found : [];
}

/** Numbers of the clips of a series, in their order. */
function countSeries(
  counter: Counter,
  series: string,
  clips: readonly NamingClip[],
  given: readonly GivenNumber[],
  context: CountContext,
): { numbers: GivenNumber[]; gaps: Gap[] } {
  const numbers: GivenNumber[] = [];
  const own = new Map(given.map((g) => [g.clipId, g]));
  let next = given.reduce((n, g) => Math.max(n, g.number + counter.step), counter.start);
  /** Of the last clip in order that has a number of its own: late ones before the next take it with a letter. */
  let before = counter.start - counter.step;
  const letters = new Map<number, number>();
  for (const g of given)
    if (g.letter !== '') letters.set(g.number, Math.max(letters.get(g.number) ?? 0, ofLetters(g.letter)));
  const lastGiven = clips.findLastIndex((c) => own.has(c.id));
  const taken = new Set(given.map((g) => g.number));
  const behind = numbersBehind(clips, own);
  clips.forEach((clip, i) => {
    const kept = own.get(clip.id);
    if (kept) {
      numbers.push(kept);
      if (kept.letter === '') before = kept.number;
      return;
    }
    // A number that is free at its place in the order is its own: it was left out, or missing, when the others got theirs.
    const missing = counter.gaps === 'kept' ? missingBetween(clips[i - 1], clip).length : 0;
    let free = before + counter.step * (1 + missing);
    while (free < behind[i]! && taken.has(free)) free += counter.step;
    if (behind[i] !== Infinity && free < behind[i]!) {
      numbers.push({ clipId: clip.id, series, number: free, letter: '' });
      before = free;
      return;
    }
    if (counter.late === 'letters' && i < lastGiven && before >= 0) {
      const nth = (letters.get(before) ?? 0) + 1;
      letters.set(before, nth);
      numbers.push({ clipId: clip.id, series, number: before, letter: toLetters(nth) });
      return;
    }
    next += counter.step * missing;
    numbers.push({ clipId: clip.id, series, number: next, letter: '' });
    next += counter.step;
  });
  return { numbers, gaps: gapsOf(counter, series, clips, numbers, given, context) };
}

/** Of each clip the number of the next one in order that was given one; infinite where none was. */
function numbersBehind(clips: readonly NamingClip[], own: ReadonlyMap<string, GivenNumber>): number[] {
  const behind = new Array<number>(clips.length);
  let next = Infinity;
  for (let i = clips.length - 1; i >= 0; i--) {
    behind[i] = next;
    const kept = own.get(clips[i]!.id);
    if (kept?.letter === '') next = kept.number;
  }
  return behind;
}

/** No more of a series are told. */
const MOST_GAPS = 1000;

/** Numbers from the start to the highest that no clip has, with the reason. */
function gapsOf(
  counter: Counter,
  series: string,
  clips: readonly NamingClip[],
  numbers: readonly GivenNumber[],
  given: readonly GivenNumber[],
  context: CountContext,
): Gap[] {
  const gaps: Gap[] = [];
  const removed = new Set(given.filter((g) => !context.exists(g.clipId)).map((g) => g.number));
  const taken = numbers
    .map(({ number, letter }, i) => ({ number, letter, clip: clips[i]! }))
    .filter((n) => n.letter === '')
    .sort((a, b) => a.number - b.number);
  let [last, lastClip]: [number, NamingClip | undefined] = [counter.start - counter.step, undefined];
  for (const { number, clip } of taken) {
    const missing = number > last + counter.step ? missingBetween(lastClip, clip) : [];
    for (
      let hole = last + counter.step, i = 0;
      hole < number && gaps.length < MOST_GAPS;
      hole += counter.step, i++
    ) {
      const name = missing[i];
      gaps.push({
        series,
        number: hole,
        reason: removed.has(hole)
          ? 'removed'
          : name === undefined
            ? 'leftOut'
            : context.notTaken(clip.card, name)
              ? 'notTaken'
              : 'missing',
      });
    }
    [last, lastClip] = [number, clip];
  }
  return gaps;
}

/** Camera names that the camera's own counter left out between two clips of a card that follow each other. */
function missingBetween(a: NamingClip | undefined, b: NamingClip): string[] {
  if (!a || a.card !== b.card) return [];
  const [from, to] = [cameraNumber(a.original), cameraNumber(b.original)];
  if (!from || !to || from.before !== to.before || from.after !== to.after) return [];
  const missing = to.value - from.value - 1;
  // As where gaps of a card are told: a longer step is a new start.
  if (missing < 1 || missing > 500) return [];
  return Array.from(
    { length: missing },
    (_, i) => from.before + String(from.value + 1 + i).padStart(from.digits.length, '0') + from.after,
  );
}

/** 1 is a, 26 is z, 27 is aa. */
function toLetters(n: number): string {
  let out = '';
  for (let left = n; left > 0; left = Math.floor((left - 1) / 26))
    out = String.fromCharCode(97 + ((left - 1) % 26)) + out;
  return out;
}
const ofLetters = (letters: string): number =>
  [...letters].reduce((n, c) => n * 26 + c.charCodeAt(0) - 96, 0);
