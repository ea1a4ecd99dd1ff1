// What other rooms use of this one.
export { CardScreen } from './CardScreen';
