// What other rooms use of this one.
export { CURVE, LISTENED, loudnessCurve, type SoundOffset, soundOffset } from './soundOffset';
export { FILMSTRIP, sampledFrames, Third } from './filmstrip';
export { Finding, findingsOf, findingWords } from './findings';
export {
  ALIKE,
  areAlike,
  compare,
  type Compared,
  FROZEN,
  KeptSampled,
  packSampled,
  PictureReader,
  type Sampled,
  SMALL,
} from './pictures';
export type { Range } from './ranges';
export { Analysis, Waveform } from './shapes';
export { type Level, SAMPLES_A_SECOND, SoundReader, type SoundSeen } from './sound';
