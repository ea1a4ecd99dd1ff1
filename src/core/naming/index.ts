// What other rooms use of this one.
export { ALL_SYSTEMS, checkName } from './check';
export { Convention, DEFAULT_CONVENTION, DEFAULT_FOLDER_PLAN, FolderPlan, NamingMore } from './convention';
export { ConventionFile, Kept, KeptView } from './library';
export { SkeletonRequest, SkeletonView } from './skeleton';
export { type JournalChange, JournalChanges, JournalUndo, JournalUndone } from './journal';
export { Place, Step, StepKind } from './plan';
export {
  ApplyRequest,
  ChangedClip,
  type Coming,
  ComingClips,
  ComingRequest,
  NamingData,
  NamingPreview,
  NamingRequest,
  namingRequest,
  PlanDetail,
  PlanResult,
  PlanState,
  StandingQuery,
  StepState,
  UndoRequest,
  WayBack,
} from './shapes';
