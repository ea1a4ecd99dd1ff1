// What other rooms use of this one.
export { AddPlace } from './AddPlace';
export { Arrivals } from './Arrivals';
export { ChooseFolder } from './ChooseFolder';
export { Places } from './Places';
