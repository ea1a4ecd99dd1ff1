import * as z from 'zod';
import { ShownPath } from '../platform/names';
import { leaves, orderSteps, type Place, placeKey, Step } from './plan';

/** How the journal beside the footage tells of a plan: its whole intent, before its first step. */
export const JournalPlan = z.object({
  at: z.iso.datetime(),
  plan: z.uuid(),
  kind: z.enum(['name', 'undo']),
  undoes: z.string().nullable(),
  /** Where the places of its steps were on the disk; absent in lines of earlier versions. */
  roots: z.array(z.object({ id: z.string(), path: z.string() })).default([]),
  steps: z.array(Step),
});
export type JournalPlan = z.infer<typeof JournalPlan>;

/** A place where a file was or was led to, and what it was like then. */
export type JournalPlace = Pick<Step, 'size' | 'modified' | 'sample'> & { at: Place };

/** What a plan, and all that undid it, did to a file. */
export interface JournalWay {
  clip: string;
  file: string;
  /** Its first step, to where its last one led. */
  step: Step;
  /** Keys of where it was led, and of where it was before. */
  led: Set<string>;
  before: Set<string>;
}

/**
 * Where the files that plans led away may be, in the order to look. Waiting names come first: nothing else is called so, while a file that has
 * taken the place of another may be as large and as old. Then the places, the last one first.
 */
export function journalPlaces(told: readonly JournalPlan[]): Map<string, JournalPlace[]> {
  const waiting = new Map<string, JournalPlace[]>();
  const settled = new Map<string, JournalPlace[]>();
  for (const { steps } of told)
    for (const [file, way] of waysIn(steps)) {
      const places = settled.get(file) ?? [];
      const [first] = way;
      if (places.length === 0) places.push(placeOf(first!, first!.from));
      places.push(placeOf(first!, way.at(-1)!.to));
      settled.set(file, places);
      waiting.set(file, [...(waiting.get(file) ?? []), ...way.slice(0, -1).map((s) => placeOf(s, s.to))]);
    }
  return new Map(
    [...settled].map(([file, places]) => [file, [...waiting.get(file)!.reverse(), ...places.reverse()]]),
  );
}

const placeOf = ({ size, modified, sample }: Step, at: Place): JournalPlace => ({
  at,
  size,
  modified,
  sample,
});

/** The steps of each file that is led away. What is copied, or given a second name, is not: nothing is removed by the word of a journal. */
function waysIn(steps: readonly Step[]): Map<string, Step[]> {
  const ways = new Map<string, Step[]>();
  for (const s of steps.filter(({ kind }) => leaves(kind)))
    ways.set(s.fileId, [...(ways.get(s.fileId) ?? []), s]);
  return ways;
}

/** The ways of the files that a plan led away, in the order of its steps. */
export function journalWays(told: readonly JournalPlan[], planId: string): JournalWay[] {
  const before = new Map<string, string[]>();
  for (const { plan, steps } of told) {
    const ways = waysIn(steps);
    if (plan !== planId) {
      for (const [file, way] of ways)
        before.set(file, [
          ...(before.get(file) ?? []),
          ...way.flatMap((s) => [placeKey(s.from), placeKey(s.to)]),
        ]);
      continue;
    }
    const undone = told.filter((t) => t.undoes === planId).map((t) => waysIn(t.steps));
    return [...ways].map(([file, way]) => {
      const [first] = way;
      const from = placeKey(first!.from);
      const led = new Set([...way, ...undone.flatMap((u) => u.get(file) ?? [])].map((s) => placeKey(s.to)));
      led.delete(from);
      return {
        clip: first!.clipId,
        file,
        step: { ...first!, to: way.at(-1)!.to },
        led: led.add(placeKey(way.at(-1)!.to)),
        before: new Set([...(before.get(file) ?? []), from]),
      };
    });
  }
  return [];
}

/** The steps that lead files back from where they are, in an order in which none is in the way of another. */
export const stepsBack = (ways: readonly { way: JournalWay; at: Place }[]): Step[] =>
  orderSteps(ways.map(({ way: { step }, at }) => ({ ...step, from: at, to: step.from })));

/** A change of names that only the journal knows, of which something can be taken back. */
export const JournalChange = z.object({
  plan: z.uuid(),
  at: z.iso.datetime(),
  /** Clips that it renamed or moved. */
  clips: z.int(),
  /** Of them, those that can go back. */
  open: z.int(),
  /** Some of their files: where they are, and where they go back to. */
  examples: z.array(z.object({ from: ShownPath, to: ShownPath })).max(3),
  /** Some of the clips that stay, and why. */
  staying: z.array(z.object({ file: ShownPath, why: z.string() })).max(20),
  /** Clips whose files are where they were before. */
  back: z.int(),
});
export type JournalChange = z.infer<typeof JournalChange>;
export const JournalChanges = z.array(JournalChange);

export const JournalUndo = z.object({ plan: z.uuid() });
/** What an undo from the journal did: files that went back, and those that did not. */
export const JournalUndone = z.object({
  files: z.int(),
  failed: z.array(z.object({ file: ShownPath, fault: z.string() })),
});
export type JournalUndone = z.infer<typeof JournalUndone>;
