// What other rooms use of this one.
export { CardScreen } from './CardScreen';
export { ClipSet, type SetView } from './ClipSet';
export { Drawer } from './Drawer';
export { type Film } from './useFilm';
export { useFetchFound, useFound } from './useTiles';
export { timeOfFrame, watchFrames } from './watchFrames';
