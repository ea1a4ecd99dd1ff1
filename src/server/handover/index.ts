// What other rooms use of this one.
export { mendClips, rehearsalView } from './rehearsal';
