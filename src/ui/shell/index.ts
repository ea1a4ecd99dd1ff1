// What other rooms use of this one.
export { Shell, isTyping } from './Shell';
export { Sign } from './Sign';
export { ThemeButton } from './ThemeButton';
