import * as z from 'zod';
import { ShownPath } from '../platform/names';

const name = z.string().trim().min(1).max(120);

/** What becomes of clips where they are: nothing, put in place under the name that the camera gave, or named and put in place. */
export const NextPlacing = z.enum(['leave', 'place', 'name']);
export type NextPlacing = z.infer<typeof NextPlacing>;

/** What happens with clips by itself after they are taken in. They are read in any case. */
export const NextSteps = z.object({
  placing: NextPlacing.default('leave'),
  /** Whether those that need a proxy get one. */
  proxies: z.boolean().default(false),
  keywords: z.array(name).max(50).default([]),
  /** The names of a bin and of those around it, outermost first; empty for none. */
  bin: z.array(name).max(12).default([]),
});
export type NextSteps = z.infer<typeof NextSteps>;
export const NOTHING_NEXT: NextSteps = NextSteps.parse({});

/** A step that comes after the reading: to put in place, to name and put in place, to make a proxy. */
export const NextStep = z.enum(['place', 'name', 'proxy']);
export type NextStep = z.infer<typeof NextStep>;

/** What is still to happen in a job. */
export const NextView = z.object({
  /** Clips that wait for a step, and what it waits for is under way. */
  waiting: z.array(z.object({ step: NextStep, clips: z.int() })),
  /** Clips at which a step stopped, and why: a person has to look. The first of very many. */
  stopped: z.array(
    z.object({ clip: z.string(), name: ShownPath, card: z.string(), step: NextStep, why: z.string() }),
  ),
  /** How many there are. */
  stops: z.int(),
});
export type NextView = z.infer<typeof NextView>;

/** Steps that stopped: tried once more, or left to the person. Of one clip, or of all. */
export const NextAnswer = z.object({ answer: z.enum(['again', 'leave']), clip: z.string().nullable() });
export type NextAnswer = z.infer<typeof NextAnswer>;

/** The steps that wait until clips are read, in their order. */
export const laterSteps = (next: NextSteps): NextStep[] => [
  ...(next.placing === 'leave' ? [] : [next.placing]),
  ...(next.proxies ? (['proxy'] as const) : []),
];

/** What came of a step for a clip: it is done, its time has not come, or a person has to look and why. */
export type StepOutcome = 'done' | 'later' | { readonly why: string };
/** By clip. */
export type StepOutcomes = ReadonlyMap<string, StepOutcome>;
