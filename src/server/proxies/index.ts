// What other rooms use of this one.
export { adopt, lookForProxies } from './adopt';
export { actOnPair } from './actOnPair';
export { actOnWork } from './actOnWork';
export { dropRecipe, importRecipes, keepRecipe, recipesView } from './library';
export { clearHalfMade, makeOneProxy } from './makeProxies';
export { imageSource, type ImageSource, makeImages } from './images';
export { proxyPlace } from './place';
export { proxiesNext } from './proxiesNext';
export { provePairs, provePairsOf } from './provePairs';
export { makeByItself, proxyKeeper } from './byItself';
export { proxiesView, workSummary } from './views';
export { varies } from './source';
export { watchClips } from './watchClips';
export { tryRecipe } from './tryRecipe';
export { watchAllPairs, watchPairs } from './watchPairs';
export { lookForLost, takeFound } from './findLost';
