// What other rooms use of this one.
export { useWatches } from './useWatches';
export { Watched } from './Watched';
export { WatchThis } from './WatchThis';
