import { PairState } from '../../proxies';

/** How pairs stand, as they are searched for. */
export const PAIR_STATES = PairState.options;
/** States in which there is no proxy to be cut with. */
export const WITHOUT_PROXY: readonly string[] = ['none', 'missing', 'waiting', 'lost'];
