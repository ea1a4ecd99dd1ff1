// What other rooms use of this one.
export { beginJob, jobView, saveSettings } from './job';
export { type Job, findJob, theJob } from './theJob';
