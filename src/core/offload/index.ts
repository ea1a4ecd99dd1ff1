// What other rooms use of this one.
export { DEFAULT_PATTERN, PATTERN_WORDS, cardFolder, patternFault } from './pattern';
export {
  NewOffload,
  OffloadAction,
  OffloadDestination,
  OffloadDetail,
  OffloadProgress,
  OffloadState,
  OffloadView,
  UNDER_WAY,
  isUnderWay,
} from './shapes';
export { Faults, StandInAction, StandInsView } from './standIns';
export { VERIFICATION_WORDS, Verification, copySeconds } from './verification';
