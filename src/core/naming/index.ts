// What other rooms use of this one.
export { Convention, DEFAULT_CONVENTION, DEFAULT_FOLDER_PLAN, FolderPlan } from './convention';
export { Place, Step, StepKind } from './plan';
export {
  ApplyRequest,
  NamingPreview,
  NamingRequest,
  PlanDetail,
  PlanResult,
  PlanState,
  StepState,
} from './shapes';
