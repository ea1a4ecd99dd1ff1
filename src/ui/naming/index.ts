// What other rooms use of this one.
export { NamingBench } from './NamingBench';
