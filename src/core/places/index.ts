// What other rooms use of this one.
export {
  FileQuery,
  FolderQuery,
  FullPath,
  MovedPlace,
  MovePlace,
  MovePlan,
  NewFolder,
  NewRoot,
  OutsideFolder,
  PlacesView,
  type PlaceView,
  RootChange,
  RootKind,
  RootView,
  ShownPlace,
  type VolumeView,
} from './shapes';
