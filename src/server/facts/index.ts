// What other rooms use of this one.
export { clocksView, dropClock, openSuspicions, setClock } from './clocks';
export { extract } from './extract';
export { correctClips, factTable, sideBySide, statedView } from './facts';
export { dropFieldSet, fieldSetsView, importFieldSets, saveFieldSet } from './fieldSets';
export { contextsOf, readClips, readRestOfClips, showMissing, stateOf } from './readClips';
export { changeSettings } from './settings';
