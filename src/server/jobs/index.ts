// What other rooms use of this one.
export { jobView, saveSettings } from './job';
export { anyJob, beginJob, jobByCode, jobList, putAway, underWay } from './jobs';
export { forgetJob, type Job, keepIntake, keepRate, requireJob } from './requireJob';
