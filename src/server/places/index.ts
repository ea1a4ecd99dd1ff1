// What other rooms use of this one.
export {
  type Root,
  addRoot,
  ensureRoots,
  isMovable,
  listRoots,
  removeRoot,
  rootById,
  rootViews,
} from './roots';
