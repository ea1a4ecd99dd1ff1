// What other rooms use of this one.
export { HandOver } from './HandOver';
