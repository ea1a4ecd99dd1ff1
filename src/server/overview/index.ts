// What other rooms use of this one.
export { clipDetail } from './clipDetail';
export { logView, planDetail } from './logbook';
export { cardDetail, wallView } from './wall';
