// What other rooms use of this one.
export { clipsBeingCopied } from './fileList';
export { type NameCopied } from './finish';
export { actOnOffload, beginOffload, offloadDetail, offloadViews } from './offload';
export { Offloads } from './offloads';
