// What other rooms use of this one.
export { type Brief, briefOf, NO_BRIEF } from './brief';
export {
  FIELDS,
  FieldGroup,
  FieldId,
  GROUP_WORDS,
  SOURCE_WORDS,
  Source,
  Statement,
  Trust,
  fieldOf,
  formatValue,
} from './catalogue';
export { dateOf, spanWords, suspicionOf } from './clocks';
export {
  type ContainerSays,
  type OpenedContainer,
  statementsFromContainer,
  statementsFromWave,
} from './container';
export { type Movie, readMovie } from './containers/boxes';
export { Bytes, decodeText } from './containers/bytes';
export { type FileKind, HEAD, isReadHere, kindOf, NO_KIND_KNOWN, noKind } from './containers/fileKind';
export { readMatroska } from './containers/matroska';
export { type Wave, readBext, readFormat } from './containers/wave';
export {
  believed,
  chooseFacts,
  contradicts,
  count,
  factsOf,
  matrixOf,
  proxyMatrixOf,
  isTimeOfDay,
  TIME_OF_DAY,
  type Facts,
  momentOf,
  numberIn,
  rateOf,
  startOf,
  text,
} from './facts';
export { FieldSet, FieldSetFile, SHIPPED_SETS } from './fieldSets';
export { readFlightLog, statementsFromFlightLog } from './flightLog';
export { ixmlRate, statementsFromIxml } from './ixml';
export { type Cdl, cdlCollection, cdlCube, cdlOf, readCdl, readCube, statementsFromLook } from './looks';
export { statementsFromName } from './names';
export { ProbeOutput, fileMoment, pictureStream, reelIn, statementsFromProbe } from './probe';
export {
  Clock,
  ClocksView,
  Correction,
  Sayings,
  Extracted,
  Extraction,
  FactIdsQuery,
  FactLines,
  FactLinesQuery,
  FactPage,
  FactPageQuery,
  FactSums,
  FieldSetsView,
  SideBySide,
  Stated,
  UnreadClip,
} from './shapes';
export { type FactRow, factRows, statementOf, WORKED_OUT } from './rows';
export { statementsFromSidecar } from './sidecar';
export { BY_STANDARD, IN_WORDS, TagOutput, statementsFromTags, withWords } from './tags';
export { Value } from './values';
export { type XmlNode } from './xml';
