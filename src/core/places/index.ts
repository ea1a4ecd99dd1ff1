// What other rooms use of this one.
export { FileQuery, FolderQuery, NewRoot, RootKind, RootView, ShownPlace } from './shapes';
