// What other rooms use of this one.
export { CardName, CardView, ClipDetail, ClipView } from './shapes';
