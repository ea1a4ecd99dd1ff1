// What other rooms use of this one.
export { CopyList } from './CopyList';
export { CopyScreen } from './CopyScreen';
