// What other rooms use of this one.
export { Logbook } from './Logbook';
