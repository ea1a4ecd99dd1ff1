// What other rooms use of this one.
export { browserPlays } from './browser';
export { AT_ONCE } from './foreseen';
export { DEFAULT_PROXIES, isInterFrame, type NeedFacts, needsProxy, ProxyRules } from './need';
export { IMAGE_DIGITS, IMAGE_EXTENSION, type ImageAbout, imageBytes, ImageKind, imageTail } from './images';
export { type KeyFrame, partFault, withHandles } from './part';
export {
  isToBeProven,
  CHECK_WORDS,
  PAIR_WORDS,
  PairCheck,
  PairState,
  pairReason,
  type Proof,
  statedByProxy,
} from './prove';
export { isInterlaced } from './source';
export { fixedFolder, type Followed, LIGHT, READY_RECIPES, Recipe, RecipeFile, RecipesView } from './recipe';
export {
  Adopt,
  AdoptionView,
  AdoptSearch,
  LostView,
  MakeRequest,
  PairAction,
  PairView,
  Part,
  ProxiesView,
  TakeFound,
  TakenFound,
  Trial,
  TryRecipe,
  Compared,
  WatchedThrough,
  comparedInWords,
} from './shapes';
