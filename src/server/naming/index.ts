// What other rooms use of this one.
export { applyNaming } from './applyPlan';
export { changedClips } from './changed';
export { comingClips } from './coming';
export { conventionsView, dropConvention, importConventions, keepConvention } from './library';
export { journalPlans } from './journal';
export { loadNaming } from './load';
export { nameCopied } from './nameCopied';
export { namesAt, planNaming } from './naming';
export { forgetPlans, markUndone, rowOf, stepsOf, toStep, undoable, undoablePlans } from './planStore';
export { placeNext } from './placeNext';
export { renameList } from './renameList';
export { recoverPlans } from './recover';
export { skeleton } from './skeleton';
export { journalChanges, undoFromJournal } from './undoJournal';
export { undoPlan } from './undoPlan';
