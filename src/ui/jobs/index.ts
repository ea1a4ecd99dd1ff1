// What other rooms use of this one.
export { Jobs } from './Jobs';
