// What other rooms use of this one.
export { Also, Rebuilt, RecordsView, RescueChoice, RescueView, Rescued } from './shapes';
