// What other rooms use of this one.
export { dropEdit, editEvents, editNames, editView, forgetEdits, setEditRate, takeEdit } from './edits';
export { correctedEdit, stringOutEdit, type TimelineFile, type TimelineFormat } from './export';
export { mendClips, rehearsalView } from './rehearsal';
