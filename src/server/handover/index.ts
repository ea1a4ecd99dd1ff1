// What other rooms use of this one.
export {
  dropEdit,
  editEvents,
  editNames,
  editView,
  forgetEdits,
  makeAlike,
  setEditRate,
  takeEdit,
} from './edits';
export { correctedEdit, stringOutEdit, type TimelineFile, type TimelineFormat } from './export';
export { listView, takeList } from './listsIn';
export { mendClips, rehearsalView } from './rehearsal';
export { checkPackage } from './packages/check';
export { dropForm, formsView, importForms, keepForm } from './packages/forms';
export { clearLeftImages } from './packages/makeRun';
export { makeForPackage, planView } from './packages/plan';
export { handingOver } from './packages/run';
export { actOnPackage, dropPackage, queuePackages, sendPackage } from './packages/send';
export { forgetPackages, packageNames, packageView } from './packages/views';
export { endReports, makeReport } from './reports/make';
