// What other rooms use of this one.
export { CardView, ClipDetail, ClipView } from './shapes';
