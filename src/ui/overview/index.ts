// What other rooms use of this one.
export { Wall } from './Wall';
