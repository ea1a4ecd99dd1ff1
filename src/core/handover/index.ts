// What other rooms use of this one.
export { Held, HELD_FIELDS, HELD_WORDS, heldOriginal, knownStart } from './held';
export { rewrapWithTimecode } from './mend';
export { countWays, Finding, Mend, type Rehearsed, rehearse, Verdict, VERDICT_WORDS } from './rehearsal';
export { Mended, MendRequest, RehearsalQuery, RehearsalView } from './shapes';
export { Tried, Way, WAY_WORDS, WAYS } from './ways';
