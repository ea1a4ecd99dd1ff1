// What other rooms use of this one.
export {
  decode,
  only,
  pictureFit,
  pictureOf,
  posterFit,
  samplePictures,
  selected,
  SMALL_FIT,
  stripFit,
  withDecodable,
  writeFilmstrip,
} from './picked';
export { keepFilmstrip, posterOf, thirdOf } from './strips';
export {
  analysisOf,
  cached,
  keepSamples,
  keepSeen,
  keepWaveform,
  keptSamples,
  making,
  stateOf,
  waveformOf,
} from './store';
