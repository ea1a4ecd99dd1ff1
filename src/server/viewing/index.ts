// What other rooms use of this one.
export { filmstripPath, makeFilmstrip } from './makeFilmstrip';
export { withDecodable, writeFilmstrip } from './picture';
export { type Source, preview } from './preview';
export { viewFrame } from './viewClip';
