// What other rooms use of this one.
export { Intake } from './Intake';
