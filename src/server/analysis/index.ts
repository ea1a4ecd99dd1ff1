// What other rooms use of this one.
export {
  decode,
  only,
  pictureOf,
  samplePictures,
  selected,
  SMALL_FIT,
  SQUARE,
  STRIP_FIT,
  withDecodable,
  writeFilmstrip,
} from './picked';
export { analysisOf, cached, keepSamples, keepSeen, keptSamples, making, stateOf, waveformOf } from './store';
