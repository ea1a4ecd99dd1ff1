// What other rooms use of this one.
export { AddPlace } from './AddPlace';
export { Arrivals } from './Arrivals';
export { Places } from './Places';
