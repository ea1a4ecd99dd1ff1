// What other rooms use of this one.
export { writeLog } from './log';
