// What other rooms use of this one.
export {
  isLeftOut,
  NewWatch,
  ReadFinds,
  WatchedBy,
  type WatchFind,
  WatchOptions,
  WatchView,
  WatchViews,
} from './shapes';
export { type Seen, STILL, Stillness } from './stillness';
