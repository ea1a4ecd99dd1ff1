// What other rooms use of this one.
export { addCameras } from './cameras';
export { addWork } from './addWork';
export { awayOf } from './away';
export { beingCopied } from './copying';
export { clipFile, clipFootage, originalOf, soundsOf, withFile } from './clipFiles';
export { clipName, clipStem, splitPath } from './clipName';
export {
  type Everything,
  LISTED,
  clipView,
  clipViews,
  everything,
  inOrder,
  needFactsOf,
  pairStates,
  standsInEdit,
  viewsOf,
} from './clipViews';
export { type FileRow, byClip } from './families';
export { missingNumbers } from './missingNumbers';
export { placeOf } from './onCard';
export type { Listing } from './ports';
export { type Presence, presenceIn, presenceOf } from './presence';
export { type LookedAt, recogniseFolder, recogniseNames } from './recogniseFolder';
export { grouped, isRead, saidOf, statementsOf } from './statements';
export { cardOfClip, cardsOf, clipsOf, isCard } from './ofJob';
export { cannotBeRead, forgetCards, forgetClips, hasFilmstrip, moveToCard, nameCard } from './clips';
export {
  cardStandsAt,
  changedOnDisk,
  completePlaces,
  forgetFile,
  placesOf,
  sampledAs,
  standElsewhere,
  standInCopies,
  standsAt,
  standsNew,
} from './standing';
