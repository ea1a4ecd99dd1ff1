// What other rooms use of this one.
export { type Cannot, sameTime } from './manifest';
export { type CheckedFile, type CopyReading, type FileHash, checkFile } from './proof';
export { receiptPage } from './receipt';
export { CheckFolder, CheckReport, WipeView } from './shapes';
export { VERDICT_WORDS } from './wipe';
