// What other rooms use of this one.
export { beginCheck, checkAgain, checkAnyFolder } from './checks';
export { copiesOf, distrustCopies, findCopy } from './copies';
export { isTheSystems } from './inReader';
export { type Offered, below, offered, offeredPlace } from './offered';
export {
  type KnownCard,
  type PhysicalCard,
  cardInReader,
  keepCard,
  manifestOf,
  recogniseCard,
} from './physicalCards';
export { samplesOf } from './samples';
export { receipt, safeCopyCounts, wipeView } from './wipe';
export { forgetCopies, forgetUnnamedCards, keepCardReadings, keepCopied, keepCopy, keepListed } from './keep';
