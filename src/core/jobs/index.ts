// What other rooms use of this one.
export { JobAction, JobSettings, JobSummary, JobView, NewJob } from './shapes';
