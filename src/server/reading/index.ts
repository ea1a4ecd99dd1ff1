// What other rooms use of this one.
export { type ClipOnDisk, type FileOnDisk, type ReadOptions, type Reading } from './firstPass';
export { audioStreams, FOREIGN, READER, readRest, readStatements } from './readFamily';
export { READERS, endReaders, readFirst, recogniseInThread, warmReaders } from './readPool';
export { embeddedPicture, endTagReader } from './tagReader';
