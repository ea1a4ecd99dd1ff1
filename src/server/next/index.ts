// What other rooms use of this one.
export { nextKeeper } from './keeper';
export { answerNext, nextView } from './views';
export { wantNext } from './want';
