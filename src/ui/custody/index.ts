// What other rooms use of this one.
export { Report, Wipe } from './Wipe';
