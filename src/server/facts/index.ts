// What other rooms use of this one.
export { clocksView, dropClock, openSuspicions, setClock } from './clocks';
export { extract, factsAsCsv } from './extract';
export { chosenWords } from './chosenWords';
export { correctClips, type SaidChange, sayOfClips, undoSaid } from './correct';
export { sideBySide, statedView } from './facts';
export { dropFieldSet, fieldSetsView, importFieldSets, saveFieldSet } from './fieldSets';
export { readClips, readRestOfClips, stateOf } from './readClips';
export { changeSettings } from './settings';
export { factIds, factLines, factPage, factSums } from './table';
export { unreadClips } from './unread';
export { allUpToDate, contextOf, contextsOf, forgetFacts, ofFiles, upToDate, workOutAll } from './workOut';
