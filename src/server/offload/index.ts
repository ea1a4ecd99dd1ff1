// What other rooms use of this one.
export { clipsBeingCopied, forgetCopyings } from './fileList';
export { type NameCopied } from './finish';
export { actOnOffload } from './act';
export { beginOffload } from './begin';
export { offloadDetail, offloadViews } from './views';
export { CopyMeter } from './copyMeter';
export { copying, queueCopies } from './copyCard';
