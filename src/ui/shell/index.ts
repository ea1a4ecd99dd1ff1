// What other rooms use of this one.
export { Shell, isTyping } from './Shell';
