// What other rooms use of this one.
export { CHECK_WORDS, PAIR_WORDS, PairCheck, PairState, pairReason } from './prove';
export { browserPlays } from './recipe';
export { MakeProxies, PairView, ProxiesView } from './shapes';
