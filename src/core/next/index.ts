// What other rooms use of this one.
export {
  laterSteps,
  NextAnswer,
  NextPlacing,
  NextStep,
  NextSteps,
  NextView,
  NOTHING_NEXT,
  type StepOutcome,
  type StepOutcomes,
} from './next';
