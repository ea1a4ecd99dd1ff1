// What other rooms use of this one.
export { Rescue } from './Rescue';
export { JournalNames } from './JournalNames';
