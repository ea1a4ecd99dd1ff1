// What other rooms use of this one.
export { LookRules } from './LookRules';
export { NextChoice } from './NextChoice';
export { NextList, useNext } from './NextList';
export { useWatches } from './useWatches';
export { Watched } from './Watched';
export { WatchThis } from './WatchThis';
