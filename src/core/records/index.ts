// What other rooms use of this one.
export {
  Also,
  CopiedJobs,
  NewFromCopy,
  Rebuilt,
  RecordsView,
  RescueChoice,
  RescueView,
  Rescued,
} from './shapes';
