// What other rooms use of this one.
export {
  type CardWords,
  DEFAULT_PATTERN,
  PATTERN_WORDS,
  cardFolder,
  filledPattern,
  incomingFolder,
  patternFault,
  plainPart,
  wordsFault,
} from './pattern';
export {
  MOST_SAFE,
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
