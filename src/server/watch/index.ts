// What other rooms use of this one.
export { WatchKeeper } from './keeper';
export {
  dropWatch,
  forgetWatches,
  lookNow,
  readFinds,
  setWatch,
  watchesBelow,
  watchFolder,
  watchViews,
} from './watching';
