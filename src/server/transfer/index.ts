// What other rooms use of this one.
export { type FoundFile, type Recorded, checkFolder, checkRecorded } from './checkCopy';
export { copyVerified, removeCopy } from './copyOne';
export { ListedEntries } from './entries';
export { batches, destinationDown, inLanes } from './lanes';
export { addGeneration, copyFiles, endThreads, warmThreads } from './pool';
export {
  CHANGED,
  DIFFERS,
  type FileOutcome,
  type OpenSource,
  type OpenTarget,
  STOPPED,
  type TaskFile,
} from './task';
