// What other rooms use of this one.
export { Convention, DEFAULT_CONVENTION, DEFAULT_FOLDER_PLAN, FolderPlan, NamingMore } from './convention';
export { ConventionFile, Kept, KeptView } from './library';
export { Place, Step, StepKind } from './plan';
export {
  ApplyRequest,
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
