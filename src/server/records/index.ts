// What other rooms use of this one.
export { clearLeftExports, exportJob } from './exportJob';
export { adoptPlans } from './adopt';
export { beginFromCopy, copiedJobs } from './copied';
export { disagreements } from './agree';
export { findRecords, type FoundRecords } from './find';
export { rebuild } from './rebuild';
export { homeRecords } from './openFiles';
export { RecordsWriter, openLibrary } from './writer';
