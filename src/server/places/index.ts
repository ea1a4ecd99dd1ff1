// What other rooms use of this one.
export { listRoots, type Root, rootById } from './list';
export { settleMounts } from './mounts';
export { addRoot, ensureRoots, isMovable, removeRoot, rootViews } from './roots';
