// What other rooms use of this one.
export { CHECK_WORDS, PAIR_WORDS, PairCheck, PairState, pairReason } from './prove';
export { browserPlays } from './recipe';
export { PairView, ProxiesView } from './shapes';
