// What other rooms use of this one.
export { forgetLog, writeLog } from './log';
