// What other rooms use of this one.
export { JustDone } from './JustDone';
export { Shell, isTyping } from './Shell';
export { Sign } from './Sign';
export { ThemeButton } from './ThemeButton';
export { type Undoable, useUndoable } from './useUndoable';
