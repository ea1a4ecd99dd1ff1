// What other rooms use of this one.
export { listRoots, type Root, rootById } from './list';
export { isAway, isStanding, onVolumeOf, requireHere, settleMounts } from './mounts';
export { movePlace, planMove } from './moving';
export { newFolder, outsideFolder, walkable } from './outside';
export { addRoot, changeRoot, ensureRoots, isMovable, removeRoot, rootViews } from './roots';
export { placesView, VolumeWatch } from './volumes';
