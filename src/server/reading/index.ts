// What other rooms use of this one.
export { type ClipOnDisk, type FileOnDisk, type ReadOptions, type Reading } from './firstPass';
export { READER, readRest, readStatements } from './readFamily';
export { READERS, endReaders, readFirst, recogniseInThread, warmReaders } from './readPool';
export { endTagReader } from './tagReader';
