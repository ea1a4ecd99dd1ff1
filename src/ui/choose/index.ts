// What other rooms use of this one.
export { Choose } from './Choose';
