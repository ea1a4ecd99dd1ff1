// What other rooms use of this one.
export { browse } from './browse';
export { glance } from './glance';
export { alreadyIn, firstLook, isSameFile, look, suggestedPlace } from './look';
export { factsOf, playable, stripOf } from './lookAtFile';
export { readAgain, scanClips } from './scanClips';
export { addMembers, checkChoices, forgetCard, storeCard, takeIn } from './takeIn';
