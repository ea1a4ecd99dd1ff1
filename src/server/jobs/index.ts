// What other rooms use of this one.
export { jobView, saveSettings } from './job';
export { anyJob, beginJob, jobByCode, jobList, putAway, removeJob } from './jobs';
export { type Job, theJob } from './theJob';
