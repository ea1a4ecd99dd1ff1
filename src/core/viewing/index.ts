// What other rooms use of this one.
export { FILMSTRIP } from './filmstrip';
