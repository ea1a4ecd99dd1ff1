// What other rooms use of this one.
export { applyNaming, markUndone, recoverPlans, stepsOf, toStep, undoPlan, undoablePlans } from './applyPlan';
export { nameCopied } from './nameCopied';
export { planNaming } from './naming';
