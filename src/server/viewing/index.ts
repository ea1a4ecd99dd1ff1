// What other rooms use of this one.
export { makeFilmstrip } from './makeFilmstrip';
export { type Source, preview } from './preview';
export { waveform } from './waveform';
export { viewFrame } from './viewClip';
