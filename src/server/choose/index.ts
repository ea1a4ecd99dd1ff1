// What other rooms use of this one.
export { changeChoice, takeChoice, takeMarks, takeSearches, undoChoice } from './change';
export { choiceSet, giveKeywords, planChoice, putInBins } from './choiceSet';
export { chooseView, chosenClip, findClips, findIds, findRanges } from './find';
export { folderLevels, followRules } from './followRules';
export { forgetChoice } from './forget';
export { keywordsOfClips } from './keywordsOfClips';
export { listen } from './listen';
export { type Group, groupsOf } from './rolling';
export { ruleKeeper } from './ruleKeeper';
export { exportSearches } from './searches';
export { stringOutDetail } from './stringOuts';
export type { RowChange } from './rows';
