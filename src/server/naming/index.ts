// What other rooms use of this one.
export {
  applyNaming,
  forgetPlans,
  markUndone,
  recoverPlans,
  stepsOf,
  toStep,
  undoPlan,
  undoablePlans,
} from './applyPlan';
export { nameCopied } from './nameCopied';
export { planNaming } from './naming';
