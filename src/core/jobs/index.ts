// What other rooms use of this one.
export { JobSettings, JobView, NewJob } from './shapes';
