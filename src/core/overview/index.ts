// What other rooms use of this one.
export { ServerEvent, WallView } from './shapes';
