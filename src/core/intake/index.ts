// What other rooms use of this one.
export { cameraNumber, counterGaps, counterTurns } from './counter';
export {
  type AsideFile,
  type Family,
  type FamilyMember,
  type FoundEntry,
  type RecogniseOptions,
  type Recognised,
  type RecognisedCard,
  recognise,
} from './recognise';
export { isAttributes, isOfSystem } from './housekeeping';
export { ofClips } from './ofClips';
export { DEFAULT_INTAKE, FILE_TYPE_WORDS, FileType, IntakeRules, isRawStill } from './rules';
export { type TakeEvidence } from './segments';
export {
  CardShape,
  ClipKind,
  FileRole,
  type FileTypes,
  KIND_WORDS,
  ROLE_WORDS,
  SHAPES,
  MADE_ROLES,
  isMade,
  mayStand,
  extensionOf,
  isMoving,
  isRecording,
  typeOf,
} from './shape';
export {
  CardChoice,
  FirstLook,
  FolderView,
  LookQuery,
  Looked,
  LookedFacts,
  PlaceGlance,
  TakeIn,
} from './shapes';
