import * as z from 'zod';
import { formatTimecode, sameAddress, type Timecode } from '../platform/timecode/timecode';
import { plural } from '../platform/words';
import type { PairState } from '../proxies';
import { Held, HELD_WORDS } from './held';
import { Originals, Tried, tryWay, type Way, WAYS } from './ways';

/** A clip as the edit will hold it and as the finishing side does. */
export interface Rehearsed {
  clip: string;
  /** What an editing program is given: the proxy, or what stands for it. */
  edit: Held;
  /** What the finishing side holds: the original, or the rewrap that gave it its timecode back. */
  original: Held;
  /** The timecode it really begins at, by all that is known of it; null where nothing tells. */
  start: Timecode | null;
  /** How comparing the pictures of the two came out, where the edit is given another file; null where it is given the same. */
  pair: { state: PairState; reason: string } | null;
}

export const Verdict = z.enum(['connects', 'several', 'fails']);
export type Verdict = z.infer<typeof Verdict>;
export const VERDICT_WORDS: Record<Verdict, string> = {
  connects: 'connects',
  several: 'connects to more than one',
  fails: 'will not connect',
};

/**
 * What mends it: `rewrap` gives the original its timecode back, in a file beside it; `again` makes the proxy anew from the original;
 * `name` gives it a name that no other has; `look` finds out what its proxy states.
 */
export const Mend = z.enum(['rewrap', 'again', 'name', 'look']);
export type Mend = z.infer<typeof Mend>;

export const Finding = z.object({
  clip: z.string(),
  edit: Held,
  original: Held,
  verdict: Verdict,
  /** In the order of `WAYS`. */
  ways: z.array(Tried),
  /** What should be known of it besides, in sentences. */
  notes: z.array(z.string()),
  /** What can be done about it; the first is what does most. */
  mends: z.array(Mend),
});
export type Finding = z.infer<typeof Finding>;

/** Tries every way for every clip. */
export function rehearse(clips: readonly Rehearsed[]): Finding[] {
  const originals = new Originals(clips.map((c) => ({ clip: c.clip, held: c.original })));
  return clips.map((c) => {
    const ways = WAYS.map((way) => seen(c, tryWay(way, c.clip, c.edit, originals)));
    const verdict = verdictOf(ways);
    return {
      ...{ clip: c.clip, edit: c.edit, original: c.original, verdict, ways },
      notes: notesOf(c),
      mends: mendsOf(c, verdict, ways),
    };
  });
}

/** A way finds the right file by its figures; where that was seen to show something else, its frames are not the same. */
function seen({ pair }: Rehearsed, tried: Tried): Tried {
  return tried.result === 'connects' && pair?.state === 'mismatched'
    ? { ...tried, result: 'apart', why: `the pair does not match: ${pair.reason}` }
    : tried;
}

const verdictOf = (ways: readonly Tried[]): Verdict =>
  ways.some((w) => w.result === 'connects')
    ? 'connects'
    : ways.some((w) => w.result === 'several')
      ? 'several'
      : 'fails';

/** Whether the finishing side's file begins elsewhere than the clip is known to: its timecode was lost on the way. */
const hasLostTimecode = ({ original, start }: Rehearsed): boolean =>
  start !== null && start.frame > 0 && !(original.start && sameAddress(original.start, start));

function notesOf(c: Rehearsed): string[] {
  const notes: string[] = [];
  const { edit, original } = c;
  if (hasLostTimecode(c))
    notes.push(
      `The ${HELD_WORDS[original.what]} ${original.start ? `says ${formatTimecode(original.start)}` : 'states no timecode'}, though it was recorded from ${formatTimecode(c.start!)} on.`,
    );
  if (edit.channels !== null && original.channels !== null && edit.channels !== original.channels)
    notes.push(
      `The ${HELD_WORDS[edit.what]} has ${plural(edit.channels, 'audio channel')}, the ${HELD_WORDS[original.what]} ${original.channels}.`,
    );
  if (isBeside(edit) && isUnknown(edit))
    notes.push(`What the ${HELD_WORDS[edit.what]} states is not known yet.`);
  else if (c.pair?.state === 'unproven')
    notes.push(
      `That its pictures are the original’s is not proven: ${c.pair.reason || 'it was not checked'}.`,
    );
  return notes;
}

/** Whether a file is another than the finishing side may hold. */
const isBeside = ({ what }: Held): boolean => what !== 'original' && what !== 'rewrap';

const isUnknown = ({ rate, frames }: Held): boolean => rate === null || frames === null;

function mendsOf(c: Rehearsed, verdict: Verdict, ways: readonly Tried[]): Mend[] {
  const { edit } = c;
  if (isBeside(edit) && isUnknown(edit)) return ['look'];
  const mends: Mend[] = [];
  if (hasLostTimecode(c)) mends.push('rewrap');
  if (verdict === 'connects') return mends;
  const has = (result: Tried['result'], ...of: Way[]) =>
    ways.some((w) => w.result === result && of.includes(w.way));
  if (has('several', 'name', 'stem') || has('other', 'name', 'stem')) mends.push('name');
  // A file whose frames are others than the original's, whatever it is called; or one that is called otherwise.
  else if (isBeside(edit) && !mends.includes('rewrap')) mends.push('again');
  return mends;
}

/** How many clips each way connects, and how it goes with the others. */
export interface WayCount {
  way: Way;
  counts: Record<Tried['result'], number>;
}

export function countWays(findings: readonly Finding[]): WayCount[] {
  return WAYS.map((way, i) => {
    const counts: WayCount['counts'] = { connects: 0, several: 0, other: 0, apart: 0, none: 0 };
    for (const f of findings) counts[f.ways[i]!.result]++;
    return { way, counts };
  });
}
